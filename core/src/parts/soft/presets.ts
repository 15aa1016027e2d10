import type { RegionPart } from './document';
import { RegionSettings } from './settings';

/** The size of a region that the settings of a new one are written for, m. */
const USUAL = 0.2;

/** Settings of a new region of so many m across: what is larger quivers slower, as pendulums do. */
export function regionSettingsFor(size: number): RegionSettings {
  const plain = RegionSettings.parse({});
  const times = Math.max(1e-4, size) / USUAL;
  const rounded = (x: number, least: number, most: number) =>
    Number(Math.min(most, Math.max(least, x)).toPrecision(2));
  return {
    ...plain,
    hold: rounded(plain.hold / Math.sqrt(times), 0.5, 10),
    spread: rounded(plain.spread * times, 0, 10),
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
    ...{ hold: 1.8, damping: 0.22, along: 1, volume: 70 },
  }),
  preset('Jelly', 'Wobbles long and all over.', { hold: 2.5, damping: 0.06, along: 1, volume: 100 }),
  preset('Rubber', 'Stiff, springs back and shakes a little.', {
    ...{ hold: 6, damping: 0.1, along: 1, volume: 50 },
  }),
  preset('Dough', 'Gives slowly and hardly swings back.', { hold: 1.2, damping: 0.7, along: 1, volume: 80 }),
  preset('Loose skin', 'Slides over what lies under it.', { hold: 2.5, damping: 0.25, along: 5, volume: 0 }),
];

/** Puts a preset on a region, in place: keys of what it sets go. */
export function applyRegionPreset(
  part: Pick<RegionPart, 'settings' | 'keys'>,
  { settings }: RegionPreset,
): void {
  Object.assign(part.settings, settings);
  for (const key of Object.keys(settings)) delete part.keys[key as keyof typeof part.keys];
}
