import { sampleChannel, type Channel } from '../character/index';
import { quatAngle } from '../math/index';

/** How keys are thinned. */
export interface ThinOptions {
  /** `linear`: straight (and shortest turns) between keys. `cubic`: glTF's cubic spline, with fitted tangents. */
  readonly kind: 'linear' | 'cubic';
  /** Largest error of a rotation, degrees; of other channels, in their own unit. */
  readonly tolerance: number;
  /** Indices of keys that stay beside the first and the last. */
  readonly keep: readonly number[];
  /** The last key is the first one again: their tangents are the same. */
  readonly loop: boolean;
}

/** Numbers a key of a channel has; of weights, one for each morph target. */
export function sizeOf({ path, times, values, interpolation }: Channel): number {
  if (path === 'rotation') return 4;
  if (path !== 'weights') return 3;
  return values.length / Math.max(1, times.length) / (interpolation === 'CUBICSPLINE' ? 3 : 1);
}

/** The same for a channel that has a straight key on every sample. */
const widthOf = (path: Channel['path'], values: Float64Array, times: Float64Array): number =>
  path === 'rotation' ? 4 : values.length / times.length;

/** A cubic never gets rid of so few keys that looking for them would pay, below this. */
const LEAST = 3;
/** Pull of a tangent to the slope of the samples beside its key, where nothing else says what it should be. */
const SLOPE = 1e-6;
/** Keys to either side of one that is taken out, whose tangents are fitted anew. */
const REACH = 3;

/**
 * Fewest keys found, all of them samples of the channel, that stay within a tolerance of it at every sample.
 *
 * Begins with what has to stay, puts a key at the worst sample of every span that is off, and when none is, takes out
 * every key that can be spared. Tangents of cubic keys are those of least squares over all samples, the same on both
 * sides of a key (the normal equations are tridiagonal), so that curves stay smooth.
 * `channel` has a LINEAR key on every sample, quaternions on the side of the one before.
 * Source: least-squares cubic Hermite splines; insertion as Ramer (1972) and Douglas and Peucker (1973).
 */
export function thinChannel(channel: Channel, options: ThinOptions): Channel {
  const { times, values, path } = channel;
  const n = times.length;
  const size = widthOf(path, values, times);
  if (n < LEAST)
    return options.kind === 'cubic' && n > 1 ? write(channel, range(n), slopes(channel), 'cubic') : channel;
  const cubic = options.kind === 'cubic';
  const tangents = slopes(channel);
  if (options.loop) closeSlope(channel, tangents);
  const fixed = new Set(options.loop ? [0, n - 1] : []);
  const must = new Set([0, n - 1, ...options.keep.filter((k) => k > 0 && k < n - 1)]);
  let keys = [...must].sort((a, b) => a - b);
  const limit = path === 'rotation' ? (options.tolerance * Math.PI) / 180 : options.tolerance;
  const fit = (list: readonly number[], from: number, to: number) => {
    if (cubic) fitTangents(channel, list, tangents, fixed, from, to);
  };

  const scratch = new Float64Array(size);
  /** Sample between two keys that is worst, and by how much. */
  const worst = (a: number, b: number): { at: number; by: number } => {
    const span = spanOf(channel, a, b, tangents, options.kind);
    let at = a;
    let by = 0;
    for (let s = a + 1; s < b; s++) {
      sampleChannel(span, size, times[s]!, scratch, 0);
      const d = distance(path, scratch, values, s * size);
      if (d > by) {
        by = d;
        at = s;
      }
    }
    return { at, by };
  };

  for (;;) {
    fit(keys, 0, keys.length - 1);
    const added: number[] = [];
    for (let k = 0; k + 1 < keys.length; k++) {
      const { at, by } = worst(keys[k]!, keys[k + 1]!);
      if (by > limit) added.push(at);
    }
    if (added.length === 0) break;
    keys = [...keys, ...added].sort((a, b) => a - b);
  }
  for (let spared = true; spared;) {
    spared = false;
    for (let k = 1; k < keys.length - 1; k++) {
      if (must.has(keys[k]!)) continue;
      const next = [...keys.slice(0, k), ...keys.slice(k + 1)];
      const from = Math.max(0, k - 1 - REACH);
      const to = Math.min(next.length - 1, k + REACH);
      const before = next.slice(from, to + 1).map((j) => tangents.slice(j * size, (j + 1) * size));
      fit(next, from, to);
      let fine = true;
      for (let j = from; j < to && fine; j++) fine = worst(next[j]!, next[j + 1]!).by <= limit;
      if (fine) {
        keys = next;
        spared = true;
        k--;
      } else before.forEach((t, j) => tangents.set(t, next[from + j]! * size));
    }
  }
  return write(channel, keys, tangents, options.kind);
}

const range = (n: number): number[] => Array.from({ length: n }, (_, i) => i);

/** How far apart two values of a channel are: rad for rotations, else their distance. */
function distance(
  path: Channel['path'],
  a: ArrayLike<number>,
  values: ArrayLike<number>,
  at: number,
): number {
  if (path === 'rotation') return quatAngle(a, 0, values, at);
  let sum = 0;
  for (let k = 0; k < a.length; k++) sum += (a[k]! - values[at + k]!) ** 2;
  return Math.sqrt(sum);
}

/**
 * Largest error of a thinned channel at the samples of the whole one: rad for rotations, else in the channel's unit.
 */
export function worstError(all: Channel, few: Channel): number {
  const size = sizeOf(all);
  const out = new Float64Array(size);
  let most = 0;
  all.times.forEach((t, k) => {
    sampleChannel(few, size, t, out, 0);
    most = Math.max(most, distance(all.path, out, all.values, size * k));
  });
  return most;
}

/** Slopes of the samples by differences over both neighbours, one-sided at the ends; per second. */
function slopes({ times, values, path }: Channel): Float64Array {
  const size = widthOf(path, values, times);
  const n = times.length;
  const out = new Float64Array(n * size);
  for (let s = 0; s < n; s++) {
    const a = Math.max(0, s - 1);
    const b = Math.min(n - 1, s + 1);
    const dt = times[b]! - times[a]!;
    for (let k = 0; k < size && dt > 0; k++)
      out[s * size + k] = (values[b * size + k]! - values[a * size + k]!) / dt;
  }
  return out;
}

/** Gives both ends of a loop the slope across it; a quaternion may end on the other side. */
function closeSlope({ times, values, path }: Channel, out: Float64Array): void {
  const size = widthOf(path, values, times);
  const n = times.length;
  let dot = 0;
  for (let k = 0; k < size; k++) dot += values[k]! * values[(n - 1) * size + k]!;
  const side = path === 'rotation' && dot < 0 ? -1 : 1;
  const dt = times[1]! - times[0]! + times[n - 1]! - times[n - 2]!;
  for (let k = 0; k < size && dt > 0; k++) {
    const slope = (values[size + k]! - side * values[(n - 2) * size + k]!) / dt;
    out[k] = slope;
    out[(n - 1) * size + k] = side * slope;
  }
}

/**
 * Tangents of keys from..to of a list by least squares over the samples between them; those at the ends of a window
 * within the list stay.
 */
function fitTangents(
  { times, values, path }: Channel,
  keys: readonly number[],
  tangents: Float64Array,
  fixed: ReadonlySet<number>,
  from: number,
  to: number,
): void {
  const size = widthOf(path, values, times);
  const count = to - from + 1;
  const diagonal = new Float64Array(count);
  const beside = new Float64Array(count);
  const right = new Float64Array(count * size);
  const own = slopes({ times, values, path } as Channel);
  const known = (i: number) =>
    fixed.has(keys[from + i]!) || (i === 0 && from > 0) || (i === count - 1 && to < keys.length - 1);
  for (let i = 0; i + 1 < count; i++) {
    const a = keys[from + i]!;
    const b = keys[from + i + 1]!;
    const dt = times[b]! - times[a]!;
    for (let s = a + 1; s < b; s++) {
      const u = (times[s]! - times[a]!) / dt;
      const u2 = u * u;
      const u3 = u2 * u;
      const p0 = 2 * u3 - 3 * u2 + 1;
      const m0 = (u3 - 2 * u2 + u) * dt;
      const m1 = (u3 - u2) * dt;
      diagonal[i]! += m0 * m0;
      diagonal[i + 1]! += m1 * m1;
      beside[i]! += m0 * m1;
      for (let k = 0; k < size; k++) {
        const r = values[s * size + k]! - p0 * values[a * size + k]! - (1 - p0) * values[b * size + k]!;
        right[i * size + k]! += m0 * r;
        right[(i + 1) * size + k]! += m1 * r;
      }
    }
    // What no sample says is as it is at the key.
    const weight = SLOPE * dt * dt;
    for (const j of [i, i + 1]) {
      diagonal[j]! += weight;
      for (let k = 0; k < size; k++) right[j * size + k]! += weight * own[keys[from + j]! * size + k]!;
    }
  }
  // Known ones go to the right-hand side.
  for (let i = 0; i < count; i++) {
    if (!known(i)) continue;
    for (let k = 0; k < size; k++) {
      const t = tangents[keys[from + i]! * size + k]!;
      if (i > 0) right[(i - 1) * size + k]! -= beside[i - 1]! * t;
      if (i + 1 < count) right[(i + 1) * size + k]! -= beside[i]! * t;
      right[i * size + k] = t;
    }
    diagonal[i] = 1;
    if (i > 0) beside[i - 1] = 0;
    beside[i] = 0;
  }
  // Factor and solve, in place (Thomas; the matrix is positive definite).
  for (let i = 1; i < count; i++) {
    const by = beside[i - 1]! / diagonal[i - 1]!;
    diagonal[i]! -= by * beside[i - 1]!;
    for (let k = 0; k < size; k++) right[i * size + k]! -= by * right[(i - 1) * size + k]!;
  }
  for (let i = count - 1; i >= 0; i--)
    for (let k = 0; k < size; k++) {
      const next = i + 1 < count ? beside[i]! * tangents[keys[from + i + 1]! * size + k]! : 0;
      tangents[keys[from + i]! * size + k] = (right[i * size + k]! - next) / diagonal[i]!;
    }
}

/** The span between two keys as a channel of its own. */
function spanOf(
  channel: Channel,
  a: number,
  b: number,
  tangents: Float64Array,
  kind: ThinOptions['kind'],
): Channel {
  return write(channel, [a, b], tangents, kind);
}

/** A channel of some of the samples. */
function write(
  channel: Channel,
  keys: readonly number[],
  tangents: Float64Array,
  kind: ThinOptions['kind'],
): Channel {
  const { times, values, path, node } = channel;
  const size = widthOf(path, values, times);
  const out = new Float64Array(keys.length * size * (kind === 'cubic' ? 3 : 1));
  keys.forEach((s, i) => {
    const value = values.subarray(s * size, (s + 1) * size);
    if (kind === 'linear') return out.set(value, i * size);
    const tangent = tangents.subarray(s * size, (s + 1) * size);
    out.set(tangent, 3 * i * size);
    out.set(value, (3 * i + 1) * size);
    out.set(tangent, (3 * i + 2) * size);
  });
  return {
    node,
    path,
    interpolation: kind === 'cubic' ? 'CUBICSPLINE' : 'LINEAR',
    times: Float64Array.from(keys, (s) => times[s]!),
    values: out,
  };
}

/**
 * Samples at which a channel turns back by more than twice a tolerance: the extremes an animator looks for. They are
 * those of the component that goes farthest.
 */
export function extremes({ times, values, path }: Channel, tolerance: number): number[] {
  const size = widthOf(path, values, times);
  const n = values.length / size;
  let most = -1;
  let component = 0;
  for (let k = 0; k < size; k++) {
    let lo = Infinity;
    let hi = -Infinity;
    for (let s = 0; s < n; s++) {
      lo = Math.min(lo, values[s * size + k]!);
      hi = Math.max(hi, values[s * size + k]!);
    }
    if (hi - lo > most) {
      most = hi - lo;
      component = k;
    }
  }
  // A part of a unit quaternion changes by half as much as the angle.
  const least = 2 * (path === 'rotation' ? (tolerance * Math.PI) / 360 : tolerance);
  const at = (s: number) => values[s * size + component]!;
  const out: number[] = [];
  let high = 0;
  let low = 0;
  let rising = 0;
  for (let s = 1; s < n; s++) {
    if (at(s) > at(high)) high = s;
    if (at(s) < at(low)) low = s;
    if (rising >= 0 && at(high) - at(s) > least) {
      if (high > 0) out.push(high);
      rising = -1;
      low = high = s;
    } else if (rising <= 0 && at(s) - at(low) > least) {
      if (low > 0) out.push(low);
      rising = 1;
      low = high = s;
    }
  }
  return out;
}
