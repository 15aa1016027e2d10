import type { NamedMesh } from './brindleMeshes';
import type { DemoClip } from './clips';
import { toGlb } from './glb';
import { euler, Rig } from './rig';
import { curve, ink, mix, Sculpt, smooth, type V3, type Weights } from './shape';

/** The pack goat of the lower passes: a rig that no shot is made for yet, as a newcomer meets one. */
function goatRig(): Rig {
  const rig = new Rig();
  rig.joint('root', null, [0, 0, 0]);
  rig.joint('hips', 'root', [0, 0.62, -0.28]);
  rig.joint('spine', 'hips', [0, 0.66, 0]);
  rig.joint('chest', 'spine', [0, 0.66, 0.24]);
  rig.joint('neck', 'chest', [0, 0.78, 0.34]);
  rig.joint('head', 'neck', [0, 1, 0.44]);
  for (const [side, x] of [
    ['left', 0.1],
    ['right', -0.1],
  ] as const) {
    rig.row(
      `leg front ${side}`,
      'chest',
      [0.52, 0.28, 0.04].map((y): V3 => [x, y, 0.24]),
    );
    rig.row(
      `leg back ${side}`,
      'hips',
      [0.5, 0.28, 0.04].map((y): V3 => [x, y, -0.28]),
    );
    rig.row(
      `ear ${side}`,
      'head',
      [0, 1, 2].map((i): V3 => [x * (0.7 + 0.8 * i), 1.08 - 0.05 * i, 0.42]),
    );
  }
  rig.row(
    'beard',
    'head',
    [0, 1, 2].map((i): V3 => [0, 0.93 - 0.07 * i, 0.58]),
  );
  rig.row(
    'tail',
    'hips',
    [0, 1, 2, 3].map((i): V3 => [0, 0.68 - 0.04 * i, -0.42 - 0.06 * i]),
  );
  rig.row(
    'bell strap',
    'neck',
    [0, 1, 2].map((i): V3 => [0, 0.7 - 0.07 * i, 0.46 + 0.01 * i]),
  );
  return rig;
}

const COLOURS = { wool: ink('#b9ab97'), dark: ink('#4a4038'), brass: ink('#d8a43c'), hide: ink('#8a6a48') };

/** Weights along a row of joints: each place between two of them. */
const along =
  (rows: readonly number[]) =>
  (t: number): Weights => {
    const x = Math.max(0, Math.min(rows.length - 1.001, t * (rows.length - 1)));
    const i = Math.floor(x);
    if (rows[i] === rows[i + 1]) return [[rows[i]!, 1]];
    return [
      [rows[i]!, 1 - smooth(x - i)],
      [rows[i + 1]!, smooth(x - i)],
    ];
  };

function goatMeshes(rig: Rig): NamedMesh[] {
  const { wool, dark, brass, hide } = COLOURS;
  const body = new Sculpt();
  const trunk = ['hips', 'spine', 'chest'].map((n) => rig.index(n));
  body.ball(
    [0, 0.63, -0.02],
    [0.19, 0.2, 0.42],
    14,
    22,
    () => wool,
    (p) => along(trunk)((p[2] + 0.44) / 0.84),
  );
  const throat = ['chest', 'neck', 'head'].map((n) => rig.index(n));
  const up: V3[] = [
    [0, 0.68, 0.26],
    [0, 0.82, 0.36],
    [0, 1, 0.44],
  ];
  body.tube(
    curve(up, 12),
    [1, 0, 0],
    (t) => [0.12 - 0.05 * t, 0.12 - 0.05 * t],
    14,
    () => wool,
    along(throat),
  );
  body.ball(
    [0, 1.01, 0.5],
    [0.075, 0.08, 0.14],
    10,
    16,
    (d) => mix(wool, dark, d[2] > 0.6 ? 0.6 : 0),
    () => [[rig.index('head'), 1]],
  );
  const row = (s: Sculpt, name: string, n: number, radius: number, tip: number, colour: V3) => {
    const joints = Array.from({ length: n }, (_, i) => rig.index(`${name} ${i + 1}`));
    const at = joints.map((_, i) => rig.at(`${name} ${i + 1}`));
    const last = at[n - 1]!;
    const before = at[n - 2]!;
    const end = last.map((x, k) => 2 * x - before[k]!) as unknown as V3;
    s.tube(
      curve([...at, end], 6 * n),
      [1, 0, 0.01],
      (t) => [radius + (tip - radius) * t, radius + (tip - radius) * t],
      10,
      () => colour,
      along([...joints, joints[n - 1]!]),
    );
  };
  for (const side of ['left', 'right'])
    for (const end of ['front', 'back']) row(body, `leg ${end} ${side}`, 3, 0.055, 0.03, dark);
  const loose = new Sculpt();
  for (const side of ['left', 'right']) row(loose, `ear ${side}`, 3, 0.028, 0.012, wool);
  row(loose, 'beard', 3, 0.03, 0.006, dark);
  row(loose, 'tail', 4, 0.03, 0.02, wool);
  row(loose, 'bell strap', 3, 0.012, 0.014, hide);
  loose.ball(
    [0, 0.5, 0.49],
    [0.035, 0.045, 0.035],
    8,
    12,
    () => brass,
    () => [[rig.index('bell strap 3'), 1]],
  );
  return [
    { name: 'goat', sculpt: body, thin: false },
    { name: 'loose', sculpt: loose, thin: false },
  ];
}

/** A pack goat that looks up, nods twice and turns about, with stops. */
export async function goatGlb(): Promise<Uint8Array<ArrayBuffer>> {
  const rig = goatRig();
  const step = (f: number, from: number, over: number) => smooth((f - from) / over);
  const clip: DemoClip = {
    name: 'Look about',
    loops: false,
    keys: Array.from({ length: 97 }, (_, f) => ({
      turns: {
        head: euler(
          40 * step(f, 6, 6) - 70 * step(f, 30, 8) + 30 * step(f, 70, 8),
          14 * Math.sin(f / 5) * step(f, 40, 8),
        ),
        hips: euler(8 * Math.sin(f / 9)),
      },
      root: [0, 0, 0] as V3,
      hips: [0, 0.02 * Math.sin(f / 4), 0] as V3,
    })),
  };
  return toGlb('Pack goat', rig, goatMeshes(rig), [clip]);
}
