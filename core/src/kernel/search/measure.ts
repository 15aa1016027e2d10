import { nearestMesh } from '../host';
import { int } from '../numbers';
import type { Floats, Index } from '../numbers';
import { BODY_ROW } from './fields';
import type { SearchStep } from './fields';
import { nearestTo } from './shapes';

/** The place of `segment` nearest to a body goes to `near`. */
export function measureBody(search: SearchStep, b: Index): void {
  const { table, near, segment } = search;
  const r = b * BODY_ROW;
  const kind = int(table[r]!);
  if (kind === 4) nearestMesh(b);
  else nearestTo(near, kind, table[r + 1]!, table[r + 2]!, table[r + 3]!, segment);
}

/** Distance of the link's way at a share of the step, in the body's space; the nearest place goes to `near`. */
export function distanceAt(search: SearchStep, b: Index, t: number): number {
  const { segment, start, end } = search;
  const w = 1 - t;
  segment[0] = w * start[0]! + t * end[0]!;
  segment[1] = w * start[1]! + t * end[1]!;
  segment[2] = w * start[2]! + t * end[2]!;
  segment[3] = w * start[3]! + t * end[3]!;
  segment[4] = w * start[4]! + t * end[4]!;
  segment[5] = w * start[5]! + t * end[5]!;
  measureBody(search, b);
  return search.near[1]!;
}

/**
 * Farthest that a place at most `radius` from the origin of a placement goes, from where it stands at `i` of `from` to
 * `j` of `to`, m.
 */
export function wayBetween(from: Floats, i: Index, to: Floats, j: Index, radius: number): number {
  let still = true;
  for (let c = 0; c < 7; c++) still = still && to[j + c]! === from[i + c]!;
  if (still) return 0;
  let square: number = 0;
  let dot: number = 0;
  for (let c = 0; c < 3; c++) {
    const d = to[j + c]! - from[i + c]!;
    square += d * d;
  }
  for (let c = 3; c < 7; c++) dot += to[j + c]! * from[i + c]!;
  const turn = Math.sqrt(Math.max(0, 1 - dot * dot));
  return Math.sqrt(square) + 2 * turn * radius;
}

/**
 * Farthest that the link can come nearer in the whole step to what lies beyond the plane through the nearest place: for
 * a shape without hollows only what goes against the normal counts.
 */
export function approach(search: SearchStep, b: Index): number {
  const { table, near, start, end } = search;
  if (int(table[b * BODY_ROW]!) === 4) return search.heads;
  const nx = near[2]!,
    ny = near[3]!,
    nz = near[4]!;
  const a = nx * (start[0]! - end[0]!) + ny * (start[1]! - end[1]!) + nz * (start[2]! - end[2]!);
  const z = nx * (start[3]! - end[3]!) + ny * (start[4]! - end[4]!) + nz * (start[5]! - end[5]!);
  return a > z ? a : z;
}
