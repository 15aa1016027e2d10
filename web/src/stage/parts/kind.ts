import type { Character } from '@oscillum/core/character';
import type { Part } from '@oscillum/core/shot';
import type { Tint } from '../../state/view';
import type { Posed } from '../pose';

/** How a part of a kind is drawn in ink. */
export interface StagePart<P extends Part = Part> {
  /** Nodes it is drawn along, root to tip: its bones, its ghost, its stretch. Empty for what is no row. */
  line(part: P): readonly number[];
  /** Nodes that get a dot beside those. */
  dots(part: P): readonly number[];
  /** The mesh node that is tinted, and how dark each of its vertices is, 0 to 1; null where nothing is tinted. */
  tint?(
    part: P,
    how: Tint,
    character: Character,
    metresPerUnit: number,
    posed: Posed,
  ): { readonly node: number; readonly shares: Float64Array } | null;
}
