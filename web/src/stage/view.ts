import type { Shot } from '@oscillum/core/model';
import type { Picture } from '../sim/simulation';

/** What the stage draws from; it changes none of it. */
export interface StageView {
  shot: Shot;
  picture: Picture;
  frame: number;
  ghost: boolean;
  trails: boolean;
  /** Wind and other forces as streaks. */
  air: boolean;
  showJoints: boolean;
  selectedJoints: readonly number[];
  selectedParts: readonly string[];
  hoverJoint: number | null;
  /** Rows that a press of Make chain would take. */
  offered: readonly (readonly number[])[];
}
