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
  /** World matrices of the overlaid take, on the frame shown; null when there is none. */
  overlay: Float64Array | null;
  /** A ball round the figure, m. */
  ball: { centre: readonly number[]; radius: number };
  /** The picture's way to the right, as a direction in the world. */
  right: readonly [number, number, number];
  /** The unit way toward the camera. */
  toward: readonly [number, number, number];
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

/** The frames that a strip of time shows, the first and last that the clip moves in, and whether some come before. */
export interface Strip {
  readonly from: number;
  readonly to: number;
  readonly first: number;
  readonly acts: number;
  readonly preRoll: number;
}

/**
 * Clears a strip of time and shades its pre-roll and what was added to see it settle. Returns where a frame stands, as
 * a share of the width.
 */
export function clearLane(
  g: CanvasRenderingContext2D,
  w: number,
  h: number,
  { from, to, first, acts, preRoll }: Strip,
): (frame: number) => number {
  const at = (frame: number) => (frame - from) / (to - from);
  g.clearRect(0, 0, w, h);
  if (preRoll > 0) {
    g.fillStyle = C.preroll;
    g.fillRect(0, 0, at(first) * w, h);
  }
  if (acts < to) {
    g.fillStyle = C.preroll;
    g.fillRect(at(acts) * w, 0, (1 - at(acts)) * w, h);
  }
  return at;
}

export function readInks(): void {
  const style = getComputedStyle(document.documentElement);
  for (const name of NAMES) C[name] = style.getPropertyValue(`--${name}`).trim();
}

type Place = readonly [number, number];

export function line(
  g: CanvasRenderingContext2D,
  points: readonly Place[],
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

/**
 * Widest line, px, that a processor draws without outlining it first: ten times as fast as one a little wider, and as
 * fast for many lines in one stroke. Wide lines and dots are quicker one by one.
 */
export const THIN = 1;

/** Thin lines in one stroke. */
export function thinLines(
  g: CanvasRenderingContext2D,
  all: readonly (readonly Place[])[],
  colour: string,
  dash: number[],
): void {
  g.strokeStyle = colour;
  g.lineWidth = THIN;
  g.setLineDash(dash);
  g.beginPath();
  for (const points of all) points.forEach((p, i) => (i ? g.lineTo(p[0], p[1]) : g.moveTo(p[0], p[1])));
  g.stroke();
  g.setLineDash([]);
}

export function disc(g: CanvasRenderingContext2D, p: Place, r: number): void {
  g.beginPath();
  g.arc(p[0], p[1], r, 0, 2 * Math.PI);
  g.fill();
}

/** A round dot with a rim 1.4 px wide: two discs, for a rim that is stroked costs three times as much. */
export function dot(g: CanvasRenderingContext2D, p: Place, r: number, fill: string, rim: string): void {
  g.fillStyle = rim;
  disc(g, p, r + 0.7);
  if (fill === rim) return;
  g.fillStyle = fill;
  disc(g, p, r - 0.7);
}
