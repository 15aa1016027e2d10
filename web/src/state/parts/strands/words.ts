import { STRAND_SETTINGS, type StrandMapKey, type StrandsPart } from '@oscillum/core/strands';
import { settingAt } from '../../settingAt';
import type { PaintedMaps } from '../kind';

/** What is painted on hair: where it grows, and how much of its hold and bend it has. */
export const strandsMaps: PaintedMaps<StrandsPart> = {
  label: (key) => (key === 'grow' ? 'Where it grows' : STRAND_SETTINGS[key as 'hold'].label.toLowerCase()),
  span: (part, key, frame) =>
    (key as StrandMapKey) === 'grow'
      ? { low: 0, high: 100, unit: '%' }
      : { low: 0, high: settingAt(part, key as 'hold', frame), unit: STRAND_SETTINGS[key as 'hold'].unit },
};
