import type { RegionMatter } from '../../solver/soft/index';
import { keyedValues } from '../keyed';
import type { RegionPart } from './document';
import { REGION_SETTING_KEYS, type RegionSettingKey } from './settings';

export type RegionValues = (key: RegionSettingKey, frame: number) => number;

/** The settings of a region at any frame. */
export const valuesOf = (part: Pick<RegionPart, 'settings' | 'keys'>): RegionValues =>
  keyedValues(REGION_SETTING_KEYS, part);

/** What holds a region, by its settings at a frame. */
export const matterOf = (value: RegionValues, frame: number): RegionMatter => ({
  hold: value('hold', frame),
  damping: value('damping', frame),
  spread: value('spread', frame),
  along: value('along', frame),
  volume: value('volume', frame) / 100,
  swell: value('swell', frame),
});

/** Hz of hold from which a region is quick, and steps a second that it takes at least, and where it is quick. */
const QUICK = 5;
const RATES = [120, 240] as const;

/** Steps a second that a region takes at least. */
export function rateOf({ settings, keys }: Pick<RegionPart, 'settings' | 'keys'>): number {
  const hold = keys.hold?.length ? Math.max(...keys.hold.map((k) => k.value)) : settings.hold;
  return RATES[hold > QUICK ? 1 : 0];
}
