import type { Frames } from '@oscillum/core/frames';
import type { Output } from '@oscillum/core/pendulum';

/** What a pendulum did over the range, by frame: rows that are not simulated yet are left out. */
export interface Readings {
  readonly first: number;
  readonly input: Float32Array;
  /** Of the first and the second pendulum. */
  readonly answers: readonly [Float32Array, Float32Array];
  /** By output id, in its target's unit. */
  readonly outputs: ReadonlyMap<string, Float32Array>;
}

export function readingsOf(frames: Frames | null, partId: string): Readings | null {
  const part = frames?.parts.find((p) => p.partId === partId);
  if (!frames || !part || frames.done === 0) return null;
  const { from, length } = part.readouts;
  const wide = frames.readoutNames.length;
  const column = (k: number) =>
    Float32Array.from({ length: frames.done }, (_, f) => frames.readouts[f * wide + from + k]!);
  const outputs = new Map<string, Float32Array>();
  for (let k = 3; k < length; k++) outputs.set(frames.readoutNames[from + k]!, column(k));
  return { first: frames.first, input: column(0), answers: [column(1), column(2)], outputs };
}

/** Frame (from the first) at which a row is farthest from 0. */
export function peakAt(row: Float32Array): number {
  let best = 0;
  row.forEach((v, f) => Math.abs(v) > Math.abs(row[best]!) && (best = f));
  return best;
}

/** Frames by which a row follows another, where the two agree best, up to `most`; NaN when one of them stands still. */
export function lagBehind(input: Float32Array, row: Float32Array, most: number): number {
  const centred = (list: Float32Array) => {
    const mean = list.reduce((a, b) => a + b, 0) / list.length;
    return list.map((x) => x - mean);
  };
  const [a, b] = [centred(input), centred(row)];
  const score = (shift: number) => {
    let [ab, aa, bb] = [0, 0, 0];
    for (let f = Math.max(0, shift); f < b.length; f++) {
      const x = a[f - shift] ?? 0;
      ab += x * b[f]!;
      aa += x * x;
      bb += b[f]! ** 2;
    }
    return aa > 1e-12 && bb > 1e-12 ? Math.abs(ab) / Math.sqrt(aa * bb) : NaN;
  };
  const scores = Array.from({ length: Math.min(most, input.length >> 1) + 1 }, (_, k) => score(k));
  if (scores.some(Number.isNaN)) return NaN;
  const best = scores.indexOf(Math.max(...scores));
  const [p, q, r] = [scores[best - 1], scores[best]!, scores[best + 1]];
  if (p === undefined || r === undefined) return best;
  return best + (p - r) / (2 * (p - 2 * q + r) || 1);
}

/** Unit in which an output is shown, and how many of it are one in the document: scales are shown in %. */
export const unitOf = ({ target }: Output): string =>
  target.does === 'turn' ? '°' : target.does === 'place' ? 'm' : target.does === 'scale' ? '%' : '';
export const perUnit = ({ target }: Output): number => (target.does === 'scale' ? 100 : 1);

/** What an output drives, in words. */
export const nameOf = ({ target }: Output): string =>
  target.does === 'morph'
    ? `${target.morph.name}, shape ${target.morph.target + 1}`
    : `${target.joint.name}, ${target.does === 'place' ? 'moved' : target.does === 'turn' ? 'turned' : 'scaled'}`;
