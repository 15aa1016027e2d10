import { profileAt } from '../../model/index';
import { keyedValues } from '../keyed';
import type { StrandsPart } from './document';
import { STRAND_SETTING_KEYS, type StrandSettingKey } from './settings';

export type StrandValues = (key: StrandSettingKey, frame: number) => number;

/** The settings of strands at any frame. */
export const valuesOf = (part: Pick<StrandsPart, 'settings' | 'keys'>): StrandValues =>
  keyedValues(STRAND_SETTING_KEYS, part);

/** A factor on each of n links: so many at the root, 1 at the tip. */
export const rootToTip = (root: number, n: number): Float64Array =>
  Float64Array.from({ length: n }, (_, i) => (n > 1 ? root + ((1 - root) * i) / (n - 1) : 1));

/** The factors on the hold and bend of each link (m): those from root to tip times their profiles, times a share. */
export function factorsAlong(
  { profiles }: Pick<StrandsPart, 'profiles'>,
  root: number,
  lengths: ArrayLike<number>,
  shares: { readonly hold: number; readonly bend: number } = { hold: 1, bend: 1 },
): { readonly holdBy: Float64Array; readonly bendBy: Float64Array } {
  const by = rootToTip(root, lengths.length);
  let whole = 0;
  for (let i = 0; i < lengths.length; i++) whole += lengths[i]!;
  const of = (key: 'hold' | 'bend') => {
    let at = 0;
    return by.map((x, i) => {
      at += lengths[i]!;
      return x * shares[key] * profileAt(profiles[key], (at - lengths[i]! / 2) / whole);
    });
  };
  return { holdBy: of('hold'), bendBy: of('bend') };
}
