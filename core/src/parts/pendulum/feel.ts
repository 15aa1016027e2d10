import type { AskedFeel, Feel, FittedFeel, ShotFeel } from '../diagnosis';
import { fitTo } from '../fitting';
import type { Simulated } from '../kind';
import { watchTurn } from '../quickTurn';
import { lagOf, overshootOf } from '../trailing';
import { pairAt, valuesOf } from './answer';
import type { PendulumPart } from './document';
import { advancePair, stepOf, type Pair } from './pair';

const WITHIN = 0.05;
/** Steps a second of the measurement, and how long it watches at most, s. */
const WATCH = { rate: 480, longest: 20, quiet: 2 } as const;

/** How the first pendulum of a pair answers the standard quick turn; a frame is 1 / fps. */
export function measurePair(pair: Pair, fps: number): Feel {
  const step = stepOf(pair, 1 / WATCH.rate);
  const state = new Float64Array(4);
  let input = 0;
  const next = (turned: number) => {
    advancePair(state, step, input, turned);
    input = turned;
    return state[0]!;
  };
  return watchTurn(next, WATCH, fps);
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
