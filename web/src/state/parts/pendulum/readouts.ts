import type { Frames } from '@oscillum/core/frames';
import { lagOf } from '@oscillum/core/measure';
import type { Output } from '@oscillum/core/pendulum';
import { drivenSetting, type Shot } from '@oscillum/core/shot';

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

/**
 * Frames by which a row follows another, up to `most`; NaN when one of them stands still. A row that goes the other
 * way, as a gain below 0 makes it, is turned over first.
 */
export function lagBehind(input: Float32Array, row: Float32Array, other: boolean, most: number): number {
  const centred = (list: Float32Array, sign: number) => {
    const mean = list.reduce((a, b) => a + b, 0) / list.length;
    return Float64Array.from(list, (x) => sign * (x - mean));
  };
  const [a, b] = [centred(input, 1), centred(row, other ? -1 : 1)];
  const still = [a, b].some((list) => list.every((x) => Math.abs(x) < 1e-9));
  return still ? NaN : lagOf(a, b, most);
}

/** Unit in which an output is shown, and how many of it are one in the document: scales are shown in %. */
export function unitOf({ target }: Output, parts: Shot['parts']): string {
  if (target.does === 'setting') return drivenSetting(parts, target)?.info.unit ?? '';
  return target.does === 'turn' ? '°' : target.does === 'place' ? 'm' : target.does === 'scale' ? '%' : '';
}
export const perUnit = ({ target }: Output): number => (target.does === 'scale' ? 100 : 1);

const DOES = { turn: 'turned', place: 'moved', scale: 'scaled' } as const;

/** What an output drives, in words. */
export function nameOf({ target }: Output, parts: Shot['parts']): string {
  if (target.does === 'morph') return `${target.morph.name}, shape ${target.morph.target + 1}`;
  if (target.does !== 'setting') return `${target.joint.name}, ${DOES[target.does]}`;
  const driven = drivenSetting(parts, target);
  return driven ? `${driven.part.name}, ${driven.info.label.toLowerCase()}` : 'a setting that is not there';
}
