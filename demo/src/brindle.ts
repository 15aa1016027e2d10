import { Rig } from './rig';
import { add, curve, ink, length, smooth, toSegment, type V3, type Weights } from './shape';

/** Brindle, the courier of the Mountain Post, in metres, facing +z. */
export const C = {
  buff: ink('#e6d3ae'),
  cream: ink('#f4ead2'),
  brown: ink('#a98657'),
  dark: ink('#2b2d40'),
  beak: ink('#d99a3d'),
  leg: ink('#c98a3a'),
  felt: ink('#7fa39a'),
  trim: ink('#c65f4a'),
  plume: ink('#2f7f78'),
  plumeTip: ink('#e0b45a'),
  crest: ink('#c65f4a'),
  lappet: ink('#8a6a9a'),
  tassel: ink('#e0b45a'),
  fringe: ink('#fbf5e6'),
  wattle: ink('#cf5a4e'),
  leather: ink('#9c6b3f'),
  flap: ink('#7d5230'),
  brass: ink('#d8a93a'),
  white: ink('#ffffff'),
};

export const SIDES = [
  ['left', 1],
  ['right', -1],
] as const;

export function brindleRig(): Rig {
  const rig = new Rig();
  rig.joint('root', null, [0, 0, 0]);
  rig.joint('hips', 'root', [0, 0.42, -0.03]);
  rig.joint('spine', 'hips', [0, 0.5, -0.03]);
  rig.joint('chest', 'spine', [0, 0.6, 0.02]);
  rig.joint('neck', 'chest', [0, 0.73, 0.07]);
  rig.joint('head', 'neck', [0, 0.82, 0.1]);
  rig.joint('beak lower', 'head', [0, 0.83, 0.22]);
  rig.joint('belly', 'spine', [0, 0.4, 0.1]);
  rig.row('wattle', 'head', [
    [0, 0.785, 0.225],
    [0, 0.735, 0.225],
  ]);
  for (const [side, x] of SIDES) {
    rig.joint(`thigh ${side}`, 'hips', [0.105 * x, 0.36, -0.02]);
    rig.joint(`shin ${side}`, `thigh ${side}`, [0.105 * x, 0.215, 0.0]);
    rig.joint(`foot ${side}`, `shin ${side}`, [0.105 * x, 0.05, -0.03]);
    rig.joint(`toes ${side}`, `foot ${side}`, [0.105 * x, 0.018, 0.05]);
    rig.joint(`wing ${side}`, 'chest', [0.2 * x, 0.64, -0.02]);
    rig.joint(`wing tip ${side}`, `wing ${side}`, [0.25 * x, 0.5, -0.14]);
  }
  for (const [name, lean, rise, reach] of [
    ['plume middle', 0, 0.3, 0.92],
    ['plume left', 0.3, 0.16, 0.72],
    ['plume right', -0.3, 0.16, 0.72],
  ] as const) {
    rig.row(name, 'hips', plumePath(lean, rise, reach, 7).slice(0, 7));
  }
  for (const [name, lean, reach, back] of CRESTS)
    rig.row(name, 'head', crestPath(lean, reach, back, 4).slice(0, 4));
  for (const [side, x] of SIDES) rig.row(`lappet ${side}`, 'head', lappetPath(x, 4).slice(0, 4));
  const strap = strapPath(3);
  rig.row('strap', 'chest', strap.slice(0, 3));
  rig.joint('mailbag', 'strap 3', strap[3]!);
  rig.joint('bell', 'mailbag', add(strap[3]!, [0, -0.16, 0]));
  for (let p = 0; p < PANELS; p++) {
    rig.row(`poncho ${p + 1}`, 'chest', [ponchoPoint(p / PANELS, 0.42), ponchoPoint(p / PANELS, 0.72)]);
  }
  return rig;
}

export const PANELS = 6;
export const CRESTS = [
  ['crest front', 0, 0.25, 0.05],
  ['crest left', 0.35, 0.23, 0.14],
  ['crest right', -0.35, 0.23, 0.14],
] as const;

export function plumePath(lean: number, rise: number, reach: number, n: number): V3[] {
  const x = lean * 0.12;
  return curve(
    [
      [x, 0.47, -0.24],
      [x + lean * 0.3 * reach, 0.52 + rise * 0.5, -0.24 - reach * 0.33],
      [x + lean * 0.6 * reach, 0.5 + rise * 0.62, -0.24 - reach * 0.7],
      [x + lean * 0.8 * reach, 0.4 + rise * 0.35, -0.24 - reach],
    ],
    n,
  );
}

export function crestPath(lean: number, reach: number, back: number, n: number): V3[] {
  const root: V3 = [lean * 0.08, 0.965 - Math.abs(lean) * 0.03, 0.07 - Math.abs(lean) * 0.08];
  return curve(
    [
      root,
      add(root, [lean * 0.22 * reach, reach * 0.55, -back * 0.25]),
      add(root, [lean * 0.5 * reach, reach * 0.88, -back * 1.1]),
      add(root, [lean * 0.75 * reach, reach * 0.92, -back * 2.1]),
    ],
    n,
  );
}

export function lappetPath(x: number, n: number): V3[] {
  return curve(
    [
      [0.128 * x, 0.865, 0.07],
      [0.165 * x, 0.84, 0.065],
      [0.185 * x, 0.75, 0.06],
      [0.185 * x, 0.63, 0.06],
    ],
    n,
  );
}

export function strapPath(n: number): V3[] {
  return curve(
    [
      [-0.235, 0.565, 0.07],
      [-0.275, 0.5, 0.08],
      [-0.285, 0.43, 0.08],
      [-0.285, 0.37, 0.08],
    ],
    n,
  );
}

/** The poncho's surface: u once around from the front, v from the neck (0) to the hem (1). */
export function ponchoPoint(u: number, v: number): V3 {
  const angle = 2 * Math.PI * u;
  const front = Math.cos(angle);
  const hang = 0.235 + 0.05 * Math.abs(front) ** 3 + 0.012 * Math.cos(PANELS * angle);
  const wide =
    0.118 +
    0.185 * Math.sin(Math.min(1, v * 1.05) * Math.PI * 0.5) +
    0.008 * v * Math.cos(2 * PANELS * angle);
  const deep = 0.118 + (0.15 + 0.035 * front) * Math.sin(Math.min(1, v * 1.05) * Math.PI * 0.5);
  const y = 0.742 - v * hang - 0.1 * v * v * 0.3;
  return [wide * Math.sin(angle), y, 0.065 - 0.055 * v + deep * front];
}

/** Blends of a few joints by nearness to the bones between them. */
export function near(
  rig: Rig,
  bones: readonly (readonly [string, string])[],
  sharp: number,
): (p: V3) => Weights {
  return (p) =>
    bones.map(([a, b]) => [rig.index(a), 1 / (toSegment(p, rig.at(a), rig.at(b)) + 0.02) ** sharp] as const);
}

/** Weights along a row of joints: joint i rules from its own place, with soft seams. */
export function along(indices: readonly number[]): (t: number) => Weights {
  const n = indices.length;
  return (t) => {
    const x = t * n - 0.5;
    const i = Math.max(0, Math.min(n - 1, Math.floor(x)));
    const next = Math.min(n - 1, i + 1);
    const k = smooth(Math.min(1, Math.max(0, x - i)));
    return i === next
      ? [[indices[i]!, 1]]
      : [
          [indices[i]!, 1 - k],
          [indices[next]!, k],
        ];
  };
}

/** Negative inside the body: ellipsoids joined with a soft seam. */
export function bodyField(p: V3): number {
  const parts: [V3, V3][] = [
    [
      [0, 0.5, -0.01],
      [0.235, 0.225, 0.26],
    ],
    [
      [0, 0.43, 0.05],
      [0.2, 0.18, 0.2],
    ],
    [
      [0, 0.66, 0.05],
      [0.165, 0.17, 0.17],
    ],
    [
      [0, 0.85, 0.1],
      [0.142, 0.135, 0.148],
    ],
    [
      [0, 0.47, -0.22],
      [0.1, 0.085, 0.12],
    ],
  ];
  const k = 0.026;
  let sum = 0;
  for (const [c, r] of parts) {
    const q: V3 = [(p[0] - c[0]) / r[0], (p[1] - c[1]) / r[1], (p[2] - c[2]) / r[2]];
    const d = (length(q) - 1) * Math.min(...r);
    sum += Math.exp(-d / k);
  }
  return -k * Math.log(sum);
}
