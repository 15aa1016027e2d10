import { quatConjugate, quatMultiply, quatNormalise, quatRotate } from '../../math/index';
import type { SourceRows } from '../../solver/index';
import type { SourceTrack } from '../kind';
import { keepSign } from '../rows';

/**
 * Source rows of a chain of n links whose joints turn otherwise: `change` takes the turn of link i in row k, in the
 * space of the joint above it (`body` is what the first hangs from), and makes it another. Links keep their ways in
 * their joints' own spaces. Rows that `touches` denies stay as they are, to the bit.
 */
export function turnedRows(
  c: SourceRows,
  body: Float64Array,
  n: number,
  track: SourceTrack,
  change: (k: number, i: number, link: Float64Array) => void,
  touches: (k: number) => boolean = () => true,
): SourceRows {
  const points = track.arena.alloc(c.points.length);
  const turns = track.arena.alloc(c.turns.length);
  const link = new Float64Array(4);
  const way = new Float64Array(3);
  const rows = body.length / 4;
  for (let k = 0; k < rows; k++) {
    const p = 3 * k * (n + 1);
    if (!touches(k)) {
      for (let a = p; a < p + 3 * (n + 1); a++) points[a] = c.points[a]!;
      for (let q = 4 * k * n; q < 4 * (k + 1) * n; q++) turns[q] = c.turns[q]!;
      for (let i = 0; k > 0 && i < n; i++) keepSign(turns, 4 * (k * n + i), 4 * ((k - 1) * n + i));
      continue;
    }
    for (let a = 0; a < 3; a++) points[p + a] = c.points[p + a]!;
    for (let i = 0; i < n; i++) {
      const q = 4 * (k * n + i);
      const at = i > 0 ? q - 4 : 4 * k;
      quatConjugate(link, 0, i > 0 ? c.turns : body, at);
      quatMultiply(link, 0, link, 0, c.turns, q);
      change(k, i, link);
      quatMultiply(turns, q, i > 0 ? turns : body, at, link, 0);
      quatNormalise(turns, q);
      if (k > 0) keepSign(turns, q, q - 4 * n);
      for (let a = 0; a < 3; a++) way[a] = c.points[p + 3 * i + 3 + a]! - c.points[p + 3 * i + a]!;
      quatConjugate(link, 0, c.turns, q);
      quatMultiply(link, 0, turns, q, link, 0);
      quatRotate(way, 0, link, 0, way, 0);
      for (let a = 0; a < 3; a++) points[p + 3 * i + 3 + a] = points[p + 3 * i + a]! + way[a]!;
    }
  }
  return { points, turns };
}
