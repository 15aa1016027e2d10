import type { BrushKind } from '@oscillum/core/maps';
import type { Comb } from '@oscillum/core/simulate';

/** How a map is painted: shares from 0 to 1, m along the surface. */
export interface BrushHow {
  does: BrushKind | 'gradient' | 'lasso' | 'from point';
  value: number;
  radius: number;
  strength: number;
  falloff: number;
  mirror: boolean;
}

/** How hair is brushed: px, and shares of 1; `tips` is how much less it acts at the root. */
export interface CombHow {
  does: Comb | 'draw' | 'freeze' | 'grow along';
  radius: number;
  strength: number;
  tips: number;
  mirror: boolean;
  /** Whether strokes change how it stands on the frame that is shown alone, and not its groom. */
  pose: boolean;
}

export const BRUSH: BrushHow = {
  ...{ does: 'paint', value: 1, radius: 0.05, strength: 1, falloff: 0.6, mirror: false },
};
export const COMB: CombHow = {
  does: 'comb',
  radius: 40,
  strength: 0.7,
  tips: 0.5,
  mirror: false,
  pose: false,
};

/** Ends brushing hair, which is done on the pose of its source. */
export function endCombing(view: { combing: string | null; frozen: number[]; without: number | null }): void {
  if (view.combing) view.without = null;
  Object.assign(view, { combing: null, frozen: [] });
}
