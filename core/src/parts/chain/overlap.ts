import {
  atan2,
  quatConjugate,
  quatFromAxis,
  quatMultiply,
  quatNormalise,
  quatRotate,
} from '../../math/index';
import type { SourceRows } from '../../solver/index';
import type { SourceTrack } from '../kind';
import { rowAt } from '../rows';
import type { ChainPart } from './document';
import type { ChainSource } from './source';
import type { ChainTuning } from './tuning';
import { turnedRows } from './turnedRows';

const OVERLAP = ['overlap', 'overlapGain', 'overlapLag'] as const;

/**
 * The source rows a chain chases when a swing is handed down to it. What its driver (the joint above it, or its first
 * joint) turns away from its own mean is a turn vector w(t) in the driver's own space. Joint i below it turns, on top
 * of its source, by `overlap · gain^i · w(t − i · lag)` about the same axis carried along the chain, so that each
 * joint swings later and larger than the one before. In a loop delays wrap; before the first row it is the first row.
 * Returns the source's own rows when nothing is handed down.
 */
export function overlapRows(
  c: ChainSource,
  part: ChainPart,
  track: SourceTrack,
  tuning: ChainTuning,
): SourceRows {
  const n = c.lengths.length;
  const rows = c.body.length / 4;
  const frameOf = (k: number) => track.from - 1 + k;
  const amounts = Float64Array.from({ length: rows }, (_, k) => tuning.value('overlap', frameOf(k)) / 100);
  if (amounts.every((a) => a === 0)) return c;
  // Keyed values are those of each row's frame; the others are made once.
  const keyed = OVERLAP.some((key) => part.keys[key]?.length);
  const first = part.overlapFrom === 'first' ? 1 : 0;
  const swings = swingsOf(c, track);
  const axes = axesOf(c, track, first);
  let gain = tuning.links('overlapGain', frameOf(0));
  let lag = tuning.links('overlapLag', frameOf(0));
  let size = 0;
  let late = 0;
  const added = new Float64Array(4);
  const w = new Float64Array(3);
  return turnedRows(c, c.body, n, track, (k, i, link) => {
    if (i === 0) {
      [size, late] = [amounts[k]!, 0];
      if (keyed) {
        gain = tuning.links('overlapGain', frameOf(k));
        lag = tuning.links('overlapLag', frameOf(k));
      }
    }
    if (i < first) return;
    size *= gain[i]! / 100;
    late += Math.max(0, lag[i]!);
    swingAt(w, swings, track, k, late);
    quatRotate(w, 0, axes, 4 * i, w, 0);
    turnBy(added, w, size);
    quatMultiply(link, 0, added, 0, link, 0);
  });
}

/** Rows that a mean is taken over: one lap of a loop, else every frame that is simulated. */
const lastOfMean = (track: SourceTrack, rows: number): number => track.loop?.period ?? rows - 3;

/** Turn vectors (rad, 3 numbers a row) by which the driver is off its own mean, in its own space. */
function swingsOf(c: ChainSource, track: SourceTrack): Float64Array {
  const rows = c.body.length / 4;
  const last = lastOfMean(track, rows);
  const mean = new Float64Array(4);
  for (let k = 1; k <= last; k++) for (let a = 0; a < 4; a++) mean[a]! += c.driver[4 * k + a]!;
  quatNormalise(mean, 0);
  quatConjugate(mean, 0, mean, 0);
  const out = new Float64Array(3 * rows);
  const off = new Float64Array(4);
  for (let k = 0; k < rows; k++) {
    quatMultiply(off, 0, mean, 0, c.driver, 4 * k);
    const sign = off[3]! < 0 ? -1 : 1;
    const l = Math.sqrt(off[0]! ** 2 + off[1]! ** 2 + off[2]! ** 2);
    const per = l > 1e-15 ? (2 * atan2(l, sign * off[3]!)) / l : 2;
    for (let a = 0; a < 3; a++) out[3 * k + a] = sign * per * off[a]!;
  }
  if (!track.loop) return out;
  // What drifts over a lap, as where the figure turns round, is no swing.
  const { period } = track.loop;
  for (let a = 0; a < 3; a++) {
    const drift = out[3 * (1 + period) + a]! - out[3 + a]!;
    for (let k = 1; k <= period; k++) out[3 * k + a]! -= (drift * (k - 1)) / period;
    out[a] = out[3 * period + a]!;
    for (let k = period + 1; k < rows; k++) out[3 * k + a] = out[3 * (k - period) + a]!;
  }
  return out;
}

/** The swing `late` frames before row k. */
function swingAt(
  out: Float64Array,
  swings: Float64Array,
  { loop }: SourceTrack,
  k: number,
  late: number,
): void {
  let at = k - late;
  if (loop) while (at < 1) at += loop.period;
  else at = Math.max(Math.min(k, 1), at);
  const row = Math.floor(at);
  rowAt(out, swings, 3, row, at - row);
}

/** The turn by a vector (rad) times a factor. */
function turnBy(out: Float64Array, w: Float64Array, by: number): void {
  const l = Math.sqrt(w[0]! ** 2 + w[1]! ** 2 + w[2]! ** 2);
  if (l < 1e-15) out.set([0, 0, 0, 1]);
  else quatFromAxis(out, 0, w[0]! / l, w[1]! / l, w[2]! / l, l * by);
}

/** For each joint, the turn that takes the driver's space to that of the joint above it, on the mean. */
function axesOf(c: ChainSource, track: SourceTrack, first: number): Float64Array {
  const n = c.lengths.length;
  const rows = c.body.length / 4;
  const out = new Float64Array(4 * n);
  const one = new Float64Array(4);
  for (let i = 0; i < n; i++) {
    out[4 * i + 3] = 1;
    if (i <= first) continue;
    const sum = new Float64Array(4);
    for (let k = 1; k <= lastOfMean(track, rows); k++) {
      quatConjugate(one, 0, c.turns, 4 * (k * n + i - 1));
      if (first) quatMultiply(one, 0, one, 0, c.turns, 4 * k * n);
      else quatMultiply(one, 0, one, 0, c.body, 4 * k);
      const sign = one.reduce((dot, x, a) => dot + x * sum[a]!, 0) < 0 ? -1 : 1;
      for (let a = 0; a < 4; a++) sum[a]! += sign * one[a]!;
    }
    quatNormalise(sum, 0);
    out.set(sum, 4 * i);
  }
  return out;
}
