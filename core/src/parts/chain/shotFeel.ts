import type { Frames } from '../../frames/index';
import type { ShotFeel } from '../diagnosis';
import type { SourceTrack } from '../kind';
import { lagOf, overshootOf } from '../trailing';
import type { ChainSource } from './source';

/** Degrees the source's chord must turn for a lag and an overshoot to mean something. */
const LEAST_TURN = 2;
/** The longest lag that is looked for, s. */
const LONGEST_LAG = 1.5;

/** What a chain does on the shot: its largest swing away from the source, how long that takes to die, how it trails. */
export function measureChain(frames: Frames, track: SourceTrack, chain: number, fps: number): ShotFeel {
  const c = frames.parts.length;
  const at = (f: number) => frames.offSource[f * c + chain]!;
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
