import type { StrandsPart } from '@oscillum/core/strands';
import type { PaintedMaps } from '../kind';

/** What is painted on hair: where it grows. */
export const strandsMaps: PaintedMaps<StrandsPart> = {
  label: () => 'Where it grows',
  span: () => ({ low: 0, high: 100, unit: '%' }),
};
