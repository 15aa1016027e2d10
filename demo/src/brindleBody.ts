import { add, curve, mix, scale, smooth, type Sculpt, type V3, type Weights } from './shape';
import { bodyField, C, near, SIDES } from './brindle';
import type { Rig } from './rig';

/** The weights of what follows one joint. */
export const only = (rig: Rig, name: string) => (): Weights => [[rig.index(name), 1]];
/** The joints of a row. */
export const indices = (rig: Rig, name: string, n: number): number[] =>
  Array.from({ length: n }, (_, i) => rig.index(`${name} ${i + 1}`));

/** Brindle's body: trunk and head, legs, wings, eyes and beak. */
export function sculptBody(s: Sculpt, rig: Rig): void {
  sculptTrunk(s, rig);
  for (const [side, x] of SIDES) {
    sculptLeg(s, rig, side);
    sculptToes(s, rig, side);
    sculptWing(s, rig, side, x);
    sculptEye(s, rig, x);
  }
  sculptBeak(s, rig);
}

function sculptTrunk(s: Sculpt, rig: Rig): void {
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
}

/** A feathered thigh and a thin shin. */
function sculptLeg(s: Sculpt, rig: Rig, side: string): void {
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
}

/** Three toes and one behind. */
function sculptToes(s: Sculpt, rig: Rig, side: string): void {
  const ankle = rig.at(`foot ${side}`);
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
}

function sculptWing(s: Sculpt, rig: Rig, side: string, x: number): void {
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
}

/** An eye, with a light in it. */
function sculptEye(s: Sculpt, rig: Rig, x: number): void {
  s.ball([0.105 * x, 0.875, 0.185], [0.026, 0.03, 0.026], 10, 12, () => C.dark, only(rig, 'head'));
  s.ball([0.115 * x, 0.886, 0.204], [0.008, 0.009, 0.008], 6, 8, () => C.white, only(rig, 'head'));
}

function sculptBeak(s: Sculpt, rig: Rig): void {
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
    only(rig, 'head'),
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
    only(rig, 'beak lower'),
  );
}
