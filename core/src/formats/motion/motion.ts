import { makePose, samplePose, type Character } from '../../character/index';
import {
  matCompose,
  matDecompose,
  matMultiply,
  norm,
  quatMultiply,
  quatNormalise,
  quatRotate,
} from '../../math/index';

/** The motion of a skeleton, frame by frame: what formats for motion alone hold. */
export interface Motion {
  readonly name: string;
  /** Parents before children. */
  readonly joints: readonly MotionJoint[];
  readonly fps: number;
  /** Number of the first frame. */
  readonly first: number;
  readonly count: number;
  /** Local to the parent joint: count × joints × 3, 4 (x y z w, signs continuous in time) and 3. */
  readonly t: Float64Array;
  readonly r: Float64Array;
  readonly s: Float64Array;
}

export interface MotionJoint {
  readonly name: string;
  /** Index of the parent joint, -1 for a root. */
  readonly parent: number;
  /** Rest pose, local to the parent joint. */
  readonly t: readonly number[];
  readonly r: readonly number[];
  readonly s: readonly number[];
}

export interface MotionOptions {
  readonly fps: number;
  readonly first: number;
  readonly last: number;
  /** Matrix that stands above the roots, column-major: units and up axis ({@link rootMatrix}). */
  readonly root: ArrayLike<number>;
}

/**
 * The motion of a character's joints in one of its clips (or at rest, for clip −1). Nodes between joints that are no
 * joints themselves are folded into the joint below them.
 */
export function motionOf(character: Character, clip: number, o: MotionOptions): Motion {
  const isJoint = new Set(character.joints);
  const order = Array.from(character.order).filter((n) => isJoint.has(n));
  const index = new Map(order.map((n, i) => [n, i]));
  const between = order.map((node) => {
    const path: number[] = [];
    let n = character.nodes[node]!.parent;
    for (; n >= 0 && !index.has(n); n = character.nodes[n]!.parent) path.unshift(n);
    return { node, path, parent: n < 0 ? -1 : index.get(n)! };
  });
  const count = Math.max(1, o.last - o.first + 1);
  const n = order.length;
  const out = {
    t: new Float64Array(3 * n * count),
    r: new Float64Array(4 * n * count),
    s: new Float64Array(3 * n * count),
  };
  // A unit is no scale: it goes into the places of all joints.
  const unit = norm([o.root[0]!, o.root[1]!, o.root[2]!]);
  const upright = Float64Array.from(o.root, (x, k) => (k < 12 ? x / unit : x));
  const pose = makePose(character);
  const local = new Float64Array(16);
  const folded = new Float64Array(16);
  const write = (to: typeof out, at: number) =>
    between.forEach(({ node, path, parent }, i) => {
      const k = at + i;
      if (path.length === 0 && parent >= 0) {
        for (let a = 0; a < 3; a++) to.t[3 * k + a] = unit * pose.t[3 * node + a]!;
        to.r.set(pose.r.subarray(4 * node, 4 * node + 4), 4 * k);
        to.s.set(pose.s.subarray(3 * node, 3 * node + 3), 3 * k);
        return;
      }
      for (let a = 0; a < 16; a++) folded[a] = parent < 0 ? upright[a]! : a % 5 === 0 ? 1 : 0;
      for (const p of [...path, node]) {
        matCompose(local, 0, pose.t, 3 * p, pose.r, 4 * p, pose.s, 3 * p);
        matMultiply(folded, 0, folded, 0, local, 0);
      }
      matDecompose(folded, 0, to.t.subarray(3 * k), to.r.subarray(4 * k), to.s.subarray(3 * k));
      for (let a = 0; a < 3; a++) to.t[3 * k + a]! *= unit;
    });
  const rest = { t: new Float64Array(3 * n), r: new Float64Array(4 * n), s: new Float64Array(3 * n) };
  write(rest, 0);
  for (let f = 0; f < count; f++) {
    samplePose(character, character.clips[clip] ?? null, (o.first + f) / o.fps, pose);
    write(out, f * n);
  }
  keepSigns(out.r, n);
  return {
    name: character.clips[clip]?.name ?? 'Rest',
    joints: between.map(({ node, parent }, i) => ({
      name: character.nodes[node]!.name,
      parent,
      t: Array.from(rest.t.subarray(3 * i, 3 * i + 3)),
      r: Array.from(rest.r.subarray(4 * i, 4 * i + 4)),
      s: Array.from(rest.s.subarray(3 * i, 3 * i + 3)),
    })),
    fps: o.fps,
    first: o.first,
    count,
    ...out,
  };
}

/** Flips quaternions of n joints in place so that each is on the side of the one a frame before. */
export function keepSigns(r: Float64Array, n: number): void {
  for (let i = 4 * n; i < r.length; i += 4) {
    const b = i - 4 * n;
    const dot = r[i]! * r[b]! + r[i + 1]! * r[b + 1]! + r[i + 2]! * r[b + 2]! + r[i + 3]! * r[b + 3]!;
    if (dot < 0) for (let k = 0; k < 4; k++) r[i + k] = -r[i + k]!;
  }
}

/** Joints in the world at one frame: places and scales (3 numbers a joint), turns (4). */
export interface MotionWorld {
  readonly places: Float64Array;
  /** Of the joints' rotations alone, so they hold under scale that is the same along all axes. */
  readonly turns: Float64Array;
  /** Lengths of the axes. */
  readonly scales: Float64Array;
  /** Whether it has a turn: 0 for a joint that is sheared or mirrored by the scales above it. */
  readonly turned: Uint8Array;
}

/** Cosine between two axes of a joint up to which they count as square. */
const SQUARE = 1e-3;

/** World places, turns and scales at frame row f. */
export function worldOf(motion: Motion, f: number): MotionWorld {
  const n = motion.joints.length;
  const world = new Float64Array(16 * n);
  const local = new Float64Array(16);
  const places = new Float64Array(3 * n);
  const turns = new Float64Array(4 * n);
  const scales = new Float64Array(3 * n);
  const turned = new Uint8Array(n);
  motion.joints.forEach(({ parent }, i) => {
    const k = f * n + i;
    matCompose(local, 0, motion.t, 3 * k, motion.r, 4 * k, motion.s, 3 * k);
    if (parent < 0) world.set(local, 16 * i);
    else matMultiply(world, 16 * i, world, 16 * parent, local, 0);
    for (let a = 0; a < 3; a++) places[3 * i + a] = world[16 * i + 12 + a]!;
    if (parent < 0) turns.set(motion.r.subarray(4 * k, 4 * k + 4), 4 * i);
    else quatMultiply(turns, 4 * i, turns, 4 * parent, motion.r, 4 * k);
    quatNormalise(turns, 4 * i);
    turned[i] = readAxes(world, 16 * i, scales, 3 * i) ? 1 : 0;
  });
  return { places, turns, scales, turned };
}

/** Writes the lengths of a matrix's axes; returns whether they stand square and are not mirrored. */
function readAxes(m: Float64Array, at: number, out: Float64Array, o: number): boolean {
  const dot = (a: number, b: number) =>
    m[at + a]! * m[at + b]! + m[at + a + 1]! * m[at + b + 1]! + m[at + a + 2]! * m[at + b + 2]!;
  for (let a = 0; a < 3; a++) out[o + a] = Math.sqrt(dot(4 * a, 4 * a));
  for (let a = 0; a < 3; a++) {
    const b = (a + 1) % 3;
    if (Math.abs(dot(4 * a, 4 * b)) > SQUARE * out[o + a]! * out[o + b]!) return false;
  }
  const [x, y, z] = [at, at + 4, at + 8];
  const volume =
    m[x]! * (m[y + 1]! * m[z + 2]! - m[y + 2]! * m[z + 1]!) -
    m[x + 1]! * (m[y]! * m[z + 2]! - m[y + 2]! * m[z]!) +
    m[x + 2]! * (m[y]! * m[z + 1]! - m[y + 1]! * m[z]!);
  return volume > 0;
}

/** A vector in the space of a turn: turned by its inverse. */
export function turnBack(turn: Float64Array, i: number, v: readonly number[]): [number, number, number] {
  const q = [-turn[i]!, -turn[i + 1]!, -turn[i + 2]!, turn[i + 3]!];
  const out: [number, number, number] = [0, 0, 0];
  quatRotate(out, 0, q, 0, v, 0);
  return out;
}

/** The diagonal of the box round all places of a motion's first frame; at least 1e-9. */
export function motionSize(motion: Motion): number {
  const { places } = worldOf(motion, 0);
  const span = [0, 1, 2].map((a) => {
    const all = motion.joints.map((_, i) => places[3 * i + a]!);
    return all.reduce((m, x) => Math.max(m, x), -Infinity) - all.reduce((m, x) => Math.min(m, x), Infinity);
  });
  return Math.max(1e-9, norm(span));
}
