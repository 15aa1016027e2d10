import { keyedValues } from '../keyed';
import type { StrandsPart } from './document';
import { STRAND_SETTING_KEYS, type StrandSettingKey } from './settings';

export type StrandValues = (key: StrandSettingKey, frame: number) => number;

/** The settings of strands at any frame. */
export const valuesOf = (part: Pick<StrandsPart, 'settings' | 'keys'>): StrandValues =>
  keyedValues(STRAND_SETTING_KEYS, part);

/** The factor on hold and bend of each of n links: so many at the root, 1 at the tip. */
export const rootToTip = (root: number, n: number): Float64Array =>
  Float64Array.from({ length: n }, (_, i) => (n > 1 ? root + ((1 - root) * i) / (n - 1) : 1));
