import type { StrandsPart } from './document';
import { StrandSettings } from './settings';

/** Settings to begin from, and when. Lengths and what a strand weighs stay the part's own. */
export interface StrandPreset {
  readonly name: string;
  readonly use: string;
  readonly settings: Partial<StrandSettings>;
}

export const STRAND_PRESETS: readonly StrandPreset[] = [
  {
    name: 'Down',
    use: 'Short, light down and fur: it quivers and is back at once.',
    settings: { hold: 4, bend: 5, damping: 0.35, root: 2, drag: 1 },
  },
  {
    name: 'Fringe',
    use: 'A fringe or a short mane that swings with quick turns.',
    settings: { hold: 1.8, bend: 2.5, damping: 0.25, root: 2, drag: 1 },
  },
  {
    name: 'Long hair',
    use: 'Long, soft hair that trails behind and settles slowly.',
    settings: { hold: 0.7, bend: 1, damping: 0.25, root: 2.5, drag: 1 },
  },
  {
    name: 'Braid',
    use: 'A heavy lock or a braid: it swings as one.',
    settings: { hold: 0.9, bend: 1.6, damping: 0.18, root: 1.2, drag: 0.4 },
  },
  {
    name: 'Bristles',
    use: 'Stiff quills and bristles that only tremble.',
    settings: { hold: 8, bend: 14, damping: 0.2, root: 1, drag: 0.3 },
  },
];

/** Puts a preset's settings, and takes keys of them away. */
export function applyStrandPreset(part: StrandsPart, { settings }: StrandPreset): void {
  Object.assign(part.settings, settings);
  for (const key of Object.keys(settings)) delete part.keys[key as keyof typeof part.keys];
}

/** Settings for guides of a length, m: what is longer swings more slowly, as what hangs does. */
export function strandSettingsFor(length: number): StrandSettings {
  const slower = Math.sqrt(0.1 / Math.max(1e-4, length));
  const round = (x: number) => Number(x.toPrecision(2));
  return StrandSettings.parse({
    hold: round(Math.min(8, Math.max(0.3, 1.8 * slower))),
    bend: round(Math.min(14, Math.max(0.5, 2.5 * slower))),
    root: 2,
    thickness: round(Math.min(0.01, Math.max(1e-5, 0.03 * length))),
  });
}
