import type { Pull } from '@oscillum/core/chain';
import type { ClothPull } from '@oscillum/core/cloth';
import type { StrandPull } from '@oscillum/core/strands';
import type { AddedMotion } from '@oscillum/core/model';

/** How a hand takes hold of things on the stage. */
export interface ShakeHow {
  readonly takes: 'joint' | 'figure';
  readonly by: 'move' | 'turn';
  /** Hz: how stiffly a chain is held; m: it slips off when the hand is farther away. */
  readonly strength: number;
  readonly slip: number;
  /** Whether the clip stands in its pose meanwhile. */
  readonly still: boolean;
}

/** What a hand has drawn: a pull of a chain, a cloth or hair, or a motion of a joint that the clip moves. */
export type Shaken =
  | { readonly kind: 'pull'; readonly partId: string; readonly pull: Pull | ClothPull | StrandPull }
  | { readonly kind: 'body'; readonly joint: number; readonly name: string; readonly drawn: DrawnMotion };

/** A motion drawn by hand: one entry a frame from `first`, along or about each of its axes (m or degrees). */
export interface DrawnMotion {
  readonly path: AddedMotion['path'];
  readonly axes: readonly (readonly [number, number, number])[];
  readonly first: number;
  readonly values: readonly (readonly number[])[];
  /** The frame whose pose the clip stood in meanwhile, or null. */
  readonly stillAt: number | null;
}
