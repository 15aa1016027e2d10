import type { Character } from '@oscillum/core/character';
import type { Posed } from './pose';
import type { StageView } from './view';

/** What the flat layer draws from. `project` takes a point in an array to pixels. */
export interface InkScene {
  view: StageView;
  posed: Posed;
  character: Character;
  /** World matrices at another frame, as simulated; good until asked again. */
  elsewhere: (frame: number) => Float64Array;
  /** World matrices of the take beside, on the frame shown; null when there is none. */
  beside: Float64Array | null;
  /** A ball round the figure, m. */
  ball: { centre: readonly number[]; radius: number };
  project: (array: ArrayLike<number>, offset: number) => readonly [number, number];
}

const NAMES = [
  'ink',
  'ink-2',
  'sheet',
  'rule',
  'preroll',
  'picked',
  'line',
  'graphite',
  'verdigris',
  'madder',
  'ochre',
  'plum',
  'sky',
] as const;

/** The desk's inks, as its style sheet has them for day or night; `readInks` brings them up to date. */
export const C = Object.fromEntries(NAMES.map((n) => [n, '#000'])) as Record<(typeof NAMES)[number], string>;

export function readInks(): void {
  const style = getComputedStyle(document.documentElement);
  for (const name of NAMES) C[name] = style.getPropertyValue(`--${name}`).trim();
}

export function line(
  g: CanvasRenderingContext2D,
  points: readonly (readonly [number, number])[],
  colour: string,
  width: number,
  dash: number[],
): void {
  g.strokeStyle = colour;
  g.lineWidth = width;
  g.setLineDash(dash);
  g.beginPath();
  points.forEach((p, i) => (i ? g.lineTo(p[0], p[1]) : g.moveTo(p[0], p[1])));
  g.stroke();
  g.setLineDash([]);
}
