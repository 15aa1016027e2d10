import { makePose, sampleChannel, type Channel, type Character } from '../character/index';
import { sizeOf } from '../curves/index';
import { quatAngle, quatConjugate, quatMultiply, quatNormalise } from '../math/index';
import type { Shot } from '../shot/index';
import { makeSource } from '../simulate/index';

/** Channels by node and path. */
export type Curves = ReadonlyMap<string, Channel>;

export const channelKey = (node: number, path: Channel['path']): string => `${node}/${path}`;

/** Keys of a channel are the same when they stand nearer to one another than this, frames. */
export const SAME_FRAME = 0.01;

/** What laying refinements on curves needs to know beside them. */
export interface Ground {
  readonly character: Character;
  readonly fps: number;
  /** Seconds that times of keys are later than their frame says. */
  readonly shift: number;
  /** The curves repeat over this many frames, or null. */
  readonly period: number | null;
  readonly first: number;
  /** Value of the source at a frame; valid until the next call. */
  source(node: number, path: 'rotation' | 'translation', frame: number): ArrayLike<number>;
}

/** What a shot's curves stand on. */
export function groundOf(character: Character, shot: Shot, shift: number): Ground {
  const { fps, range } = shot;
  const source = makeSource(character, shot);
  const pose = makePose(character);
  let posed = NaN;
  return {
    ...{ character, fps, shift, first: range.first },
    period: shot.loop ? range.last - range.first : null,
    source: (node, path, frame) => {
      if (frame !== posed) source.at((posed = frame), pose);
      return path === 'rotation'
        ? pose.r.subarray(4 * node, 4 * node + 4)
        : pose.t.subarray(3 * node, 3 * node + 3);
    },
  };
}

/** Frames of a channel's keys. */
export const framesOf = (c: Channel, g: Pick<Ground, 'fps' | 'shift'>): Float64Array =>
  c.times.map((t) => (t - g.shift) * g.fps);

export const timeOf = (frame: number, g: Pick<Ground, 'fps' | 'shift'>): number => frame / g.fps + g.shift;

/** Values of a channel at whole frames `first`, first + 1, … , quaternions on the side of the one before. */
export function denseOf(
  c: Channel,
  first: number,
  count: number,
  g: Pick<Ground, 'fps' | 'shift'>,
): Float64Array {
  const size = sizeOf(c);
  const out = new Float64Array(size * count);
  for (let k = 0; k < count; k++) {
    sampleChannel(c, size, timeOf(first + k, g), out, size * k);
    if (k > 0 && c.path === 'rotation') sideOf(out, 4 * k, out, 4 * (k - 1));
  }
  return out;
}

/** Puts a quaternion on the side of another: the same turn, without a flip between them. */
export function sideOf(q: Float64Array, i: number, near: ArrayLike<number>, j: number): void {
  let dot = 0;
  for (let k = 0; k < 4; k++) dot += q[i + k]! * near[j + k]!;
  if (dot < 0) for (let k = 0; k < 4; k++) q[i + k] = -q[i + k]!;
}

/** How far apart two values are: rad, or the file's unit. */
export function apart(
  path: Channel['path'],
  a: ArrayLike<number>,
  i: number,
  b: ArrayLike<number>,
  j: number,
): number {
  if (path === 'rotation') return quatAngle(a, i, b, j);
  let sum = 0;
  for (let k = 0; k < 3; k++) sum += (a[i + k]! - b[j + k]!) ** 2;
  return Math.sqrt(sum);
}

/** One key: its place in time, its value, and the slopes (a second) before and after it; null for straight keys. */
export interface Key {
  frame: number;
  value: Float64Array;
  slopes: [Float64Array, Float64Array] | null;
}

export function keysOf(c: Channel, g: Pick<Ground, 'fps' | 'shift'>): Key[] {
  const size = sizeOf(c);
  const cubic = c.interpolation === 'CUBICSPLINE';
  const take = (at: number) => c.values.slice(at * size, (at + 1) * size);
  return Array.from(framesOf(c, g), (frame, k) => ({
    frame,
    value: take(cubic ? 3 * k + 1 : k),
    slopes: cubic ? [take(3 * k), take(3 * k + 2)] : null,
  }));
}

/**
 * A channel of keys, in the order of their frames; of two on one frame the later one in the list counts. Quaternions
 * are put on the side of the one before, with their slopes.
 */
export function channelOf(
  like: Pick<Channel, 'node' | 'path'> & { readonly interpolation: Channel['interpolation'] },
  list: readonly Key[],
  g: Pick<Ground, 'fps' | 'shift'>,
): Channel {
  const size = like.path === 'rotation' ? 4 : 3;
  const sorted = list.map((key, n) => ({ key, n })).sort((a, b) => a.key.frame - b.key.frame || a.n - b.n);
  const keys: Key[] = [];
  for (const { key, n } of sorted) {
    const before = keys.at(-1);
    if (before && key.frame - before.frame < SAME_FRAME) {
      if (list.indexOf(before) < n) keys[keys.length - 1] = key;
    } else keys.push(key);
  }
  const cubic = keys.some((k) => k.slopes !== null);
  if (cubic) fillSlopes(keys, g.fps, like.interpolation === 'STEP');
  const values = new Float64Array(size * keys.length * (cubic ? 3 : 1));
  let before: Float64Array | null = null;
  keys.forEach(({ value, slopes }, k) => {
    let flip = 1;
    if (like.path === 'rotation') {
      quatNormalise(value, 0);
      if (before) flip = before.reduce((d, x, i) => d + x * value[i]!, 0) < 0 ? -1 : 1;
    }
    const own = flip < 0 ? value.map((x) => -x) : value;
    before = own;
    if (!cubic) return values.set(own, k * size);
    for (let i = 0; i < size; i++) {
      values[3 * k * size + i] = flip * slopes![0][i]!;
      values[(3 * k + 2) * size + i] = flip * slopes![1][i]!;
    }
    values.set(own, (3 * k + 1) * size);
  });
  return {
    ...{ node: like.node, path: like.path, values },
    interpolation: cubic ? 'CUBICSPLINE' : like.interpolation === 'STEP' ? 'STEP' : 'LINEAR',
    times: Float64Array.from(keys, (k) => timeOf(k.frame, g)),
  };
}

/** Keys of a channel that becomes cubic get the slopes they have as straight ones (flat, for stepped). */
function fillSlopes(keys: Key[], fps: number, stepped: boolean): void {
  keys.forEach((key, k) => {
    if (key.slopes) return;
    const straight = (a: Key | undefined, b: Key | undefined) =>
      stepped || !a || !b ? key.value.map(() => 0) : slopeBetween(a, b, fps);
    key.slopes = [straight(keys[k - 1], key), straight(key, keys[k + 1])];
  });
}

/** Slope of the straight way between two keys, a second. */
export function slopeBetween(a: Key, b: Key, fps: number): Float64Array {
  const dt = (b.frame - a.frame) / fps;
  const sign = a.value.length === 4 && a.value.reduce((d, x, i) => d + x * b.value[i]!, 0) < 0 ? -1 : 1;
  return a.value.map((x, i) => (sign * b.value[i]! - x) / dt);
}

const scratch = new Float64Array(4);

/** The turn, or way, from one value to another: `b` is `a` followed by it. */
export function wayFrom(out: Float64Array, a: ArrayLike<number>, b: ArrayLike<number>): void {
  if (out.length === 4) {
    quatConjugate(scratch, 0, a, 0);
    quatMultiply(out, 0, scratch, 0, b, 0);
    if (out[3]! < 0) for (let k = 0; k < 4; k++) out[k] = -out[k]!;
  } else for (let k = 0; k < 3; k++) out[k] = b[k]! - a[k]!;
}
