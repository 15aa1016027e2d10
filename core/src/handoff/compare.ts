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
  /** Where it is. */
  readonly joint: string;
  readonly frame: number;
  /** Largest turn from one to the other, degrees, and whose. Joints that are sheared or mirrored have no turn. */
  readonly degrees: number;
  readonly turnJoint: string;
  /** Largest difference of a scale along an axis, as a share of it, and whose. */
  readonly scale: number;
  readonly scaleJoint: string;
}

/** Differences that do not count: share of the rig's size, degrees, share of a scale. Float32 turns are 0.02° apart. */
export const WITHIN = 1e-4;
export const WITHIN_DEGREES = 0.1;
const WITHIN_SCALE = 1e-3;

/** Whether two motions are the same as far as their joints are alike; scales where the format has them. */
export const isSame = (c: Comparison, scales: boolean, within = WITHIN, degrees = WITHIN_DEGREES): boolean =>
  c.share <= within && c.degrees <= degrees && (!scales || c.scale <= WITHIN_SCALE);

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
  const most = {
    distance: { by: 0, joint: '', frame: a.first },
    degrees: { by: 0, joint: '' },
    scale: { by: 0, joint: '' },
  };
  for (let f = 0; f < frames; f++) {
    const [p, q] = [worldOf(a, f), worldOf(b, f)];
    for (const [i, k] of pairs) {
      const joint = a.joints[i]!.name;
      const d = norm([0, 1, 2].map((c) => p.places[3 * i + c]! - q.places[3 * k + c]!));
      if (d > most.distance.by || most.distance.joint === '')
        most.distance = { by: d, joint, frame: a.first + f };
      const turn = (quatAngle(p.turns, 4 * i, q.turns, 4 * k) * 180) / Math.PI;
      if (p.turned[i] && turn > most.degrees.by) most.degrees = { by: turn, joint };
      for (let c = 0; c < 3; c++) {
        const [x, y] = [p.scales[3 * i + c]!, q.scales[3 * k + c]!];
        const by = Math.abs(x - y) / Math.max(1e-6, x);
        if (by > most.scale.by) most.scale = { by, joint };
      }
    }
  }
  const matched = new Set(pairs.map(([i]) => i));
  return {
    joints: pairs.length,
    onlyFirst: a.joints.flatMap((j, i) => (matched.has(i) ? [] : [j.name])),
    onlySecond: b.joints.flatMap((j, k) => (found.has(k) ? [] : [j.name])),
    frames,
    distance: most.distance.by,
    share: most.distance.by / motionSize(a),
    joint: most.distance.joint,
    frame: most.distance.frame,
    degrees: most.degrees.by,
    turnJoint: most.degrees.joint,
    scale: most.scale.by,
    scaleJoint: most.scale.joint,
  };
}

/** Why two motions are not the same, in words for people: "0.3 mm at hand, frame 4; turned by 109.0° at head". */
export function troubleIn(c: Omit<Comparison, 'onlyFirst' | 'onlySecond'>, scales: boolean): string {
  const list = [
    ...(c.share > WITHIN ? [`${(1000 * c.distance).toPrecision(2)} mm at ${c.joint}, frame ${c.frame}`] : []),
    ...(c.degrees > WITHIN_DEGREES ? [`turned by ${c.degrees.toFixed(1)}° at ${c.turnJoint}`] : []),
    ...(scales && c.scale > WITHIN_SCALE
      ? [`scaled by ${(100 * c.scale).toFixed(1)} % at ${c.scaleJoint}`]
      : []),
  ];
  return list.join('; ') || 'joints or frames are missing';
}
