import { norm, quatAngle } from '../math/index';
import { motionSize, worldOf, type Motion } from '../formats/motion/index';

/** How two motions of like-named joints differ. */
export interface Comparison {
  /** Joints found in both, and names that only one of them has. */
  readonly joints: number;
  readonly onlyFirst: readonly string[];
  readonly onlySecond: readonly string[];
  readonly frames: number;
  /** Largest distance between two places of a joint, in the first one's unit, and as a share of its rig's size. */
  readonly distance: number;
  readonly share: number;
  readonly degrees: number;
  /** Where the largest distance is. */
  readonly joint: string;
  readonly frame: number;
}

/** Names as every format can hold them: what is no letter, digit or mark becomes an underscore. */
export const plainName = (name: string): string => name.replace(/[^A-Za-z0-9_.:-]/g, '_');

/** The names of a motion's joints; those that several have are numbered in their order. */
function tellApart({ joints }: Motion): string[] {
  const seen = new Map<string, number>();
  return joints.map((j) => {
    const name = plainName(j.name);
    const before = seen.get(name) ?? 0;
    seen.set(name, before + 1);
    return before === 0 ? name : `${name} ${before + 1}`;
  });
}

/** Compares two motions frame by frame, as far as the shorter one goes. Frames are taken to begin together. */
export function compareMotions(a: Motion, b: Motion): Comparison {
  const second = new Map(tellApart(b).map((name, i) => [name, i]));
  const pairs = tellApart(a).flatMap((name, i) => {
    const k = second.get(name);
    return k === undefined ? [] : [[i, k] as const];
  });
  const found = new Set(pairs.map(([, k]) => k));
  const frames = Math.min(a.count, b.count);
  let distance = 0;
  let degrees = 0;
  let joint = '';
  let frame = a.first;
  for (let f = 0; f < frames; f++) {
    const [p, q] = [worldOf(a, f), worldOf(b, f)];
    for (const [i, k] of pairs) {
      const d = norm([0, 1, 2].map((c) => p.places[3 * i + c]! - q.places[3 * k + c]!));
      degrees = Math.max(degrees, (quatAngle(p.turns, 4 * i, q.turns, 4 * k) * 180) / Math.PI);
      if (d <= distance && joint !== '') continue;
      distance = d;
      joint = a.joints[i]!.name;
      frame = a.first + f;
    }
  }
  const matched = new Set(pairs.map(([i]) => i));
  return {
    joints: pairs.length,
    onlyFirst: a.joints.flatMap((j, i) => (matched.has(i) ? [] : [j.name])),
    onlySecond: b.joints.flatMap((j, k) => (found.has(k) ? [] : [j.name])),
    frames,
    distance,
    share: distance / motionSize(a),
    degrees,
    joint,
    frame,
  };
}
