import { int } from '../numbers';
import { ClothStep } from './fields';
import type { Floats, Index, Ints } from '../numbers';

const TINY: number = 1e-20;

/** All closed paths, the first time in a step or again: see {@link keepRim}. */
export function keepRims(step: ClothStep, perStep: number, again: boolean): void {
  const rims = int(step.rims);
  const { rim } = step;
  for (let k = 0; k < 2 * rims; k += 2) keepRim(step, perStep, rim[k]!, rim[k + 1]!, again);
}

/** Between edge j of a closed path and the one before it, through the point they share. */
function coupling(rows: Floats, w: Floats, pointAt: Ints, p: Index, n: Index, j: Index): number {
  const r = 7 * j;
  const q: Index = j === 0 ? 7 * (n - 1) : 7 * (j - 1);
  return (
    -w[pointAt[p + j]!]! * (rows[r]! * rows[q]! + rows[r + 1]! * rows[q + 1]! + rows[r + 2]! * rows[q + 2]!)
  );
}

/**
 * A closed path of n edges: a cyclic tridiagonal matrix by Sherman and Morrison. Of each edge its way (3), diagonal,
 * what it takes of the next, push, and the push of the correction.
 */
function keepRim(step: ClothStep, perStep: number, p: Index, n: Index, again: boolean): void {
  const { x, w, pointAt, length, gives, giving, pulls, rows } = step;
  const told = step.threads > 0;
  for (let j = 0; j < n; j++) {
    const a = pointAt[p + j]!;
    const b = pointAt[j + 1 === n ? p : p + j + 1]!;
    const r = 7 * j;
    const dx = x[3 * b]! - x[3 * a]!,
      dy = x[3 * b + 1]! - x[3 * a + 1]!,
      dz = x[3 * b + 2]! - x[3 * a + 2]!;
    const l = Math.sqrt(dx * dx + dy * dy + dz * dz);
    const s = 1 / (l + TINY);
    rows[r] = dx * s;
    rows[r + 1] = dy * s;
    rows[r + 2] = dz * s;
    const give: number = l > length[p + j]! ? gives[p + j]! : giving[p + j]!;
    rows[r + 3] = w[a]! + w[b]! + perStep * give + TINY;
    rows[r + 5] = length[p + j]! - l;
    rows[r + 6] = 0;
  }
  solveRim(rows, w, pointAt, p, n);
  for (let j = 0; j < n; j++) {
    const q: Index = j === 0 ? 7 * (n - 1) : 7 * (j - 1);
    const r = 7 * j;
    const a = pointAt[p + j]!;
    if (told) pulls[p + j] = rows[r + 5]! + (again ? pulls[p + j]! : 0);
    const before = w[a]! * rows[q + 5]!,
      after = w[a]! * rows[r + 5]!;
    x[3 * a] = x[3 * a]! + before * rows[q]! - after * rows[r]!;
    x[3 * a + 1] = x[3 * a + 1]! + before * rows[q + 1]! - after * rows[r + 1]!;
    x[3 * a + 2] = x[3 * a + 2]! + before * rows[q + 2]! - after * rows[r + 2]!;
  }
}

function solveRim(rows: Floats, w: Floats, pointAt: Ints, p: Index, n: Index): void {
  const end = 7 * (n - 1);
  const corner = coupling(rows, w, pointAt, p, n, 0);
  const gamma = -rows[3]!;
  rows[3] = rows[3]! - gamma;
  rows[end + 3] = rows[end + 3]! - (corner * corner) / gamma;
  rows[6] = gamma;
  rows[end + 6] = corner;
  let over = 1 / rows[3]!;
  rows[5] = rows[5]! * over;
  rows[6] = rows[6]! * over;
  for (let j = 1; j < n; j++) {
    const r = 7 * j;
    const c = coupling(rows, w, pointAt, p, n, j);
    rows[r + 4] = c * over;
    over = 1 / (rows[r + 3]! - c * rows[r + 4]!);
    rows[r + 5] = (rows[r + 5]! - c * rows[r - 2]!) * over;
    rows[r + 6] = (rows[r + 6]! - c * rows[r - 1]!) * over;
  }
  for (let j = n - 2; j >= 0; j--) {
    const r = 7 * j;
    rows[r + 5] = rows[r + 5]! - rows[r + 11]! * rows[r + 12]!;
    rows[r + 6] = rows[r + 6]! - rows[r + 11]! * rows[r + 13]!;
  }
  const share =
    (rows[5]! + (corner * rows[end + 5]!) / gamma) / (1 + rows[6]! + (corner * rows[end + 6]!) / gamma);
  for (let j = 0; j < n; j++) rows[7 * j + 5] = rows[7 * j + 5]! - share * rows[7 * j + 6]!;
}
