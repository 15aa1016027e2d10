import { quatMultiply, quatRotate } from '../../math/index';
import type { ChainSolver } from '../../solver/index';
import type { Anchor, Touchable } from '../kind';
import type { ChainSource } from './source';

const moved = new Float64Array(3);

/** Takes a chain's source along with the simulated joint it hangs from. */
export function carryAlong(solver: ChainSolver, { source, place, turn }: Anchor): void {
  for (let k = 0; k < solver.source.length; k += 3) {
    for (let a = 0; a < 3; a++) moved[a] = solver.source[k + a]! - source[a]!;
    quatRotate(moved, 0, turn, 0, moved, 0);
    for (let a = 0; a < 3; a++) solver.source[k + a] = place[a]! + moved[a]!;
  }
  for (let k = 0; k < solver.sourceTurn.length; k += 4)
    quatMultiply(solver.sourceTurn, k, turn, 0, solver.sourceTurn, k);
}

/**
 * Share along the link a chain hangs from, from its root end, of the place nearest to the chain's own root at a row.
 * The link is that of another chain's source.
 */
export function hangingPlace(c: ChainSource, parent: ChainSource, link: number, row: number): number {
  const own = row * 3 * (c.lengths.length + 1);
  const at = row * 3 * (parent.lengths.length + 1) + 3 * link;
  let along = 0;
  let length = 0;
  for (let a = 0; a < 3; a++) {
    const d = parent.points[at + 3 + a]! - parent.points[at + a]!;
    along += d * (c.points[own + a]! - parent.points[at + a]!);
    length += d * d;
  }
  return length > 0 ? Math.min(1, Math.max(0, along / length)) : 0;
}

/**
 * What a chain's root asks of the link it hangs from, beyond the mass that rides there already: `link` and `place` say
 * where. `h` in s.
 */
export function pullBack(
  child: ChainSolver,
  parent: Touchable,
  link: number,
  place: number,
  h: number,
): void {
  let mass = 0;
  moved.fill(0);
  for (let p = 0; p < child.links; p++) {
    mass += child.mass[p]!;
    for (let a = 0; a < 3; a++)
      moved[a]! -=
        child.mass[p]! *
        ((child.v[3 * p + 3 + a]! - child.vOld[3 * p + 3 + a]!) / h - child.fall[3 * p + a]!);
  }
  const { push } = parent;
  for (let end = 0; end < 2; end++) {
    const p = link - 1 + end;
    const share = end === 0 ? 1 - place : place;
    if (p < 0 || share === 0) continue;
    for (let a = 0; a < 3; a++) {
      const felt = (parent.v[3 * p + 3 + a]! - parent.vOld[3 * p + 3 + a]!) / h - parent.basic[3 * p + a]!;
      push[3 * p + a]! += (share * (moved[a]! + mass * felt)) / parent.mass[p]!;
    }
  }
  parent.pushed();
}
