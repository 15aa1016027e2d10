import type { ComponentType } from 'react';
import type { MeshRegion } from '@oscillum/core/model';
import type { Part } from '@oscillum/core/shot';
import type { Thunk } from '../../state/store';

/** What a kind's panel in Tune is given: the selected parts, all of its kind. */
export interface PanelProps<P extends Part = Part> {
  readonly parts: readonly P[];
  /** The parts that are not selected. */
  readonly others: readonly Part[];
  run(t: Thunk): void;
}

/** How a kind of part is shown and worked with. */
export interface PartUi<P extends Part = Part> {
  /**
   * What of it the lane says: how far it strays at most, and how far its tip (m; null leaves it out, as for a group).
   */
  laneText(most: number, tip: number | null): string;
  /** What it says after that, of its own readouts and the deepest it stands in what it touches (m). */
  laneMore?(of: {
    readonly lowest: Float32Array;
    readonly highest: Float32Array;
    readonly deepest: number;
  }): string;
  /** What it strays by at the top of a lane, at least, so that a still part looks still. */
  readonly full: number;
  /**
   * Makes parts of this kind from what is selected, in the stage's corner; shows nothing where it has nothing to offer.
   */
  readonly Make: ComponentType;
  /** Makes a part of this kind from a mesh, by its node; left out where meshes are nothing to it. */
  readonly FromMesh?: ComponentType<{ node: number; region: MeshRegion | null }>;
  /** Whether that mesh may be of lines alone. */
  readonly fromLines?: boolean;
  /** What it lays over its lane, to be dragged there. */
  readonly InLane?: ComponentType<{ part: P }>;
  /** What it lays over the stage while it is worked on there. */
  readonly OnStage?: ComponentType;
  /** Its settings. */
  readonly Panel: ComponentType<PanelProps<P>>;
  /** What it adds to the shot's own panel. */
  readonly World?: ComponentType<{ run: (t: Thunk) => void }>;
}
