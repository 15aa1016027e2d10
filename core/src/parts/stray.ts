/** How far skin that moves by itself is from where it is animated. */
import type { ShotFeel } from './diagnosis';
import type { Simulated } from './kind';

/** It has come to rest within this share of its largest stray. */
const WITHIN = 0.05;

/** What it does on the shot: where it is farthest from its skin, and when it has come to rest after that. */
export function measureStray({ frames, index }: Pick<Simulated, 'frames' | 'index'>): ShotFeel {
  const off = Array.from(
    { length: frames.done },
    (_, f) => frames.offSource[f * frames.parts.length + index]!,
  );
  const frame = off.indexOf(Math.max(...off));
  const rest = off.at(-1) ?? 0;
  let last = frame;
  off.forEach((v, f) => {
    if (f >= frame && Math.abs(v - rest) > WITHIN * (off[frame]! - rest)) last = f;
  });
  return {
    frame: frames.first + Math.max(0, frame),
    swing: off[frame] ?? 0,
    settle: last < frames.count - 2 ? last - frame : Infinity,
    lag: NaN,
    overshoot: NaN,
  };
}

/** How long the longest of some ways (3 numbers each) is. */
export function longest(ways: Float64Array): number {
  const o = farthest(ways);
  return ways.length > 0 ? Math.sqrt(ways[o]! ** 2 + ways[o + 1]! ** 2 + ways[o + 2]! ** 2) : 0;
}

/** Where the longest of some ways (3 numbers each) begins. */
export function farthest(off: Float64Array): number {
  let most = 0;
  let where = 0;
  for (let o = 0; o < off.length; o += 3) {
    const far = off[o]! * off[o]! + off[o + 1]! * off[o + 1]! + off[o + 2]! * off[o + 2]!;
    if (far <= most) continue;
    most = far;
    where = o;
  }
  return where;
}
