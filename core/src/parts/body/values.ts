import { makeValueCurve } from '../../model/index';
import type { BodyMatter } from '../../solver/soft/index';
import type { BodyPart } from './document';
import { BODY_SETTING_KEYS, densityOf, youngOf, type BodySettingKey } from './settings';

export type BodyValues = (key: BodySettingKey, frame: number) => number;

/** The settings of a body at any frame: their keys, or their values where they have none. */
export function valuesOf(part: Pick<BodyPart, 'settings' | 'keys'>): BodyValues {
  const curves = new Map(
    BODY_SETTING_KEYS.flatMap((k) =>
      part.keys[k]?.length ? [[k, makeValueCurve(part.keys[k])] as const] : [],
    ),
  );
  return (key, frame) => curves.get(key)?.(frame) ?? part.settings[key];
}

/** Poisson's ratio of what keeps all of its volume: above it the cells lock. */
const MOST_POISSON = 0.49;

/** Hz: the first mode of a column that stands on its foot, a quarter of a wave of pressure. */
export const firstOf = (young: number, density: number, height: number): number =>
  Math.sqrt(young / density) / (4 * height);

/** What a body of some height (m) is made of, by its settings at a frame. */
export function matterOf(value: BodyValues, frame: number, height: number): BodyMatter {
  const density = densityOf(value('density', frame));
  const young = youngOf(value('droop', frame), density, height);
  return {
    ...{ young, density, damping: value('damping', frame) },
    poisson: (MOST_POISSON * value('volume', frame)) / 100,
    first: firstOf(young, density, height),
  };
}
