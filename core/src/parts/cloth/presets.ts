import type { SheetPart } from './document';
import { ClothSettings } from './settings';

/** The length of a cloth that the settings of a new one are written for, m. */
const USUAL = 0.4;

/** Settings of a new cloth that reaches so far from what holds it, m. */
export function clothSettingsFor(length: number): ClothSettings {
  const plain = ClothSettings.parse({});
  const sized = (x: number, most: number) => Math.min(most, Number(((x * length) / USUAL).toPrecision(2)));
  return { ...plain, thickness: sized(plain.thickness, 10), bend: sized(plain.bend, 1) };
}

/** Settings of a stuff to begin from, and when. */
export interface ClothPreset {
  readonly name: string;
  readonly use: string;
  readonly settings: Partial<ClothSettings>;
}

const preset = (name: string, use: string, settings: Partial<ClothSettings>): ClothPreset => ({
  name,
  use,
  // A stuff damps its hold as it damps its swing.
  settings: { ...settings, ...(settings.damping !== undefined && { holdDamping: settings.damping }) },
});

/** Stuffs; weights and bending lengths as textile handbooks give them (Saville, Physical Testing of Textiles). */
export const CLOTH_PRESETS: readonly ClothPreset[] = [
  preset('Felt', 'Ponchos and blankets: heavy, stands away in wide folds.', {
    ...{ weight: 0.4, bend: 0.045, stretch: 0.05, compression: 0.05, damping: 0.2, friction: 0.6 },
    ...{ drag: 1, lift: 0.3 },
  }),
  preset('Linen', 'Shirts, aprons and flags: crisp folds that hold.', {
    ...{ weight: 0.2, bend: 0.03, stretch: 0.03, compression: 0.03, damping: 0.12, friction: 0.4 },
    ...{ drag: 1, lift: 0.5 },
  }),
  preset('Silk', 'Scarves and veils: light, many small folds, taken by every breath of air.', {
    ...{ weight: 0.08, bend: 0.018, stretch: 0.02, compression: 0.02, damping: 0.06, friction: 0.25 },
    ...{ drag: 1.2, lift: 0.8 },
  }),
  preset('Leather', 'Coats and bags: stiff and heavy, swings as a whole.', {
    ...{ weight: 1, bend: 0.08, stretch: 0.03, compression: 0.03, damping: 0.25, friction: 0.6 },
    ...{ drag: 0.8, lift: 0.2 },
  }),
  preset('Rubber sheet', 'Stretches, wobbles and comes back.', {
    ...{ weight: 1.2, bend: 0.05, stretch: 6, compression: 6, damping: 0.15, friction: 0.9 },
    ...{ drag: 0.8, lift: 0.2 },
  }),
  preset('Paper', 'Letters and banners: does not stretch, bends in one direction at a time.', {
    ...{ weight: 0.09, bend: 0.11, stretch: 0, compression: 0, damping: 0.15, friction: 0.4 },
    ...{ drag: 1.2, lift: 0.9 },
  }),
  preset('Net', 'Air goes through it: light, limp, hardly blown.', {
    ...{ weight: 0.06, bend: 0.008, stretch: 0.5, compression: 2, damping: 0.1, friction: 0.3 },
    ...{ drag: 0.25, lift: 0.1 },
  }),
  preset(
    'Balloon',
    'Closed pieces are filled and rise; strings on them are taut. Let it settle before the start.',
    {
      ...{ weight: 0.05, bend: 0.03, stretch: 0.02, compression: 0.02, damping: 0.1, friction: 0.4 },
      ...{ drag: 1, lift: 0, filling: 1.02, pressure: 2000, float: 4, settle: 3 },
    },
  ),
];

/** What strings are of: lines without triangles. A line weighs as a strip of a 200th of its mesh's size does. */
export const STRING_PRESETS: readonly ClothPreset[] = [
  preset('Cord', 'Ropes, laces and mail cords: limp, and grips what it runs over.', {
    ...{ weight: 1, bend: 0.02, stretch: 0, compression: 0, damping: 0.3, friction: 0.6, drag: 1, lift: 0 },
  }),
  preset('Cable', 'Wires and hawsers: stiff, hangs in wide bows.', {
    ...{ weight: 3, bend: 0.08, stretch: 0, compression: 0, damping: 0.4, friction: 0.4, drag: 0.6, lift: 0 },
  }),
  preset('Beads', 'Bead strings and thin chains: heavy and slippery, fold anywhere, hardly blown.', {
    ...{ weight: 6, bend: 0, stretch: 0, compression: 0, damping: 0.1, friction: 0.15, drag: 0.3, lift: 0 },
  }),
];

/** Settings of a new string whose lines are so long on the mean, m: a cord, as thick as half of one. */
export const stringSettingsFor = (line: number): ClothSettings => ({
  ...ClothSettings.parse({ ...STRING_PRESETS[0]!.settings, settle: 1 }),
  thickness: Number((line / 2).toPrecision(2)),
});

/** Puts a preset on a cloth, in place: keys of what it sets go. */
export function applyClothPreset(
  part: Pick<SheetPart, 'settings' | 'keys'>,
  { settings }: ClothPreset,
): void {
  Object.assign(part.settings, settings);
  for (const key of Object.keys(settings)) delete part.keys[key as keyof typeof part.keys];
}
