import { sampleChannel, type Channel } from '../character/index';
import { sizeOf } from '../curves/index';
import { exp, quatMultiply, quatNormalise, quatPower, quatSlerp } from '../math/index';
import type { Refinement, RefineTool } from '../model/index';
import { apart, channelOf, denseOf, keysOf, sideOf, timeOf, wayFrom, type Ground, type Key } from './curves';

type Shape = Exclude<RefineTool, { tool: 'move' | 'insert' | 'delete' | 'slope' | 'handle' | 'paste' }>;

/** How fast a settle dies away, or grows, over its span at amount 1: e to the power of this. */
const SETTLING = 5;
/** Between keys a shaped curve may be off by this before it gets another key: rad, and a share of its own way. */
const OFF = (0.25 * Math.PI) / 180;
const OFF_SHARE = 0.01;
/** A span that reaches farther past a curve's keys than this is cut off there: frames. */
const BEYOND = 20_000;
/** At full strength a curve is steadied so often. */
const STEADYINGS = 2;

/**
 * A shape tool on one channel. The curve is read on every frame and shaped there; its keys in the span go where the
 * shaped curve is, slopes too, and where that does not follow it closely keys are put between.
 * `index` is the joint's place in its row, 0 at the root.
 */
export function shapeChannel(c: Channel, step: Refinement, does: Shape, index: number, g: Ground): Channel {
  const size = sizeOf(c);
  const keys = keysOf(c, g);
  const [k0, k1] = [Math.floor(keys[0]!.frame), Math.ceil(keys.at(-1)!.frame)];
  const begin = Math.max(Math.min(Math.floor(step.first), k0), k0 - BEYOND);
  const end = Math.min(Math.max(Math.ceil(step.last), k1), k1 + BEYOND);
  const n = end - begin + 1;
  const before = denseOf(c, begin, n, g);
  const a = Math.max(0, Math.ceil(step.first) - begin);
  const b = Math.min(n - 1, Math.floor(step.last) - begin);
  if (b < a) return c;
  const shaped = before.slice();
  shape(c, shaped, before, a, b, begin, does, index, g);
  // Comes and goes at the ends of its span, but not where the curve itself ends.
  const { ease } = step;
  if (does.tool !== 'close loop')
    for (let f = a; f <= b; f++) {
      const up = a > 0 ? easing(f - a, ease) : 1;
      const down = b < n - 1 ? easing(b - f, ease) : 1;
      mix(shaped, size * f, before, size * f, shaped, size * f, Math.min(up, down), size);
    }

  // What is done at each frame, as a way from what was there.
  const done = new Float64Array(size * n);
  for (let f = 0; f < n; f++) {
    const at = done.subarray(size * f, size * f + size);
    wayFrom(at, before.subarray(size * f, size * f + size), shaped.subarray(size * f, size * f + size));
    if (size === 4 && f > 0) sideOf(done, 4 * f, done, 4 * (f - 1));
  }
  const moved = keys.map((key) => {
    if (key.frame < step.first - 1e-6 || key.frame > step.last + 1e-6) return key;
    return lay(key, done, key.frame - begin, n, size, g.fps);
  });
  const out = channelOf(c, moved, g);
  const cubic = out.interpolation === 'CUBICSPLINE';
  if (c.interpolation === 'STEP') return out;
  // As far as the keys on either side: what lies between them and the span is to stay.
  const from = keys.findLast((k) => k.frame <= begin + a)?.frame ?? begin;
  const to = keys.find((k) => k.frame >= begin + b)?.frame ?? end;
  return follow(out, shaped, Math.ceil(from - begin), Math.floor(to - begin), begin, cubic, g);
}

const easing = (frames: number, ease: number): number => {
  if (ease <= 0) return 1;
  const u = Math.min(1, frames / ease);
  return u * u * (3 - 2 * u);
};

/** out = a blended to b. */
function mix(
  out: Float64Array,
  o: number,
  a: ArrayLike<number>,
  i: number,
  b: ArrayLike<number>,
  j: number,
  share: number,
  size: number,
): void {
  if (size === 4) quatSlerp(out, o, a, i, b, j, share);
  else for (let k = 0; k < 3; k++) out[o + k] = (1 - share) * a[i + k]! + share * b[j + k]!;
}

/** A key moved by what is done at its frame, its slopes with it. */
function lay(key: Key, done: Float64Array, at: number, n: number, size: number, fps: number): Key {
  const f = Math.min(n - 2, Math.max(0, Math.floor(at + 1e-6)));
  const u = n > 1 ? Math.min(1, Math.max(0, at - f)) : 0;
  const way = new Float64Array(size);
  if (n > 1) mix(way, 0, done, size * f, done, size * (f + 1), u, size);
  else way.set(done);
  const from = Math.max(0, Math.round(at) - 1);
  const to = Math.min(n - 1, Math.round(at) + 1);
  const drift = way.map((_, k) =>
    to > from ? ((done[size * to + k]! - done[size * from + k]!) * fps) / (to - from) : 0,
  );
  const value = new Float64Array(size);
  if (size === 3) {
    for (let k = 0; k < 3; k++) value[k] = key.value[k]! + way[k]!;
    const slopes = key.slopes?.map((s) => s.map((x, k) => x + drift[k]!));
    return { frame: key.frame, value, slopes: (slopes as Key['slopes']) ?? null };
  }
  quatMultiply(value, 0, key.value, 0, way, 0);
  // (q · d)′ = q′ · d + q · d′
  const slopes = key.slopes?.map((s) => {
    const [own, moved] = [new Float64Array(4), new Float64Array(4)];
    quatMultiply(own, 0, s, 0, way, 0);
    quatMultiply(moved, 0, key.value, 0, drift, 0);
    return own.map((x, k) => x + moved[k]!);
  });
  return { frame: key.frame, value, slopes: (slopes as Key['slopes']) ?? null };
}

/** Puts keys where a channel does not follow the shaped curve between frames a and b, the worst place first. */
function follow(
  c: Channel,
  shaped: Float64Array,
  a: number,
  b: number,
  begin: number,
  cubic: boolean,
  g: Ground,
): Channel {
  const size = sizeOf(c);
  let reach = 0;
  for (let f = a; f <= b; f++) reach = Math.max(reach, apart(c.path, shaped, size * f, shaped, size * a));
  const limit = c.path === 'rotation' ? OFF : Math.max(1e-9, OFF_SHARE * reach);
  const value = new Float64Array(size);
  let now = c;
  for (;;) {
    const keys = keysOf(now, g);
    const more: Key[] = [];
    let k = 0;
    let worst = -1;
    let by = limit;
    const put = () => {
      if (worst < 0) return;
      const [from, to] = [Math.max(0, worst - 1), Math.min(shaped.length / size - 1, worst + 1)];
      const slope = Float64Array.from(
        { length: size },
        (_, i) => ((shaped[size * to + i]! - shaped[size * from + i]!) * g.fps) / (to - from),
      );
      more.push({
        frame: begin + worst,
        value: shaped.slice(size * worst, size * worst + size),
        slopes: cubic ? [slope, slope.slice()] : null,
      });
      worst = -1;
      by = limit;
    };
    for (let f = a; f <= b; f++) {
      while (k < keys.length && keys[k]!.frame <= begin + f + 1e-6) {
        put();
        k++;
      }
      sampleChannel(now, size, timeOf(begin + f, g), value, 0);
      const off = apart(c.path, value, 0, shaped, size * f);
      const onKey = k > 0 && Math.abs(keys[k - 1]!.frame - begin - f) < 0.5;
      if (off > by && !onKey) {
        by = off;
        worst = f;
      }
    }
    put();
    if (more.length === 0) return now;
    now = channelOf(now, [...keys, ...more], g);
  }
}

/** Shapes frames a to b of a curve; `to` begins as a copy of `from`. */
function shape(
  c: Channel,
  to: Float64Array,
  from: Float64Array,
  a: number,
  b: number,
  begin: number,
  does: Shape,
  index: number,
  g: Ground,
): void {
  const size = sizeOf(c);
  const n = from.length / size;
  const path = c.path as 'rotation' | 'translation';
  const at = (f: number) => from.subarray(size * f, size * f + size);
  const way = new Float64Array(size);
  /** Frames that stand for one beyond the ends of a loop, or the end itself. */
  const inside = (f: number): number => {
    const { period } = g;
    if (period) {
      const start = g.first - begin;
      if (start >= 0 && start + period < n) return start + ((((f - start) % period) + period) % period);
    }
    return Math.min(n - 1, Math.max(0, f));
  };
  /** Away from a reference by so much more. */
  const scale = (f: number, about: ArrayLike<number>, by: number) => {
    wayFrom(way, about, at(f));
    if (size === 4) {
      quatPower(way, 0, way, 0, by);
      quatMultiply(to, 4 * f, about, 0, way, 0);
    } else for (let k = 0; k < 3; k++) to[3 * f + k] = about[k]! + by * way[k]!;
  };
  const reference = new Float64Array(size);
  for (let f = a; f <= b; f++) {
    const u = b > a ? (f - a) / (b - a) : 1;
    if (does.tool === 'smooth') {
      const average = averageOf(from, f, does.width, size, inside);
      mix(to, size * f, from, size * f, average, 0, does.amount, size);
    } else if (does.tool === 'exaggerate') {
      if (does.about === 'line') {
        mix(reference, 0, from, size * a, from, size * b, u, size);
        scale(f, reference, does.amount);
      } else scale(f, g.source(c.node, path, begin + f), does.amount);
    } else if (does.tool === 'settle') scale(f, at(b), exp(-SETTLING * does.amount * u));
    else if (does.tool === 'offset') {
      const when = f - index * does.frames;
      const whole = Math.floor(when);
      mix(to, size * f, from, size * inside(whole), from, size * inside(whole + 1), when - whole, size);
    } else if (does.tool === 'to source')
      mix(to, size * f, from, size * f, g.source(c.node, path, begin + f), 0, does.amount, size);
    else if (does.tool === 'to pose') {
      const pose = inside(does.pose === 'before' ? a - 1 : b + 1);
      mix(to, size * f, from, size * f, from, size * pose, does.amount, size);
    } else if (does.tool === 'close loop') {
      wayFrom(way, at(b), at(a));
      const share = u * u * (3 - 2 * u);
      if (size === 4) {
        quatPower(way, 0, way, 0, share);
        quatMultiply(to, 4 * f, from, 4 * f, way, 0);
      } else for (let k = 0; k < 3; k++) to[3 * f + k]! += share * way[k]!;
    }
  }
  if (does.tool === 'remove jitter') steady(to, a, b, does.amount, size);
  if (size === 4)
    for (let f = Math.max(1, a); f <= b; f++) {
      quatNormalise(to, 4 * f);
      sideOf(to, 4 * f, to, 4 * (f - 1));
    }
}

/** A Gaussian average round a frame, `width` frames to one standard deviation. */
function averageOf(
  from: Float64Array,
  f: number,
  width: number,
  size: number,
  inside: (f: number) => number,
): Float64Array {
  const out = new Float64Array(size);
  const reach = Math.ceil(3 * width);
  let sum = 0;
  for (let d = -reach; d <= reach; d++) {
    const weight = exp((-d * d) / (2 * width * width));
    const i = size * inside(f + d);
    let side = 1;
    if (size === 4) {
      let dot = 0;
      for (let k = 0; k < 4; k++) dot += from[i + k]! * from[4 * f + k]!;
      side = dot < 0 ? -1 : 1;
    }
    for (let k = 0; k < size; k++) out[k]! += weight * side * from[i + k]!;
    sum += weight;
  }
  for (let k = 0; k < size; k++) out[k]! /= sum;
  if (size === 4) quatNormalise(out, 0);
  return out;
}

/**
 * Takes out what goes to and fro from frame to frame (by fourth differences, whose gain is 16 there), and leaves slower
 * motion.
 */
function steady(to: Float64Array, a: number, b: number, amount: number, size: number): void {
  const n = to.length / size;
  for (let round = 0; round < STEADYINGS; round++) {
    const from = to.slice();
    for (let f = Math.max(2, a); f <= Math.min(n - 3, b); f++)
      for (let k = 0; k < size; k++) {
        const x = (d: number) => from[size * (f + d) + k]!;
        to[size * f + k]! -= (amount * (x(-2) - 4 * x(-1) + 6 * x(0) - 4 * x(1) + x(2))) / 16;
      }
  }
}
