import { blendRow, packRows, type Columns, type Frames, type Rows } from '../frames/index';

/** Seconds over which the end of a loop that folds becomes its beginning, and the most of a lap. */
const SECONDS = 1 / 3;
const MOST_OF_LAP = 1 / 3;

/** Frames at the end of a lap of so many in which it becomes its beginning. */
export const closingFrames = (fps: number, period: number): number =>
  Math.max(1, Math.min(Math.round(SECONDS * fps), Math.floor(MOST_OF_LAP * period)));

/**
 * Closes a loop whose motion does not repeat. The lap before the one that is kept ends where the kept one begins: so
 * the last frames of the kept one go over into the last frames of the lap before.
 */
export interface Closing {
  /** Takes up the last frames of the lap before, as they are written. */
  readonly rows: Rows;
  readonly frames: number;
}

export const takeClosing = (frames: Frames, columns: Columns, period: number, count: number): Closing => ({
  rows: packRows(frames, columns, period - count, period + 1),
  frames: count,
});

/** Brings frame f of the kept lap as near to the lap before as it is to be; frames before the last few stay. */
export function closeFrame(frames: Frames, { rows, frames: count }: Closing, f: number): void {
  const u = (f - rows.from) / count;
  if (u > 0 && u < 1) blendRow(frames, rows, f, u * u * (3 - 2 * u));
}
