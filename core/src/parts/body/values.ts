import type { BodyMatter } from '../../solver/soft/index';
import { keyedValues } from '../keyed';
import type { BodyPart } from './document';
import { BODY_SETTING_KEYS, densityOf, youngOf, type BodySettingKey } from './settings';

export type BodyValues = (key: BodySettingKey, frame: number) => number;

/** The settings of a body at any frame. */
export const valuesOf = (part: Pick<BodyPart, 'settings' | 'keys'>): BodyValues =>
  keyedValues(BODY_SETTING_KEYS, part);

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

/** What the cells of a body are made of: those at its surface are not heavier for being filled to a part alone. */
export function cellMatterOf(
  value: BodyValues,
  frame: number,
  { height, volume, filled }: { readonly height: number; readonly volume: number; readonly filled: number },
  calmed: boolean,
): BodyMatter {
  const matter = matterOf(value, frame, height);
  const share = volume / filled;
  return {
    ...matter,
    ...{ density: matter.density * share, young: matter.young * share },
    damping: calmed ? Math.max(1, matter.damping) : matter.damping,
  };
}

/** Pa per m/s: density times the speed of pressure in it. */
export const impedanceOf = ({ density, young, poisson }: BodyMatter): number =>
  Math.sqrt((density * young * (1 - poisson)) / ((1 + poisson) * (1 - 2 * poisson)));

/** Least share of its firmness that a cell has. */
const LEAST_FIRM = 0.01;

/** How firm each cell is: the mean of its eight corners. */
export const firmOf = (shares: Float64Array, corners: ArrayLike<number>): Float64Array =>
  Float64Array.from({ length: corners.length / 8 }, (_, c) => {
    let sum = 0;
    for (let k = 8 * c; k < 8 * c + 8; k++) sum += shares[corners[k]!]! / 8;
    return Math.max(LEAST_FIRM, sum);
  });
