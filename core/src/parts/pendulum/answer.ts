import { keyedValues } from '../keyed';
import type { PendulumPart } from './document';
import { advancePair, STATE, stepOf, type Pair } from './pair';
import { PENDULUM_SETTING_KEYS, type PendulumSettingKey } from './settings';

/** Steps a second at least: between them the input is taken to be straight. */
const LEAST_RATE = 240;
/** Rows of the table: the input felt, and place and speed (a frame) of both pendulums. */
const ROW = 5;

/** What both pendulums do over the frames of a shot. */
export interface Answer {
  /** Place of pendulum 1 or 2 at a frame, which may be a part of one; held outside what was followed, or repeated. */
  at(pendulum: 1 | 2, frame: number): number;
  /** The input as felt, and the value of a setting. */
  felt(frame: number): number;
  value(key: PendulumSettingKey, frame: number): number;
}

/** Settings of a part over time. */
export const valuesOf = (part: PendulumPart): Answer['value'] => keyedValues(PENDULUM_SETTING_KEYS, part);

export const pairAt = (part: PendulumPart, value: Answer['value'], frame: number): Pair => ({
  frequency: value('frequency', frame),
  damping: value('damping', frame),
  frequency2: value('frequency2', frame),
  damping2: value('damping2', frame),
  coupling: value('coupling', frame),
  noOvershoot: part.noOvershoot,
});

/** Frames followed, first and last, and what is followed over them. */
export interface Followed {
  readonly signal: (frame: number) => number;
  readonly from: number;
  readonly to: number;
  readonly fps: number;
  /** Frames after which it repeats for good, or null: then it begins at rest where the input is at first. */
  readonly period: number | null;
}

/**
 * Follows an input exactly, step by step, and keeps places and speeds; between steps the cubic through both. One that
 * repeats begins in the state it comes back to: a step is linear, so that state is the answer of four equations.
 */
export function makeAnswer(part: PendulumPart, { signal, from, to, fps, period }: Followed): Answer {
  const steps = Math.ceil(LEAST_RATE / fps - 1e-9);
  const frames = period ?? to - from;
  const count = frames * steps;
  const value = valuesOf(part);
  const keyed = ['frequency', 'damping', 'frequency2', 'damping2', 'coupling'].some(
    (k) => (part.keys[k as PendulumSettingKey]?.length ?? 0) > 0,
  );
  const felt = Float64Array.from({ length: count + 1 }, (_, k) => {
    const frame = from + k / steps;
    return (value('response', frame) / 100) * signal(frame);
  });
  if (period !== null) felt[count] = felt[0]!;
  const h = 1 / (fps * steps);
  const steady = keyed ? null : stepOf(pairAt(part, value, from), h);
  const stepAt = (k: number) => steady ?? stepOf(pairAt(part, value, from + (k + 0.5) / steps), h);
  const run = (state: Float64Array, input: Float64Array, each?: (k: number) => void) => {
    for (let k = 0; k < count; k++) {
      advancePair(state, stepAt(k), input[k]!, input[k + 1]!);
      each?.(k + 1);
    }
    return state;
  };
  const state = Float64Array.of(felt[0]!, felt[0]!, 0, 0);
  if (period !== null) state.set(repeating(run, felt));
  const table = new Float64Array(ROW * (count + 1));
  const keep = (k: number) => {
    table[ROW * k] = felt[k]!;
    for (let i = 0; i < STATE; i++) table[ROW * k + 1 + i] = state[i]! / (i < 2 ? 1 : fps * steps);
  };
  keep(0);
  run(state, felt, keep);

  /** Where in the table a frame stands, in steps. */
  const place = (frame: number): number => {
    const x = (frame - from) * steps;
    if (period === null) return Math.min(count, Math.max(0, x));
    const way = x % count;
    return way < 0 ? way + count : way;
  };
  return {
    value,
    felt: (frame) => {
      const x = place(frame);
      const k = Math.min(count - 1, Math.floor(x));
      return table[ROW * k]! + (x - k) * (table[ROW * k + ROW]! - table[ROW * k]!);
    },
    at: (pendulum, frame) => {
      const x = place(frame);
      const k = Math.min(count - 1, Math.floor(x));
      return between(table, ROW * k + pendulum, x - k);
    },
  };
}

/**
 * The state that a lap brings back: state = M · state + what the input adds, for M and the sum found by running laps.
 */
function repeating(run: (state: Float64Array, input: Float64Array) => Float64Array, input: Float64Array) {
  const none = new Float64Array(input.length);
  const added = run(new Float64Array(STATE), input);
  const rows = Array.from({ length: STATE }, () => new Float64Array(STATE + 1));
  for (let j = 0; j < STATE; j++) {
    const unit = new Float64Array(STATE);
    unit[j] = 1;
    run(unit, none).forEach((x, i) => (rows[i]![j] = (i === j ? 1 : 0) - x));
  }
  added.forEach((x, i) => (rows[i]![STATE] = x));
  return solved(rows);
}

/**
 * Gaussian elimination with row exchange; the last column is the right-hand side. A pair that never tires has no
 * answer: 0.
 */
function solved(a: Float64Array[]): Float64Array {
  const n = a.length;
  for (let p = 0; p < n; p++) {
    let best = p;
    for (let r = p + 1; r < n; r++) if (Math.abs(a[r]![p]!) > Math.abs(a[best]![p]!)) best = r;
    [a[p], a[best]] = [a[best]!, a[p]!];
    if (Math.abs(a[p]![p]!) < 1e-12) return new Float64Array(n);
    for (let r = 0; r < n; r++) {
      if (r === p) continue;
      const by = a[r]![p]! / a[p]![p]!;
      for (let c = p; c <= n; c++) a[r]![c]! -= by * a[p]![c]!;
    }
  }
  return Float64Array.from(a, (row, i) => row[n]! / row[i]!);
}

/** The cubic through the places and speeds (a step) of two rows. */
function between(table: Float64Array, at: number, u: number): number {
  const [p, q] = [table[at]!, table[at + ROW]!];
  const [m, n] = [table[at + 2]!, table[at + ROW + 2]!];
  const u2 = u * u;
  const u3 = u2 * u;
  return (2 * u3 - 3 * u2 + 1) * p + (u3 - 2 * u2 + u) * m + (3 * u2 - 2 * u3) * q + (u3 - u2) * n;
}
