import { BODY_SETTINGS, type BodyPart } from '@oscillum/core/body';
import { settingAt } from '../../settingAt';
import type { PaintedMaps } from '../kind';

/** What is painted on a soft body is how much of its hold and of its firmness each place has. */
export const bodyMaps: PaintedMaps<BodyPart> = {
  label: (key) => (key === 'hold' ? 'hold' : 'firmness'),
  span: (part, key, frame) =>
    key === 'hold'
      ? { low: 0, high: settingAt(part, 'hold', frame), unit: BODY_SETTINGS.hold.unit }
      : { low: 0, high: 100, unit: '%' },
};
