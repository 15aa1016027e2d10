import type { RegionPart } from './document';
import { RegionSettings } from './settings';

/** The size of a region that the settings of a new one are written for, m. */
const USUAL = 0.3;

/** A new region goes no farther than this share of its size. */
const REACH = 0.2;

const rounded = (x: number, least: number, most: number): number =>
  Number(Math.min(most, Math.max(least, x)).toPrecision(2));

/** Hz for a region of so many m across: what is larger quivers slower. */
const holdFor = (hold: number, size: number): number =>
  rounded(hold / (Math.max(1e-4, size) / USUAL) ** 0.25, 0.5, 12);

/** Settings of a new region of so many m across. */
export function regionSettingsFor(size: number): RegionSettings {
  const plain = RegionSettings.parse({});
  return {
    ...plain,
    hold: holdFor(plain.hold, size),
    spread: rounded((plain.spread * size) / USUAL, 0, 10),
    reach: rounded(REACH * size, 1e-4, 1000),
  };
}

/** Settings of a stuff to begin from, and when. */
export interface RegionPreset {
  readonly name: string;
  readonly use: string;
  readonly settings: Partial<RegionSettings>;
}

const preset = (name: string, use: string, settings: Partial<RegionSettings>): RegionPreset => ({
  ...{ name, use, settings },
});

export const REGION_PRESETS: readonly RegionPreset[] = [
  preset('Flesh', 'Thighs, cheeks and arms: quick, soon at rest.', {
    ...{ hold: 3.5, damping: 0.3, along: 1, volume: 0 },
  }),
  preset('Fat', 'Bellies and chins: slow, heavy, what sinks bulges elsewhere.', {
    ...{ hold: 2.4, damping: 0.25, along: 1, volume: 70 },
  }),
  preset('Jelly', 'Wobbles long and all over.', { hold: 2.5, damping: 0.06, along: 1, volume: 100 }),
  preset('Rubber', 'Stiff, springs back and shakes a little.', {
    ...{ hold: 6, damping: 0.1, along: 1, volume: 50 },
  }),
  preset('Dough', 'Gives slowly and hardly swings back.', { hold: 1.2, damping: 0.7, along: 1, volume: 80 }),
  preset('Loose skin', 'Slides over what lies under it.', { hold: 2.5, damping: 0.25, along: 5, volume: 0 }),
];

/** Puts a preset on a region of so many m across, in place: keys of what it sets go. */
export function applyRegionPreset(
  part: Pick<RegionPart, 'settings' | 'keys'>,
  { settings }: RegionPreset,
  size: number,
): void {
  const { hold } = settings;
  Object.assign(part.settings, settings, hold === undefined ? {} : { hold: holdFor(hold, size) });
  for (const key of Object.keys(settings)) delete part.keys[key as keyof typeof part.keys];
}
