import { quatNormalise } from '../../math/index';
import type { PartTrack } from '../kind';
import { rowAt } from '../rows';
import type { SheetLayout } from './layout';
import type { SheetSource } from './source';

/** What carries a sheet: the middle of what is held, and how its body is turned. */
export interface Carrier {
  readonly place: Float64Array;
  readonly turn: Float64Array;
  /** Puts it where it is at a share of the way from a row to the next. */
  at(row: number, share: number): void;
}

export function makeCarrier({ layout, source }: PartTrack<SheetLayout, SheetSource>): Carrier {
  const { held } = layout;
  const all = held.every((h) => h === 0);
  const points = Array.from(held, (h, p) => (all || h ? p : -1)).filter((p) => p >= 0);
  const wide = 3 * held.length;
  const rows = source.points.length / wide;
  const middles = new Float64Array(3 * rows);
  for (let r = 0; r < rows; r++)
    for (const p of points)
      for (let a = 0; a < 3; a++) middles[3 * r + a]! += source.points[r * wide + 3 * p + a]! / points.length;
  const [place, turn] = [new Float64Array(3), new Float64Array(4)];
  return {
    ...{ place, turn },
    at: (row, share) => {
      rowAt(place, middles, 3, row, share);
      rowAt(turn, source.path!.body, 4, row, share);
      quatNormalise(turn, 0);
    },
  };
}
