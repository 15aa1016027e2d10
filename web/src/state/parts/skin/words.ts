import type { SkinPart } from '@oscillum/core/skin';
import type { PaintedMaps } from '../kind';

/** What is painted on a skin is how much of it goes along. */
export const skinMaps: PaintedMaps<SkinPart> = {
  label: () => 'share',
  span: () => ({ low: 0, high: 100, unit: '%' }),
};
