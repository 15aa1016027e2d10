import type { Part } from '@oscillum/core/shot';

/** How a part of a kind is drawn in ink. */
export interface StagePart<P extends Part = Part> {
  /** Nodes it is drawn along, root to tip: its bones, its ghost, its stretch. Empty for what is no row. */
  line(part: P): readonly number[];
  /** Nodes that get a dot beside those. */
  dots(part: P): readonly number[];
}
