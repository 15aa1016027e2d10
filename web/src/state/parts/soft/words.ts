import type { RegionPart } from '@oscillum/core/soft';
import type { PaintedMaps } from '../kind';

/** What is painted on a region is how soft it is. */
export const regionMaps: PaintedMaps<RegionPart> = {
  label: () => 'softness',
  span: () => ({ low: 0, high: 100, unit: '%' }),
};
