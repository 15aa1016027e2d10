import { bendLeg, euler, inverse, NO_TURN, rotate, times, type Quat, type Rig } from './rig';
import { add, smooth, sub, type V3 } from './shape';

export const FPS = 30;

/** One frame of a clip: turns by joint name, where root and hips stand, and where other joints stand in the root. */
interface Key {
  turns: Record<string, Quat>;
  moves?: Record<string, V3>;
  root: V3;
  hips: V3;
}

export interface DemoClip {
  name: string;
  /** First and last key are the same. */
  loops: boolean;
  keys: Key[];
}

const SIDES = ['left', 'right'] as const;
/** Metres a stride (two steps) covers, and its frames. */
const STRIDE = 0.42;
const STRIDE_FRAMES = 30;

/**
 * Puts the feet at places in root space, flat on the ground or tipped by `pitch` degrees, under hips that lean and bob.
 */
function stand(rig: Rig, key: Key, feet: Record<(typeof SIDES)[number], { at: V3; pitch: number }>): void {
  const lean = key.turns.hips ?? NO_TURN;
  const hips = key.hips;
  for (const side of SIDES) {
    const { at, pitch } = feet[side];
    const flat = euler(0, pitch);
    // The ankle joint stands above the sole's place.
    const ankle = add(at, rotate(flat, [0, rig.at(`foot ${side}`)[1], 0]));
    const local = rotate(inverse(lean), sub(ankle, hips));
    const rest = (name: string) => sub(rig.at(name), rig.at('hips'));
    const leg = bendLeg(rest(`thigh ${side}`), rest(`shin ${side}`), rest(`foot ${side}`), local);
    key.turns[`thigh ${side}`] = leg.hip;
    key.turns[`shin ${side}`] = leg.knee;
    key.turns[`foot ${side}`] = times(inverse(times(lean, times(leg.hip, leg.knee))), flat);
    key.turns[`toes ${side}`] = euler(0, pitch > 0 ? -pitch * 0.6 : 0);
  }
}

/** A walk at phase 0..1 (periodic), feet relative to a body that would be at `travelled` metres. */
function stride(
  rig: Rig,
  phase: number,
): {
  key: Key;
  feet: Record<(typeof SIDES)[number], { z: number; y: number; pitch: number; planted: boolean }>;
} {
  const w = 2 * Math.PI * phase;
  const key: Key = {
    turns: {},
    root: [0, 0, 0],
    hips: add(rig.at('hips'), [0.014 * Math.sin(w), -0.045 + 0.012 * Math.cos(2 * w + 0.4), 0]),
  };
  key.turns.hips = euler(7 * Math.sin(w), 3 + 2 * Math.sin(2 * w), 5 * Math.sin(w + 0.3));
  key.turns.spine = euler(-4 * Math.sin(w), 1.5 * Math.sin(2 * w + 0.8), -3 * Math.sin(w + 0.2));
  key.turns.chest = euler(-5 * Math.sin(w - 0.2), 2 * Math.sin(2 * w + 1.2), -2.5 * Math.sin(w));
  // The head thrusts and holds, as a walking bird's does.
  key.turns.neck = euler(2 * Math.sin(w), -5 + 9 * Math.sin(2 * w + 2.2), 1 * Math.sin(w));
  key.turns.head = euler(0, 2 - 8 * Math.sin(2 * w + 2.2), 1.5 * Math.sin(w + 1));
  for (const [side, s] of [
    ['left', 1],
    ['right', -1],
  ] as const)
    key.turns[`wing ${side}`] = euler(0, 2 * Math.sin(2 * w), s * (4 + 3 * Math.sin(2 * w + 0.5)));
  const feet = {} as ReturnType<typeof stride>['feet'];
  for (const [side, offset] of [
    ['left', 0],
    ['right', 0.5],
  ] as const) {
    const p = (((phase + offset) % 1) + 1) % 1;
    const STANCE = 0.6;
    if (p < STANCE)
      feet[side] = { z: STRIDE * (STANCE / 2 - p), y: 0, pitch: p > 0.5 ? 0 : 0, planted: true };
    else {
      const t = (p - STANCE) / (1 - STANCE);
      // From behind to before, lifted, toes trailing then raised.
      const e = smooth(t);
      feet[side] = {
        z: STRIDE * STANCE * (e - 0.5),
        y: 0.085 * Math.sin(Math.PI * t) ** 1.2,
        pitch: 38 * Math.sin(Math.PI * Math.min(1, t * 1.4)) * (1 - t),
        planted: false,
      };
    }
  }
  return { key, feet };
}

function strideKeys(rig: Rig, frames: number, travels: boolean): Key[] {
  return Array.from({ length: frames + 1 }, (_, f) => {
    const phase = (f % STRIDE_FRAMES) / STRIDE_FRAMES;
    const { key, feet } = stride(rig, phase);
    const placed = {} as Record<(typeof SIDES)[number], { at: V3; pitch: number }>;
    for (const side of SIDES)
      placed[side] = {
        at: [rig.at(`foot ${side}`)[0], feet[side].y, feet[side].z - 0.03],
        pitch: feet[side].pitch,
      };
    stand(rig, key, placed);
    if (travels) key.root = [0, 0, (f / STRIDE_FRAMES) * STRIDE];
    return key;
  });
}

function leapKeys(rig: Rig): Key[] {
  const frames = 96;
  const LIFT = 20,
    LAND = 38;
  const rise = 0.42;
  return Array.from({ length: frames + 1 }, (_, f) => {
    const crouch = smooth(f / 14) * (1 - smooth((f - 15) / 4));
    const air = Math.min(1, Math.max(0, (f - LIFT) / (LAND - LIFT)));
    const height = f >= LIFT && f <= LAND ? 4 * rise * air * (1 - air) : 0;
    const absorb =
      f > LAND ? Math.exp(-(f - LAND) / 5) * Math.sin(Math.min(Math.PI, ((f - LAND) / 14) * Math.PI)) : 0;
    const forward = 0.55 * smooth((f - 16) / (LAND - 16));
    const dip = 0.11 * crouch + 0.17 * absorb;
    const key: Key = { turns: {}, root: [0, 0, 0], hips: add(rig.at('hips'), [0, height - dip, forward]) };
    const still = 1 - smooth((f - 56) / 8);
    const flying = Math.sin(Math.PI * air);
    key.turns.hips = euler(
      0,
      still * (14 * crouch - 12 * flying * (1 - air) + 16 * flying * air + 10 * absorb),
    );
    key.turns.spine = euler(0, still * (8 * crouch - 8 * flying + 6 * absorb));
    key.turns.chest = euler(0, still * (6 * crouch - 6 * flying + 6 * absorb));
    key.turns.neck = euler(0, still * (-12 * crouch + 10 * flying - 14 * absorb));
    key.turns.head = euler(0, still * (-8 * crouch + 4 * flying - 6 * absorb));
    for (const [side, s] of [
      ['left', 1],
      ['right', -1],
    ] as const) {
      const flap = flying * (55 + 22 * Math.sin((f - LIFT) * 1.05));
      key.turns[`wing ${side}`] = euler(0, 0, s * (flap - 6 * crouch));
      key.turns[`wing tip ${side}`] = euler(0, 0, s * 0.4 * flap);
    }
    const step = f < LIFT ? 0 : f > LAND ? 0.55 : 0.55 * smooth(air);
    const tuck = Math.sin(Math.PI * air);
    const placed = {} as Record<(typeof SIDES)[number], { at: V3; pitch: number }>;
    for (const side of SIDES) {
      placed[side] = {
        at: [
          rig.at(`foot ${side}`)[0],
          f >= LIFT && f <= LAND ? Math.max(0, height * 1.02 + 0.05 * tuck - 0.02 * air * (1 - air)) : 0,
          step - 0.03,
        ],
        pitch: 35 * tuck * (1 - air) - 12 * tuck * air,
      };
    }
    stand(rig, key, placed);
    return key;
  });
}

function lookoutKeys(rig: Rig): Key[] {
  // Frame, yaw and pitch of the head: quick turns of five frames, then stillness.
  const looks = [
    [0, 0, 0],
    [14, 52, -4],
    [34, -48, 6],
    [54, -48, -14],
    [70, 30, 10],
    [88, 0, 0],
  ] as const;
  return Array.from({ length: 111 }, (_, f) => {
    let yaw = 0;
    let pitch = 0;
    for (let i = 1; i < looks.length; i++) {
      const t = smooth((f - looks[i]![0]) / 5);
      yaw += t * (looks[i]![1] - looks[i - 1]![1]);
      pitch += t * (looks[i]![2] - looks[i - 1]![2]);
    }
    const key: Key = { turns: {}, root: [0, 0, 0], hips: rig.at('hips') };
    key.turns.hips = euler(yaw * 0.08, 0, yaw * 0.03);
    key.turns.spine = euler(yaw * 0.1, pitch * 0.1);
    key.turns.chest = euler(yaw * 0.14, pitch * 0.15);
    key.turns.neck = euler(yaw * 0.3, pitch * 0.3);
    key.turns.head = euler(yaw * 0.38, pitch * 0.45, -yaw * 0.08);
    const placed = {} as Record<(typeof SIDES)[number], { at: V3; pitch: number }>;
    for (const side of SIDES) placed[side] = { at: [rig.at(`foot ${side}`)[0], 0, -0.03], pitch: 0 };
    stand(rig, key, placed);
    return key;
  });
}

export function brindleClips(rig: Rig): DemoClip[] {
  return [
    { name: 'Stride', loops: true, keys: strideKeys(rig, 2 * STRIDE_FRAMES, false) },
    { name: 'Stride away', loops: false, keys: strideKeys(rig, 96, true) },
    { name: 'Leap', loops: false, keys: leapKeys(rig) },
    { name: 'Lookout', loops: false, keys: lookoutKeys(rig) },
  ];
}
