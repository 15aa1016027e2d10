import type { Feel } from './diagnosis';

/** The standard quick turn: from 0 to 1 in 1/6 s, minimum jerk (Flash and Hogan 1985). */
const TURN_TIME = 1 / 6;
const minimumJerk = (t: number): number => (t >= 1 ? 1 : t <= 0 ? 0 : t * t * t * (10 + t * (6 * t - 15)));
const WITHIN = 0.05;

/** How an answer is watched: steps a second, s at most, and s of rest after which nothing more comes. */
interface Watch {
  readonly rate: number;
  readonly longest: number;
  readonly quiet: number;
}

/**
 * Lag, overshoot and settle of what answers the standard quick turn, in frames of 1 / fps. `step` takes how far the
 * turn has come (0..1) at the next step, and says how far the answer has.
 */
export function watchTurn(
  step: (turned: number) => number,
  { rate, longest, quiet }: Watch,
  fps: number,
): Feel {
  const curve: number[] = [0];
  let [half, most, lastOut, before] = [NaN, 0, 0, 0];
  let k = 1;
  for (; k <= longest * rate; k++) {
    const time = k / rate;
    const share = step(minimumJerk(time / TURN_TIME));
    if (Number.isNaN(half) && share >= 0.5) half = (k - 1 + (0.5 - before) / (share - before)) / rate;
    most = Math.max(most, share);
    if (Math.abs(share - 1) > WITHIN) lastOut = time;
    before = share;
    if (Math.floor(time * fps + 1e-9) >= curve.length) curve.push(share);
    if (time > TURN_TIME + 0.5 && time - lastOut > quiet) break;
  }
  return {
    lag: Number.isNaN(half) ? Infinity : (half - TURN_TIME / 2) * fps,
    overshoot: Math.max(0, most - 1) * 100,
    settle: k > longest * rate ? Infinity : Math.max(0, lastOut - TURN_TIME) * fps,
    curve: Float64Array.from(curve),
  };
}
