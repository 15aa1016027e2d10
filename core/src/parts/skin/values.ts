import { makeValueCurve } from '../../model/index';
import type { SkinPart } from './document';
import { SKIN_SETTING_KEYS, type SkinSettingKey } from './settings';

/** The settings of a skin at any frame: their keys, or their values where they have none. */
export function valuesOf(
  part: Pick<SkinPart, 'settings' | 'keys'>,
): (key: SkinSettingKey, frame: number) => number {
  const curves = new Map(
    SKIN_SETTING_KEYS.flatMap((k) =>
      part.keys[k]?.length ? [[k, makeValueCurve(part.keys[k])] as const] : [],
    ),
  );
  return (key, frame) => curves.get(key)?.(frame) ?? part.settings[key];
}
