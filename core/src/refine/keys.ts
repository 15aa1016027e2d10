import { sampleChannel, type Channel } from '../character/index';
import { eulerFrom, eulerTo, sizeOf } from '../curves/index';
import { quatConjugate, quatMultiply, quatNormalise } from '../math/index';
import type { CopiedKey, Refinement, RefineTool } from '../model/index';
import {
  channelOf,
  framesOf,
  keysOf,
  SAME_FRAME,
  slopeBetween,
  timeOf,
  type Ground,
  type Key,
} from './curves';

type KeyTool = Extract<RefineTool, { tool: 'move' | 'insert' | 'delete' | 'slope' | 'handle' | 'paste' }>;

/** A key tool on one channel, the `k`th of its step. Keys that it names and that are not there are put in first. */
export function keyChannel(c: Channel, step: Refinement, does: KeyTool, k: number, g: Ground): Channel {
  if (does.tool === 'paste') return paste(c, does.keys[k] ?? [], does.at, g);
  if (does.tool === 'move') {
    const quick = moveInPlace(c, step, does, k, g);
    if (quick) return quick;
  }
  const keys = keysOf(c, g);
  const named = does.tool === 'insert' ? does.frames : does.keys?.[k];
  const picked: Key[] = [];
  if (named)
    for (const frame of named) {
      let key = keys.find((x) => Math.abs(x.frame - frame) < SAME_FRAME);
      if (!key && does.tool !== 'delete') keys.push((key = keyAt(c, frame, g)));
      if (key) picked.push(key);
    }
  else picked.push(...keys.filter((x) => x.frame >= step.first - 1e-6 && x.frame <= step.last + 1e-6));
  if (picked.length === 0) return c;
  if (does.tool === 'insert') return channelOf(c, keys, g);
  if (does.tool === 'delete') {
    const gone = new Set(picked);
    const left = keys.filter((x) => !gone.has(x));
    // A channel keeps one key, or it would not say where the joint is.
    return channelOf(c, left.length > 0 ? left : [picked[0]!], g);
  }
  if (does.tool === 'move') {
    // Moved ones come last in the list: they count where they land on others.
    const moving = new Set(picked);
    const moved = keys.filter((x) => moving.has(x)).map((x) => nudge(x, c, does, g));
    return channelOf(c, [...keys.filter((x) => !moving.has(x)), ...moved], g);
  }
  keys.sort((x, y) => x.frame - y.frame);
  const chosen = new Set(picked);
  const next = keys.map((key, i): Key => {
    if (!chosen.has(key)) return key;
    if (does.tool === 'handle') return turnHandle(key, c, does, keys, i, g);
    return { ...key, slopes: slopesOf(does.kind, keys, i, g.fps) };
  });
  return channelOf(c, next, g);
}

/**
 * The same for keys that all stay in their order, on flat arrays: what a hand drags is often thousands. Null when keys
 * are to change places, or are not there.
 */
function moveInPlace(
  c: Channel,
  step: Refinement,
  does: Extract<KeyTool, { tool: 'move' }>,
  k: number,
  g: Ground,
): Channel | null {
  const frames = framesOf(c, g);
  const n = frames.length;
  const named = does.keys?.[k];
  const picked: number[] = [];
  if (named) {
    if (does.frames !== 0 && named.length !== n) return null;
    const sorted = Float64Array.from(named).sort();
    let at = 0;
    for (const frame of sorted) {
      while (at < n && frames[at]! < frame - SAME_FRAME) at++;
      if (at === n || Math.abs(frames[at]! - frame) >= SAME_FRAME) return null;
      picked.push(at);
    }
  } else {
    for (let i = 0; i < n; i++)
      if (frames[i]! >= step.first - 1e-6 && frames[i]! <= step.last + 1e-6) picked.push(i);
    if (does.frames !== 0 && picked.length !== n) return null;
  }
  const size = sizeOf(c);
  const cubic = c.interpolation === 'CUBICSPLINE';
  const stride = cubic ? 3 * size : size;
  const values = c.values.slice();
  const rest = g.character.nodes[c.node]!.r;
  const read = size === 4 && does.by !== 0 ? anglesOf(c, rest, stride, cubic) : null;
  const angles = new Float64Array(3);
  const by = new Float64Array(4);
  for (const i of picked) {
    const at = stride * i + (cubic ? size : 0);
    if (size === 3) {
      values[at + does.component]! += does.by;
      continue;
    }
    if (!read) continue;
    for (let a = 0; a < 3; a++) angles[a] = read[3 * i + a]!;
    angles[does.component]! += does.by;
    if (!cubic) {
      eulerTo(values, at, rest, angles);
      continue;
    }
    quatConjugate(by, 0, values, at);
    eulerTo(values, at, rest, angles);
    quatMultiply(by, 0, by, 0, values, at);
    quatMultiply(values, at - 4, values, at - 4, by, 0);
    quatMultiply(values, at + 4, values, at + 4, by, 0);
  }
  if (size === 4) keepSides(values, stride, cubic ? size : 0);
  const times = does.frames === 0 ? c.times : c.times.map((t) => t + does.frames / g.fps);
  return { ...c, times, values };
}

/** Euler angles of a channel's keys, kept while it is the same one: a hand that drags asks again and again. */
const readAngles = new WeakMap<Channel, Float64Array>();
function anglesOf(c: Channel, rest: ArrayLike<number>, stride: number, cubic: boolean): Float64Array {
  let angles = readAngles.get(c);
  if (angles) return angles;
  angles = new Float64Array(3 * c.times.length);
  const one = new Float64Array(3);
  for (let i = 0; i < c.times.length; i++) {
    eulerFrom(one, rest, c.values, stride * i + (cubic ? 4 : 0), one);
    angles.set(one, 3 * i);
  }
  readAngles.set(c, angles);
  return angles;
}

/** Puts every key's quaternion, with its slopes, on the side of the one before. */
function keepSides(values: Float64Array, stride: number, base: number): void {
  for (let i = stride; i < values.length; i += stride) {
    let dot = 0;
    for (let a = 0; a < 4; a++) dot += values[i + base + a]! * values[i - stride + base + a]!;
    if (dot < 0) for (let a = 0; a < stride; a++) values[i + a] = -values[i + a]!;
  }
}

/** The curve's own value at a frame as a key that does not change it. */
export function keyAt(c: Channel, frame: number, g: Pick<Ground, 'fps' | 'shift'>): Key {
  const size = sizeOf(c);
  const sample = (f: number) => {
    const out = new Float64Array(size);
    sampleChannel(c, size, timeOf(f, g), out, 0);
    return out;
  };
  const value = sample(frame);
  if (c.interpolation !== 'CUBICSPLINE') return { frame, value, slopes: null };
  const near = 1e-3;
  const [a, b] = [sample(frame - near), sample(frame + near)];
  const side = (x: Float64Array) => (size === 4 && x.reduce((d, v, i) => d + v * value[i]!, 0) < 0 ? -1 : 1);
  const slope = value.map((_, i) => ((side(b) * b[i]! - side(a) * a[i]!) * g.fps) / (2 * near));
  return { frame, value, slopes: [slope, slope.slice()] };
}

function nudge(key: Key, c: Channel, does: Extract<KeyTool, { tool: 'move' }>, g: Ground): Key {
  const frame = key.frame + does.frames;
  if (c.path !== 'rotation') {
    const value = key.value.slice();
    value[does.component]! += does.by;
    return { ...key, frame, value };
  }
  const rest = g.character.nodes[c.node]!.r;
  const angles = [0, 0, 0];
  eulerFrom(angles, rest, key.value, 0, angles);
  angles[does.component]! += does.by;
  const value = new Float64Array(4);
  eulerTo(value, 0, rest, angles);
  // The slopes turn with their key.
  const by = new Float64Array(4);
  quatConjugate(by, 0, key.value, 0);
  quatMultiply(by, 0, by, 0, value, 0);
  const turned = key.slopes?.map((s) => {
    const out = new Float64Array(4);
    quatMultiply(out, 0, s, 0, by, 0);
    return out;
  });
  return { frame, value, slopes: (turned as Key['slopes']) ?? null };
}

/** Slopes of a key by its neighbours. */
function slopesOf(
  kind: 'auto' | 'flat' | 'straight',
  keys: readonly Key[],
  i: number,
  fps: number,
): [Float64Array, Float64Array] {
  const key = keys[i]!;
  const flat = () => key.value.map(() => 0);
  const [a, b] = [keys[i - 1], keys[i + 1]];
  if (kind === 'flat') return [flat(), flat()];
  if (kind === 'straight')
    return [a ? slopeBetween(a, key, fps) : flat(), b ? slopeBetween(key, b, fps) : flat()];
  // One slope through both neighbours; what turns back at the key is flat there.
  if (!a || !b) return [flat(), flat()];
  const [before, after] = [slopeBetween(a, key, fps), slopeBetween(key, b, fps)];
  const share = (key.frame - a.frame) / (b.frame - a.frame);
  const slope = before.map((x, k) => {
    const y = after[k]!;
    return x * y <= 0 ? 0 : (1 - share) * x + share * y;
  });
  return [slope, slope.slice()];
}

/** Slopes of a key as read in its components, a frame: degrees or the file's unit. */
export function readSlope(
  key: Key,
  side: 0 | 1,
  path: Channel['path'],
  rest: ArrayLike<number>,
  fps: number,
): number[] {
  const slope = key.slopes?.[side];
  if (!slope) return [0, 0, 0];
  if (path !== 'rotation') return Array.from(slope, (x) => x / fps);
  const h = 1e-4;
  const angles = [h, -h].map((d) => {
    const q = key.value.map((x, k) => x + d * slope[k]!);
    quatNormalise(q, 0);
    const out = [0, 0, 0];
    eulerFrom(out, rest, q, 0, out);
    return out;
  });
  return [0, 1, 2].map((k) => {
    const off = angles[0]![k]! - angles[1]![k]!;
    return (off - 360 * Math.round(off / 360)) / (2 * h * fps);
  });
}

function turnHandle(
  key: Key,
  c: Channel,
  does: Extract<KeyTool, { tool: 'handle' }>,
  keys: readonly Key[],
  i: number,
  g: Ground,
): Key {
  const own = key.slopes ?? slopesOf('straight', keys, i, g.fps);
  const rest = g.character.nodes[c.node]!.r;
  const write = (side: 0 | 1): Float64Array => {
    const read = readSlope({ ...key, slopes: own }, side, c.path, rest, g.fps);
    read[does.component] = does.slope;
    if (c.path !== 'rotation') return Float64Array.from(read, (x) => x * g.fps);
    const angles = [0, 0, 0];
    eulerFrom(angles, rest, key.value, 0, angles);
    const h = 1e-3;
    const [a, b] = [1, -1].map((s) => {
      const q = new Float64Array(4);
      eulerTo(
        q,
        0,
        rest,
        angles.map((x, k) => x + s * h * read[k]!),
      );
      const side = q.reduce((d, x, k) => d + x * key.value[k]!, 0) < 0 ? -1 : 1;
      return q.map((x) => side * x);
    }) as [Float64Array, Float64Array];
    return a.map((x, k) => ((x - b[k]!) / (2 * h)) * g.fps);
  };
  return {
    ...key,
    slopes: [does.side === 'out' ? own[0] : write(0), does.side === 'in' ? own[1] : write(1)],
  };
}

/** Puts copied keys on a channel, the first one at a frame, in place of what stood between the first and the last. */
function paste(c: Channel, copied: readonly CopiedKey[], at: number, g: Ground): Channel {
  const size = sizeOf(c);
  const fit = copied.filter((k) => k.value.length === size);
  if (fit.length === 0) return c;
  const last = at + Math.max(...fit.map((k) => k.after));
  const kept = keysOf(c, g).filter((k) => k.frame < at - SAME_FRAME || k.frame > last + SAME_FRAME);
  return channelOf(
    c,
    [
      ...kept,
      ...fit.map((k): Key => ({
        frame: at + k.after,
        value: Float64Array.from(k.value),
        slopes: k.slopes && [Float64Array.from(k.slopes[0]), Float64Array.from(k.slopes[1])],
      })),
    ],
    g,
  );
}
