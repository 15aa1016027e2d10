import type { Frames } from '../../frames/index';
import type { ShotFeel } from '../diagnosis';
import type { SourceTrack } from '../kind';
import type { ChainSource } from './source';

/** Degrees the source's chord must turn for a lag and an overshoot to mean something. */
const LEAST_TURN = 2;
/** The longest lag that is looked for, s. */
const LONGEST_LAG = 1.5;
/** Correlations this near are alike. */
const ABOUT_AS_GOOD = 0.05;
/** A turn ends where the source has gone back by this share of its whole range, or stands still. */
const REVERSAL = 0.02;

/** What a chain does on the shot: its largest swing away from the source, how long that takes to die, how it trails. */
export function measureChain(frames: Frames, track: SourceTrack, chain: number, fps: number): ShotFeel {
  const c = frames.parts.length;
  const at = (f: number) => frames.stray[f * c + chain]!;
  let frame = 0;
  for (let f = 0; f < frames.count; f++) if (at(f) > at(frame)) frame = f;
  const rest = at(frames.count - 1);
  const band = 0.05 * (at(frame) - rest);
  let last = frame;
  for (let f = frame; f < frames.count; f++) if (Math.abs(at(f) - rest) > band) last = f;
  const settled = last < frames.count - 2;
  return {
    frame: frames.first + frame,
    swing: at(frame),
    settle: settled ? last - frame : Infinity,
    ...trailing(frames, track, chain, fps),
  };
}

/** Unit chords (root to tip) of source and simulation over the range, less their means. */
function chords(frames: Frames, track: SourceTrack, chain: number): [Float64Array, Float64Array] {
  const { points, lengths } = track.parts[chain]!.source as ChainSource;
  const n = lengths.length;
  const source = new Float64Array(3 * frames.count);
  const simulated = new Float64Array(3 * frames.count);
  for (let f = 0; f < frames.count; f++) {
    const root = 3 * (n + 1) * (track.first - track.from + 1 + f);
    for (let a = 0; a < 3; a++) {
      source[3 * f + a] = points[root + 3 * n + a]! - points[root + a]!;
      simulated[3 * f + a] = frames.tips[3 * (f * frames.parts.length + chain) + a]! - points[root + a]!;
    }
  }
  for (const row of [source, simulated]) {
    const mean = [0, 0, 0];
    for (let k = 0; k < row.length; k += 3) {
      const l = Math.sqrt(row[k]! ** 2 + row[k + 1]! ** 2 + row[k + 2]! ** 2) || 1;
      for (let a = 0; a < 3; a++) mean[a]! += (row[k + a]! /= l) / frames.count;
    }
    for (let k = 0; k < row.length; k++) row[k]! -= mean[k % 3]!;
  }
  return [source, simulated];
}

function trailing(
  frames: Frames,
  track: SourceTrack,
  chain: number,
  fps: number,
): { lag: number; overshoot: number } {
  const [source, simulated] = chords(frames, track, chain);
  // The source's motion along the line through its two farthest chords (found by two sweeps) is its turning.
  const far = (k: number) => {
    let best = 0;
    let most = -1;
    for (let f = 0; f < frames.count; f++) {
      let d = 0;
      for (let a = 0; a < 3; a++) d += (source[3 * f + a]! - source[3 * k + a]!) ** 2;
      if (d > most) [most, best] = [d, f];
    }
    return best;
  };
  const one = far(0);
  const two = far(one);
  const axis = [0, 1, 2].map((a) => source[3 * two + a]! - source[3 * one + a]!);
  const range = Math.sqrt(axis.reduce((sum, x) => sum + x * x, 0));
  if (range < (LEAST_TURN * Math.PI) / 180) return { lag: NaN, overshoot: NaN };
  const along = (row: Float64Array) =>
    Float64Array.from({ length: frames.count }, (_, f) =>
      axis.reduce((sum, x, a) => sum + (x * row[3 * f + a]!) / range, 0),
    );
  const s = along(source);
  const x = along(simulated);
  return { lag: lagOf(s, x, Math.ceil(LONGEST_LAG * fps)), overshoot: overshootOf(s, x, range) };
}

/**
 * The shift (frames, with a fraction by a parabola through the best three) at which x follows s best: the first that is
 * about as good as any, since a motion that repeats agrees again one period on.
 */
function lagOf(s: Float64Array, x: Float64Array, longest: number): number {
  const score = (shift: number) => {
    let [xs, xx, ss] = [0, 0, 0];
    for (let f = Math.max(0, shift); f < s.length + Math.min(0, shift); f++) {
      xs += x[f]! * s[f - shift]!;
      xx += x[f]! ** 2;
      ss += s[f - shift]! ** 2;
    }
    return xs / Math.sqrt(xx * ss || 1);
  };
  const most = Math.min(longest, s.length >> 1);
  const scores = Array.from({ length: most + 2 }, (_, k) => score(k - 1));
  const good = Math.max(...scores) - ABOUT_AS_GOOD;
  const peak = scores.findIndex(
    (v, k) => k > 0 && v >= good && v >= scores[k - 1]! && v >= (scores[k + 1] ?? -1),
  );
  if (peak <= 0 || peak === scores.length - 1) return Math.max(0, scores.indexOf(Math.max(...scores)) - 1);
  const [a, b, d] = [scores[peak - 1]!, scores[peak]!, scores[peak + 1]!];
  return Math.max(0, peak - 1 + (a - d) / (2 * (a - 2 * b + d) || 1));
}

/** How far x passes the end of the largest turn of s, in % of that turn. */
function overshootOf(s: Float64Array, x: Float64Array, range: number): number {
  // Ends of turns: frames from which s goes back by more than a little.
  const ends = [0];
  let way = 0;
  let best = 0;
  for (let f = 1; f < s.length; f++) {
    const gone = (s[f]! - s[best]!) * (way || 1);
    if (way === 0) {
      if (Math.abs(s[f]! - s[0]!) > REVERSAL * range) [way, best] = [Math.sign(s[f]! - s[0]!), f];
    } else if (gone > 1e-3 * range) best = f;
    else if (gone < -REVERSAL * range) {
      ends.push(best);
      way = -way;
      best = f;
    }
  }
  ends.push(best);
  // Where the chain hangs beside its source most of the time is sag, not overshoot.
  const sag = Array.from(x, (v, f) => v - s[f]!).sort((a, b) => a - b)[x.length >> 1]!;
  let most = 0;
  let over = 0;
  for (let k = 1; k < ends.length; k++) {
    const [from, to] = [ends[k - 1]!, ends[k]!];
    const turn = s[to]! - s[from]!;
    if (Math.abs(turn) <= most) continue;
    most = Math.abs(turn);
    over = 0;
    // Until the source's next turn ends, the chain still answers this one.
    for (let f = to; f < (ends[k + 1] ?? s.length); f++) over = Math.max(over, (x[f]! - sag - s[to]!) / turn);
  }
  return 100 * over;
}
