import { sculptPoncho } from './poncho';
import type { Rig } from './rig';
import { indices, only, sculptBody } from './brindleBody';
import { add, curve, mix, Sculpt, smooth, unit, type V3 } from './shape';
import { along, C, CRESTS, crestPath, lappetPath, near, plumePath, SIDES, strapPath } from './brindle';

export interface NamedMesh {
  name: string;
  sculpt: Sculpt;
  thin: boolean;
  /** Its indices are pairs: lines. */
  lines?: boolean;
}

export function brindleMeshes(rig: Rig): NamedMesh[] {
  const mesh = (name: string, make: (s: Sculpt, rig: Rig) => void, thin = false): NamedMesh => {
    const sculpt = new Sculpt();
    make(sculpt, rig);
    return { name, sculpt, thin };
  };
  return [
    mesh('body', sculptBody),
    mesh('plumes', sculptPlumes),
    mesh('crest', sculptCrest),
    mesh('lappets', sculptLappets),
    mesh('poncho', sculptPoncho, true),
    mesh('fringe scalp', sculptFringeScalp, true),
    mesh('wattle', sculptWattle),
    mesh('mailbag', sculptMailbag),
    mesh('bell', sculptBell),
  ];
}

function sculptPlumes(s: Sculpt, rig: Rig): void {
  for (const [name, lean, rise, reach] of [
    ['plume middle', 0, 0.3, 0.92],
    ['plume left', 0.3, 0.16, 0.72],
    ['plume right', -0.3, 0.16, 0.72],
  ] as const) {
    const broad = lean === 0 ? 0.078 : 0.06;
    s.tube(
      plumePath(lean, rise, reach, 28),
      [1, 0, 0],
      (t) => [
        0.016 + broad * Math.sin(Math.PI * Math.min(1, 0.04 + t ** 1.25 * 0.93)) ** 1.1,
        0.012 * (1 - t) + 0.004,
      ],
      10,
      (t) =>
        t > 0.78
          ? mix(C.plume, C.plumeTip, smooth((t - 0.78) / 0.06))
          : mix(C.dark, C.plume, smooth(t / 0.25)),
      along(indices(rig, name, 7)),
    );
  }
}

function sculptCrest(s: Sculpt, rig: Rig): void {
  for (const [name, lean, reach, back] of CRESTS) {
    s.tube(
      crestPath(lean, reach, back, 16),
      unit([1, 0, 0.25]),
      (t) => [
        0.008 + 0.024 * Math.sin(Math.PI * Math.min(1, 0.05 + t ** 1.5 * 0.92)),
        0.009 * (1 - t) + 0.004,
      ],
      9,
      (t) => mix(C.crest, C.plumeTip, smooth((t - 0.72) / 0.12)),
      along(indices(rig, name, 4)),
    );
  }
}

function sculptLappets(s: Sculpt, rig: Rig): void {
  for (const [side, x] of SIDES) {
    s.tube(
      lappetPath(x, 18),
      [0, 0, 1],
      (t) =>
        t < 0.68
          ? [0.03 - 0.012 * t, 0.011]
          : [
              0.014 + 0.03 * Math.sin(Math.PI * ((t - 0.68) / 0.34)) ** 0.8,
              0.014 + 0.024 * Math.sin(Math.PI * ((t - 0.68) / 0.34)) ** 0.8,
            ],
      10,
      (t) => (t < 0.68 ? C.lappet : C.tassel),
      along(indices(rig, `lappet ${side}`, 4)),
    );
  }
}

function sculptFringeScalp(s: Sculpt, rig: Rig): void {
  // A ring of down round the neck, without joints of its own: it follows neck and head.
  const ring = near(
    rig,
    [
      ['chest', 'neck'],
      ['neck', 'head'],
    ],
    4,
  );
  s.grid(5, 72, true, (v, u) => {
    const angle = 2 * Math.PI * u;
    const tuft = v > 0.7 ? 0.018 * Math.abs(Math.sin(12 * angle)) : 0;
    const r = 0.113 + 0.052 * Math.sin(v * 2.2);
    const p: V3 = [r * Math.sin(angle), 0.772 - 0.075 * v - tuft, 0.083 + r * 0.98 * Math.cos(angle)];
    return { p, colour: mix(C.fringe, C.cream, v), weights: ring(p) };
  });
}

function sculptWattle(s: Sculpt, rig: Rig): void {
  const w = along(indices(rig, 'wattle', 2));
  s.tube(
    curve(
      [
        [0, 0.805, 0.218],
        [0, 0.77, 0.228],
        [0, 0.72, 0.226],
        [0, 0.692, 0.222],
      ],
      14,
    ),
    [1, 0, 0],
    (t) => [
      0.008 + 0.024 * Math.sin(Math.PI * Math.min(1, 0.1 + 0.88 * t ** 1.4)),
      0.007 + 0.017 * Math.sin(Math.PI * Math.min(1, 0.1 + 0.88 * t ** 1.4)),
    ],
    12,
    () => C.wattle,
    w,
  );
}

function sculptMailbag(s: Sculpt, rig: Rig): void {
  const strap = strapPath(12);
  const chest = rig.index('chest');
  const rows = [...indices(rig, 'strap', 3), rig.index('mailbag')];
  // Over the left shoulder, under the poncho's edge, down to the bag.
  const over = curve([[0.13, 0.745, 0.06], [0.0, 0.7, 0.235], [-0.13, 0.64, 0.225], strap[0]!], 20);
  s.tube(
    over,
    [0, 0.6, 0.8],
    () => [0.016, 0.008],
    8,
    () => C.flap,
    () => [[chest, 1]],
  );
  s.tube(
    strap,
    [0, 0, 1],
    () => [0.016, 0.006],
    8,
    () => C.flap,
    along(rows),
  );
  const c = add(strap.at(-1)!, [0, -0.055, 0]);
  s.grid(12, 28, true, (v, u) => {
    const angle = 2 * Math.PI * u;
    const y = 0.065 - 0.15 * v;
    const round = Math.sin(Math.PI * Math.min(1, Math.max(0.02, 0.12 + 0.86 * v))) ** 0.35;
    const square = (t: number) => Math.sign(t) * Math.abs(t) ** 0.55;
    return {
      p: add(c, [0.038 * round * square(Math.sin(angle)), y, 0.088 * round * square(Math.cos(angle))]),
      colour: v < 0.42 ? C.flap : C.leather,
      weights: [[rig.index('mailbag'), 1]],
    };
  });
}

function sculptBell(s: Sculpt, rig: Rig): void {
  const at = rig.at('bell');
  s.grid(10, 18, true, (v, u) => {
    const angle = 2 * Math.PI * u;
    const r =
      v < 0.7
        ? 0.004 + 0.022 * Math.sin((v / 0.7) * Math.PI * 0.42) ** 0.8
        : 0.025 + 0.014 * ((v - 0.7) / 0.3) ** 1.5;
    return {
      p: add(at, [r * Math.sin(angle), 0.012 - 0.052 * v, r * Math.cos(angle)]),
      colour: v > 0.9 ? mix(C.brass, C.dark, 0.25) : C.brass,
      weights: [[rig.index('bell'), 1]],
    };
  });
  s.ball(add(at, [0, -0.042, 0]), [0.009, 0.009, 0.009], 6, 8, () => C.dark, only(rig, 'bell'));
}
