import {
  atan2,
  matCompose,
  matMultiply,
  quatConjugate,
  quatMultiply,
  quatNormalise,
  quatSlerp,
} from '../math/index';
import type { Channel, Character, Clip } from './character';

/**
 * A local pose of all nodes: 3, 4 and 3 numbers a node, and the morph weights by node. `points` are places of a mesh's
 * vertices in the world (m, 3 numbers each), by its node, where they are moved one by one.
 */
export interface Pose {
  readonly t: Float64Array;
  readonly r: Float64Array;
  readonly s: Float64Array;
  readonly morphs: Map<number, Float64Array>;
  readonly points: Map<number, Float64Array>;
}

/** The rest pose. */
export function makePose(character: Character): Pose {
  const n = character.nodes.length;
  const pose: Pose = {
    t: new Float64Array(3 * n),
    r: new Float64Array(4 * n),
    s: new Float64Array(3 * n),
    morphs: new Map(),
    points: new Map(),
  };
  resetPose(character, pose);
  return pose;
}

/** Sets `pose` to the rest pose. */
export function resetPose(character: Character, pose: Pose): void {
  pose.points.clear();
  character.nodes.forEach((node, i) => {
    pose.t.set(node.t, 3 * i);
    pose.r.set(node.r, 4 * i);
    pose.s.set(node.s, 3 * i);
    if (node.mesh >= 0 && character.meshes[node.mesh]?.weights.length) {
      pose.morphs.set(i, Float64Array.from(character.meshes[node.mesh]!.weights));
    }
  });
}

/** Index of the last key at or before `time`, or -1 before the first. */
function keyBefore(times: Float64Array, time: number): number {
  let lo = 0;
  let hi = times.length;
  while (lo < hi) {
    const mid = (lo + hi) >> 1;
    if (times[mid]! <= time) lo = mid + 1;
    else hi = mid;
  }
  return lo - 1;
}

/**
 * Value of one channel at `time` seconds into `out` at `o`, held before the first and after the last key
 * (glTF 2.0, appendix C). `size` is the number of values a key.
 */
export function sampleChannel(c: Channel, size: number, time: number, out: Float64Array, o: number): void {
  const n = c.times.length;
  const cubic = c.interpolation === 'CUBICSPLINE';
  const stride = cubic ? 3 * size : size;
  const base = cubic ? size : 0;
  let i = keyBefore(c.times, time);
  const single = i < 0 || i >= n - 1 || c.interpolation === 'STEP';
  if (single) {
    if (i < 0) i = 0;
    for (let k = 0; k < size; k++) out[o + k] = c.values[i * stride + base + k]!;
    if (c.path === 'rotation') quatNormalise(out, o);
    return;
  }
  const dt = c.times[i + 1]! - c.times[i]!;
  const u = dt > 0 ? (time - c.times[i]!) / dt : 1;
  const a = i * stride + base;
  const b = a + stride;
  if (cubic) {
    const u2 = u * u;
    const u3 = u2 * u;
    const p0 = 2 * u3 - 3 * u2 + 1,
      m0 = (u3 - 2 * u2 + u) * dt,
      p1 = 3 * u2 - 2 * u3,
      m1 = (u3 - u2) * dt;
    for (let k = 0; k < size; k++) {
      out[o + k] =
        p0 * c.values[a + k]! +
        m0 * c.values[a + size + k]! +
        p1 * c.values[b + k]! +
        m1 * c.values[b - size + k]!;
    }
    if (c.path === 'rotation') quatNormalise(out, o);
  } else if (c.path === 'rotation') {
    quatSlerp(out, o, c.values, a, c.values, b, u);
  } else {
    for (let k = 0; k < size; k++) out[o + k] = (1 - u) * c.values[a + k]! + u * c.values[b + k]!;
  }
}

/** The pose of `clip` at `time` seconds (the rest pose where nothing is keyed, or without a clip). */
export function samplePose(character: Character, clip: Clip | null, time: number, out: Pose): void {
  if (clip?.over) {
    samplePose(character, character.clips[clip.over.clip]!, time - clip.over.shift, out);
    addOffsets(clip, time, out);
    return;
  }
  resetPose(character, out);
  for (const c of clip?.channels ?? []) {
    if (c.path === 'translation') sampleChannel(c, 3, time, out.t, 3 * c.node);
    else if (c.path === 'rotation') sampleChannel(c, 4, time, out.r, 4 * c.node);
    else if (c.path === 'scale') sampleChannel(c, 3, time, out.s, 3 * c.node);
    else if (c.path === 'weights') {
      const weights = out.morphs.get(c.node);
      if (weights) sampleChannel(c, weights.length, time, weights, 0);
    } else {
      const places = new Float64Array(c.values.length / c.times.length);
      sampleChannel(c, places.length, time, places, 0);
      out.points.set(c.node, places);
    }
  }
}

const offset = new Float64Array(4);

/** What an offset clip adds: turns follow those of the clip below, ways are added, scales multiplied. */
function addOffsets(clip: Clip, time: number, out: Pose): void {
  for (const c of clip.channels) {
    if (c.path === 'weights' || c.path === 'points') continue;
    sampleChannel(c, c.path === 'rotation' ? 4 : 3, time, offset, 0);
    if (c.path === 'rotation') quatMultiply(out.r, 4 * c.node, out.r, 4 * c.node, offset, 0);
    for (let a = 0; a < 3; a++)
      if (c.path === 'translation') out.t[3 * c.node + a]! += offset[a]!;
      else if (c.path === 'scale') out.s[3 * c.node + a]! *= offset[a]!;
  }
}

const local = new Float64Array(16);

/** World matrix of one node from its parent's (which must be in `world` already), 16 numbers a node. */
export function updateWorld(
  character: Character,
  pose: Pose,
  root: ArrayLike<number>,
  node: number,
  world: Float64Array,
): void {
  matCompose(local, 0, pose.t, 3 * node, pose.r, 4 * node, pose.s, 3 * node);
  const parent = character.nodes[node]!.parent;
  if (parent < 0) matMultiply(world, 16 * node, root, 0, local, 0);
  else matMultiply(world, 16 * node, world, 16 * parent, local, 0);
}

/** World matrices of all nodes; `root` takes file space to metres with +Y up ({@link rootMatrix}). */
export function worldMatrices(
  character: Character,
  pose: Pose,
  root: ArrayLike<number>,
  world: Float64Array,
): void {
  for (let k = 0; k < character.order.length; k++)
    updateWorld(character, pose, root, character.order[k]!, world);
}

/** From file units and up axis to metres with +Y up, column-major. */
export function rootMatrix(metresPerUnit: number, upAxis: 'Y' | 'Z'): Float64Array {
  const m = metresPerUnit;
  return upAxis === 'Y'
    ? new Float64Array([m, 0, 0, 0, 0, m, 0, 0, 0, 0, m, 0, 0, 0, 0, 1])
    : new Float64Array([m, 0, 0, 0, 0, 0, -m, 0, 0, m, 0, 0, 0, 0, 0, 1]);
}

const twist = new Float64Array(4);

/**
 * Degrees (−180 to 180) by which a joint is turned from its rest r about an axis of its own (0 to 2): the twist of its
 * turn.
 */
export function turnAbout(pose: Pose, node: number, r: Float64Array, axis: number): number {
  quatConjugate(twist, 0, r, 0);
  quatMultiply(twist, 0, twist, 0, pose.r, 4 * node);
  const angle = (2 * atan2(twist[axis]!, twist[3]!) * 180) / Math.PI;
  return angle > 180 ? angle - 360 : angle < -180 ? angle + 360 : angle;
}
