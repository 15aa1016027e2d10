import { CLOTH_SETTINGS, type ClothPart, type ClothSettingKey } from '@oscillum/core/cloth';
import { settingAt } from '../../settingAt';
import type { PaintedMaps } from '../kind';

/** What maps of a cloth are called, and what their shares stand for. */
export const clothMaps: PaintedMaps<ClothPart> = {
  label: (key) =>
    key === 'release' ? 'release' : CLOTH_SETTINGS[key as ClothSettingKey].label.toLowerCase(),
  span: (part, key, frame) => {
    if (key === 'release')
      return { low: part.release?.first ?? 0, high: part.release?.last ?? 0, unit: 'frame' };
    const setting = key as ClothSettingKey;
    return { low: 0, high: settingAt(part, setting, frame), unit: CLOTH_SETTINGS[setting].unit };
  },
};
