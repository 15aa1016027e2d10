import type { Body } from '../../solver/index';
import type { Bear } from '../borne';
import type { PartRun, PartTrack } from '../kind';
import type { ClothPull, SheetPart } from './document';
import type { SheetLayout } from './layout';
import type { SheetSource } from './source';

/** What the run of a sheet is made from. */
export interface SheetNeeds {
  readonly part: SheetPart;
  readonly index: number;
  readonly track: PartTrack<SheetLayout, SheetSource>;
  /** Bodies of other parts that it touches. */
  readonly touching: readonly Body[];
  /** Carries its skin along with joints that other parts move. */
  readonly bear?: Bear | null;
  readonly runs: readonly PartRun[];
  /** Hands that pull at it. */
  readonly pulls?: readonly ClothPull[];
  /** Numbers of its arena that are kept free for others. */
  readonly spare?: number;
}

/** What came of the contacts of a sheet since the last frame. */
export interface Noted {
  pressing: number;
  depth: number;
  deepIn: number;
  slip: number;
}
export const NOTHING: Noted = { pressing: 0, depth: 0, deepIn: -1, slip: 0 };
