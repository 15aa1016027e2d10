import { BodySettings } from './settings';
import type { BodyPart } from './document';

/** How thick the contact of a new body is, as a share of its longest side. */
const THICKNESS = 0.01;

const rounded = (x: number, least: number, most: number): number =>
  Number(Math.min(most, Math.max(least, x)).toPrecision(2));

/** Settings of a new body whose longest side is so many m. */
export const bodySettingsFor = (size: number): BodySettings => ({
  ...BodySettings.parse({}),
  thickness: rounded(THICKNESS * size, 1e-5, 10),
  drag: 1,
});

/** Settings of a stuff to begin from, and when. */
export interface BodyPreset {
  readonly name: string;
  readonly use: string;
  readonly settings: Partial<BodySettings>;
}

const preset = (name: string, use: string, settings: Partial<BodySettings>): BodyPreset => ({
  ...{ name, use, settings },
});

export const BODY_PRESETS: readonly BodyPreset[] = [
  preset('Flesh', 'Firm, soon at rest, keeps its volume.', {
    ...{ droop: 3, volume: 96, damping: 0.25, density: 1 },
  }),
  preset('Fat', 'Heavy and slow, bulges where it is not pressed.', {
    ...{ droop: 8, volume: 98, damping: 0.2, density: 0.9 },
  }),
  preset('Jelly', 'Wobbles long and all over.', { droop: 9, volume: 98, damping: 0.05, density: 1 }),
  preset('Rubber', 'Springs back and bounces.', { droop: 1, volume: 96, damping: 0.04, density: 1.1 }),
  preset('Sponge', 'Gives where it is pressed and loses its volume there.', {
    ...{ droop: 6, volume: 20, damping: 0.3, density: 0.1 },
  }),
  preset('Dough', 'Sags, and hardly swings back.', { droop: 14, volume: 96, damping: 0.9, density: 1.2 }),
];

/** Puts a preset on a body, in place: keys of what it sets go. */
export function applyBodyPreset(part: Pick<BodyPart, 'settings' | 'keys'>, { settings }: BodyPreset): void {
  Object.assign(part.settings, settings);
  for (const key of Object.keys(settings)) delete part.keys[key as keyof typeof part.keys];
}
