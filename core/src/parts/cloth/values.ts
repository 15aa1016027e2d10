import type { SheetMatter } from '../../solver/cloth/index';
import { drivenBy, isDriven } from '../driven';
import { keyedValues } from '../keyed';
import type { Driver } from '../kind';
import type { SheetPart } from './document';
import { CLOTH_SETTING_KEYS, CLOTH_SETTINGS, type ClothSettingKey } from './settings';

export type ClothValues = (key: ClothSettingKey, frame: number) => number;

/** The settings of a cloth at any frame: their keys, or their values where they have none. */
export function valuesOf(part: Pick<SheetPart, 'settings' | 'keys'>): { value: ClothValues; keyed: boolean } {
  return {
    value: keyedValues(CLOTH_SETTING_KEYS, part),
    keyed: CLOTH_SETTING_KEYS.some((k) => part.keys[k]?.length),
  };
}

/** The same with what drivers add to them. */
export function drivenValuesOf(
  part: SheetPart,
  drivers: ReadonlyMap<string, Driver>,
): ReturnType<typeof valuesOf> {
  const { value, keyed } = valuesOf(part);
  return {
    value: drivenBy(value, part.id, CLOTH_SETTINGS, drivers),
    keyed: keyed || isDriven(part.id, drivers),
  };
}

const G = 9.81;

/** What a cloth is made of, by its settings at a frame: what is keyed does not change its matter on the way. */
export function matterOf(value: ClothValues, frame: number): SheetMatter {
  const weight = value('weight', frame);
  // A metre of stiffness K lengthens by w g / 2K on the whole when it hangs by its edge.
  const stiffness = (percent: number) => (percent > 0 ? (weight * G * 100) / (2 * percent) : 0);
  return {
    weight,
    stretch: stiffness(value('stretch', frame)),
    compression: stiffness(value('compression', frame)),
    rigidity: weight * G * value('bend', frame) ** 3,
    shear: value('shear', frame) / 100,
  };
}

/** First zero of the Bessel function J₀ over 2: what hangs from a height L swings at this times √(g / L), rad/s. */
const HANGS = 1.2024;

/**
 * 1/s: how a cloth of a length (m) is damped, by its ratios for the swing of its own length and for its hold: `held`
 * and `damped` are shares of hold and damping at a point.
 */
export function dampingOf(
  value: ClothValues,
  frame: number,
  length: number,
  least = 0,
  held = 1,
  damped = 1,
): number {
  const swing = HANGS * Math.sqrt(G / Math.max(length, 1e-6));
  const hold = 2 * Math.PI * value('hold', frame) * held;
  const ratio = (key: 'damping' | 'holdDamping') => Math.max(least, value(key, frame) * damped);
  return 2 * (ratio('damping') * swing + ratio('holdDamping') * hold);
}

/** 1/s²: how a cloth is pulled to its animation. */
export const pullOf = (value: ClothValues, frame: number): number =>
  (2 * Math.PI * value('hold', frame)) ** 2;
