import { Rig } from './rig';
import { add, curve, mix, scale, Sculpt, smooth, unit, type V3, type Weights } from './shape';

import {
  C,
  SIDES,
  PANELS,
  CRESTS,
  plumePath,
  crestPath,
  lappetPath,
  strapPath,
  ponchoPoint,
  near,
  along,
  bodyField,
} from './brindle';

export interface NamedMesh {
  name: string;
  sculpt: Sculpt;
  thin: boolean;
}

export function brindleMeshes(rig: Rig): NamedMesh[] {
  const out: NamedMesh[] = [];
  const mesh = (name: string, make: (s: Sculpt) => void, thin = false) => {
    const sculpt = new Sculpt();
    make(sculpt);
    out.push({ name, sculpt, thin });
  };
  const only = (name: string) => (): Weights => [[rig.index(name), 1]];
  const indices = (name: string, n: number) =>
    Array.from({ length: n }, (_, i) => rig.index(`${name} ${i + 1}`));

  mesh('body', (s) => {
    const trunk = near(
      rig,
      [
        ['hips', 'spine'],
        ['spine', 'chest'],
        ['chest', 'neck'],
        ['neck', 'head'],
        ['head', 'crest front 1'],
        ['belly', 'belly'],
      ],
      4,
    );
    // From the middle outward along each direction to the last crossing of the field.
    const centre: V3 = [0, 0.62, 0.04];
    s.grid(46, 52, true, (v, u) => {
      const polar = Math.PI * (0.0005 + 0.999 * v);
      const d: V3 = [
        Math.sin(polar) * Math.sin(2 * Math.PI * u),
        Math.cos(polar),
        Math.sin(polar) * Math.cos(2 * Math.PI * u),
      ];
      let lo = 0;
      let hi = 0.6;
      for (let r = 0.6; r > 0.02; r -= 0.01) {
        if (bodyField(add(centre, scale(d, r))) < 0) {
          lo = r;
          hi = r + 0.01;
          break;
        }
      }
      for (let k = 0; k < 20; k++) {
        const m = (lo + hi) / 2;
        if (bodyField(add(centre, scale(d, m))) < 0) lo = m;
        else hi = m;
      }
      const p = add(centre, scale(d, lo));
      const face = smooth((p[2] - 0.1) / 0.1) * smooth((p[1] - 0.74) / 0.05);
      const bib = smooth((p[2] - 0.05) / 0.12) * (1 - smooth((p[1] - 0.6) / 0.12));
      const back = smooth((0.02 - p[2]) / 0.15);
      return {
        p,
        colour: mix(mix(mix(C.buff, C.brown, back * 0.75), C.cream, bib), C.cream, face * 0.8),
        weights: trunk(p),
      };
    });
    for (const [side, x] of SIDES) {
      // Legs: a feathered thigh, a thin shin, three toes and one behind.
      const hip = rig.at(`thigh ${side}`),
        knee = rig.at(`shin ${side}`),
        ankle = rig.at(`foot ${side}`);
      const leg = curve(
        [
          add(hip, [0, 0.02, 0]),
          mix(hip, knee, 0.5),
          knee,
          mix(knee, ankle, 0.5),
          ankle,
          add(ankle, [0, -0.028, 0.004]),
        ],
        20,
      );
      s.tube(
        leg,
        [1, 0, 0],
        (t) =>
          t < 0.4
            ? [0.075 - 0.1 * t, 0.08 - 0.11 * t]
            : [Math.max(0.014, 0.035 - 0.11 * (t - 0.4)), Math.max(0.014, 0.036 - 0.11 * (t - 0.4))],
        12,
        (t) => (t < 0.42 ? C.buff : C.leg),
        (t) => {
          const k = smooth((t - 0.36) / 0.08),
            f = smooth((t - 0.76) / 0.06);
          return [
            [rig.index(`thigh ${side}`), 1 - k],
            [rig.index(`shin ${side}`), k * (1 - f)],
            [rig.index(`foot ${side}`), f],
          ];
        },
      );
      for (const [angle, reach] of [
        [-0.5, 0.1],
        [0, 0.12],
        [0.5, 0.1],
        [Math.PI, 0.06],
      ] as const) {
        const tip = add(ankle, [Math.sin(angle) * reach, -0.042, Math.cos(angle) * reach]);
        const toe = rig.index(`toes ${side}`),
          foot = rig.index(`foot ${side}`);
        s.tube(
          curve([add(ankle, [0, -0.022, 0]), add(mix(ankle, tip, 0.5), [0, -0.012, 0]), tip], 8),
          [0, 1, 0],
          (t) => [
            0.013 * (1 - 0.75 * t * t) + (t > 0.95 ? -0.008 : 0),
            0.015 * (1 - 0.7 * t * t) + (t > 0.95 ? -0.008 : 0),
          ],
          8,
          (t) => (t > 0.85 ? C.dark : C.leg),
          (t) =>
            angle === Math.PI
              ? [[foot, 1]]
              : [
                  [foot, 1 - smooth((t - 0.3) / 0.3)],
                  [toe, smooth((t - 0.3) / 0.3)],
                ],
        );
      }
      const wing = rig.at(`wing ${side}`),
        tip = rig.at(`wing tip ${side}`);
      const end = add(tip, [0.01 * x, -0.09, -0.13]);
      s.tube(
        curve([add(wing, [-0.02 * x, 0.03, 0.03]), wing, tip, end], 16),
        [0, 0.4, 1],
        (t) => [
          0.09 * Math.sin(Math.PI * (0.15 + 0.83 * t)) + 0.004,
          0.024 * Math.sin(Math.PI * (0.1 + 0.88 * t)) + 0.003,
        ],
        12,
        (t) => mix(C.brown, C.dark, smooth((t - 0.6) / 0.4) * 0.6),
        (t) => {
          const k = smooth((t - 0.45) / 0.2);
          return [
            [rig.index(`wing ${side}`), 1 - k],
            [rig.index(`wing tip ${side}`), k],
          ];
        },
      );
      // Eyes, with a light in them.
      s.ball([0.105 * x, 0.875, 0.185], [0.026, 0.03, 0.026], 10, 12, () => C.dark, only('head'));
      s.ball([0.115 * x, 0.886, 0.204], [0.008, 0.009, 0.008], 6, 8, () => C.white, only('head'));
    }
    s.tube(
      curve(
        [
          [0, 0.85, 0.21],
          [0, 0.853, 0.27],
          [0, 0.83, 0.335],
        ],
        10,
      ),
      [1, 0, 0],
      (t) => [0.042 * (1 - t) ** 0.8 + 0.002, 0.03 * (1 - t) ** 0.8 + 0.002],
      12,
      () => C.beak,
      only('head'),
    );
    s.tube(
      curve(
        [
          [0, 0.825, 0.21],
          [0, 0.815, 0.25],
          [0, 0.81, 0.295],
        ],
        8,
      ),
      [1, 0, 0],
      (t) => [0.034 * (1 - t) ** 0.8 + 0.002, 0.016 * (1 - t) ** 0.8 + 0.002],
      10,
      () => mix(C.beak, C.dark, 0.18),
      only('beak lower'),
    );
  });

  mesh('plumes', (s) => {
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
        along(indices(name, 7)),
      );
    }
  });
  mesh('crest', (s) => {
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
        along(indices(name, 4)),
      );
    }
  });
  mesh('lappets', (s) => {
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
        along(indices(`lappet ${side}`, 4)),
      );
    }
  });
  mesh(
    'poncho',
    (s) => {
      const chest = rig.index('chest');
      s.grid(14, 60, true, (v, u) => {
        const at = u * PANELS;
        const a = Math.floor(at) % PANELS;
        const b = (a + 1) % PANELS;
        const k = smooth(at - Math.floor(at));
        const loose = smooth((v - 0.3) / 0.3),
          low = smooth((v - 0.6) / 0.25);
        const weights: [number, number][] = [[chest, 1 - loose]];
        for (const [panel, w] of [
          [a, 1 - k],
          [b, k],
        ] as const) {
          weights.push(
            [rig.index(`poncho ${panel + 1} 1`), loose * w * (1 - low)],
            [rig.index(`poncho ${panel + 1} 2`), loose * w * low],
          );
        }
        const stripe = v > 0.86 || (v > 0.7 && v < 0.76);
        return { p: ponchoPoint(u, v), colour: stripe ? C.trim : C.felt, weights };
      });
    },
    true,
  );
  mesh(
    'fringe scalp',
    (s) => {
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
    },
    true,
  );
  mesh('wattle', (s) => {
    const w = along(indices('wattle', 2));
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
  });
  mesh('mailbag', (s) => {
    const strap = strapPath(12);
    const chest = rig.index('chest');
    const rows = [...indices('strap', 3), rig.index('mailbag')];
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
  });
  mesh('bell', (s) => {
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
    s.ball(add(at, [0, -0.042, 0]), [0.009, 0.009, 0.009], 6, 8, () => C.dark, only('bell'));
  });
  return out;
}
