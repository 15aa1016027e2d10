import type { AskedFeel, Feel, FittedFeel, ShotFeel } from '../diagnosis';
import { fitTo } from '../fitting';
import type { Simulated } from '../kind';
import { lagOf, overshootOf } from '../trailing';
import { pairAt, valuesOf } from './answer';
import type { PendulumPart } from './document';
import { advancePair, stepOf, type Pair } from './pair';

/** The standard quick turn: from 0 to 1 in 1/6 s, minimum jerk (Flash and Hogan 1985). */
const TURN_TIME = 1 / 6;
const minimumJerk = (t: number): number => (t >= 1 ? 1 : t <= 0 ? 0 : t * t * t * (10 + t * (6 * t - 15)));
const WITHIN = 0.05;
/** Steps a second of the measurement, and how long it watches at most, s. */
const RATE = 480;
const LONGEST = 20;

/** How the first pendulum of a pair answers the standard quick turn; a frame is 1 / fps. */
export function measurePair(pair: Pair, fps: number): Feel {
  const step = stepOf(pair, 1 / RATE);
  const state = new Float64Array(4);
  const curve: number[] = [0];
  let [half, most, lastOut, before, input] = [NaN, 0, 0, 0, 0];
  let k = 1;
  for (; k <= LONGEST * RATE; k++) {
    const time = k / RATE;
    const next = minimumJerk(time / TURN_TIME);
    advancePair(state, step, input, next);
    input = next;
    const share = state[0]!;
    if (Number.isNaN(half) && share >= 0.5) half = (k - 1 + (0.5 - before) / (share - before)) / RATE;
    most = Math.max(most, share);
    if (Math.abs(share - 1) > WITHIN) lastOut = time;
    before = share;
    if (Math.floor(time * fps + 1e-9) >= curve.length) curve.push(share);
    // Long inside its band: nothing more will come.
    if (time > TURN_TIME + 0.5 && time - lastOut > 2) break;
  }
  return {
    lag: Number.isNaN(half) ? Infinity : (half - TURN_TIME / 2) * fps,
    overshoot: Math.max(0, most - 1) * 100,
    settle: k > LONGEST * RATE ? Infinity : Math.max(0, lastOut - TURN_TIME) * fps,
    curve: Float64Array.from(curve),
  };
}

/** The feel of a pendulum with its settings at a frame. Its delay adds to the lag. */
export function pendulumFeel(part: PendulumPart, fps: number, frame: number): Feel {
  const value = valuesOf(part);
  const feel = measurePair(pairAt(part, value, frame), fps);
  return { ...feel, lag: feel.lag + value('delay', frame) };
}

/** Hz that a pendulum may have at most. */
const MOST = 30;

/** Frequencies and damping ratios that give an asked feel; both pendulums keep their proportions. */
export function fitPendulum(part: PendulumPart, fps: number, frame: number, asked: AskedFeel): FittedFeel {
  const value = valuesOf(part);
  const base = pairAt(part, value, frame);
  const delay = value('delay', frame);
  const ratio = base.damping > 0 ? base.damping2 / base.damping : 1;
  const set = (scale: number, damping: number) => ({
    frequency: base.frequency * scale,
    frequency2: base.frequency2 * scale,
    damping,
    damping2: Math.min(4, damping * ratio),
  });
  const begin = Math.max(0.01, base.damping);
  return fitTo(asked, begin, MOST / Math.max(base.frequency, base.frequency2), set, (settings) => {
    const feel = measurePair({ ...base, ...settings }, fps);
    return { ...feel, lag: feel.lag + delay };
  });
}

/** What it does on the shot: where the first pendulum is farthest from the input, and how it trails it. */
export function measurePendulum({ shot, frames, index }: Simulated<PendulumPart>): ShotFeel {
  const { from } = frames.parts[index]!.readouts;
  const wide = frames.readoutNames.length;
  const column = (k: number) =>
    Float64Array.from({ length: frames.count }, (_, f) => frames.readouts[f * wide + from + k]!);
  const [input, first] = [column(0), column(1)];
  const off = first.map((x, f) => Math.abs(x - input[f]!));
  const frame = off.indexOf(Math.max(...off));
  const rest = off.at(-1)!;
  let last = frame;
  off.forEach((v, f) => f >= frame && Math.abs(v - rest) > WITHIN * (off[frame]! - rest) && (last = f));
  const [low, high] = [Math.min(...input), Math.max(...input)];
  const moves = high - low > 1e-9;
  const mean = input.reduce((a, b) => a + b, 0) / input.length;
  const centred = [input, first].map((row) => row.map((x) => x - mean)) as [Float64Array, Float64Array];
  return {
    frame: frames.first + frame,
    swing: frames.offSource[frame * frames.parts.length + index]!,
    settle: last < frames.count - 2 ? last - frame : Infinity,
    lag: moves ? lagOf(...centred, Math.ceil(2 * shot.fps)) : NaN,
    overshoot: moves ? overshootOf(input, first, high - low) : NaN,
  };
}
