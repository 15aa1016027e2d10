import { copy, int, times } from '../numbers';
import { SelfStep } from './selfFields';
import type { Floats, Index } from '../numbers';

/** Finds the pairs that may touch: anew when that is asked, or when points have moved too far since. */
export function findSelf(step: SelfStep): void {
  const points = int(step.points);
  if (!(step.fresh > 0) && !hasMoved(step, points)) return;
  copy(step.seen, step.x, 3 * points);
  fillGrid(step, points);
  step.count = 0;
  for (let i = 0; i < points; i++)
    for (let z = -1; z < 2; z++)
      for (let y = -1; y < 2; y++) for (let x = -1; x < 2; x++) pairsIn(step, i, x, y, z);
}

/** Whether a point has moved too far. What all of them have moved by together brings none nearer to another. */
function hasMoved(step: SelfStep, points: Index): boolean {
  const { x, seen, margin } = step;
  let mx: number = 0,
    my: number = 0,
    mz: number = 0;
  for (let o = 0; o < 3 * points; o += 3) {
    mx += x[o]! - seen[o]!;
    my += x[o + 1]! - seen[o + 1]!;
    mz += x[o + 2]! - seen[o + 2]!;
  }
  const over = 1 / Math.max(1, step.points);
  mx *= over;
  my *= over;
  mz *= over;
  for (let o = 0; o < 3 * points; o += 3) {
    const dx = x[o]! - seen[o]! - mx,
      dy = x[o + 1]! - seen[o + 1]! - my,
      dz = x[o + 2]! - seen[o + 2]! - mz;
    if (dx * dx + dy * dy + dz * dz > margin * margin) return true;
  }
  return false;
}

function slotOf(x: Index, y: Index, z: Index, mask: Index): Index {
  return (times(x, 73856093) ^ times(y, 19349663) ^ times(z, 83492791)) & mask;
}

/** Puts points into cells of one size, by a hash of the cell (Teschner and others 2003). */
function fillGrid(step: SelfStep, points: Index): void {
  const { x, reach, cell, from, order } = step;
  const mask = int(step.mask);
  for (let s = 0; s <= mask + 1; s++) from[s] = 0;
  for (let k = 0; k < 3 * points; k++) cell[k] = int(Math.floor(x[k]! / reach));
  for (let i = 0; i < points; i++) {
    const s = slotOf(cell[3 * i]!, cell[3 * i + 1]!, cell[3 * i + 2]!, mask);
    from[s] = from[s]! + 1;
  }
  for (let s = 1; s <= mask + 1; s++) from[s] = from[s]! + from[s - 1]!;
  for (let i = points - 1; i >= 0; i--) {
    const s = slotOf(cell[3 * i]!, cell[3 * i + 1]!, cell[3 * i + 2]!, mask);
    from[s] = from[s]! - 1;
    order[from[s]!] = i;
  }
}

/** Adds the pairs of a point with later ones in a cell beside its own. */
function pairsIn(step: SelfStep, i: Index, x: Index, y: Index, z: Index): void {
  const { cell, from, order, reach, beside } = step;
  const cx = cell[3 * i]! + x,
    cy = cell[3 * i + 1]! + y,
    cz = cell[3 * i + 2]! + z;
  const s = slotOf(cx, cy, cz, int(step.mask));
  for (let q = from[s]!; q < from[s + 1]!; q++) {
    const j = order[q]!;
    if (j <= i || cell[3 * j] !== cx || cell[3 * j + 1] !== cy || cell[3 * j + 2] !== cz) continue;
    if (!near(step.x, i, j, reach) || near(step.rest, i, j, beside) || !(step.count < step.room)) continue;
    const n = int(step.count);
    step.pairs[2 * n] = i;
    step.pairs[2 * n + 1] = j;
    step.count = step.count + 1;
  }
}

function near(x: Floats, i: Index, j: Index, within: number): boolean {
  const dx = x[3 * i]! - x[3 * j]!,
    dy = x[3 * i + 1]! - x[3 * j + 1]!,
    dz = x[3 * i + 2]! - x[3 * j + 2]!;
  return dx * dx + dy * dy + dz * dz < within * within;
}

/** Pushes the points of each pair apart to their diameter, with friction between them. */
export function partSelf(step: SelfStep): void {
  const count = int(step.count);
  for (let k = 0; k < count; k++) separate(step, step.pairs[2 * k]!, step.pairs[2 * k + 1]!);
}

function separate(step: SelfStep, i: Index, j: Index): void {
  const { x, old, w, touched, across, apart, friction } = step;
  const a = 3 * i,
    b = 3 * j;
  const dx = x[a]! - x[b]!,
    dy = x[a + 1]! - x[b + 1]!,
    dz = x[a + 2]! - x[b + 2]!;
  const l2 = dx * dx + dy * dy + dz * dz;
  const give = w[i]! + w[j]!;
  if (l2 >= across * across || give === 0) return;
  const ox = old[a]! - old[b]!,
    oy = old[a + 1]! - old[b + 1]!,
    oz = old[a + 2]! - old[b + 2]!;
  const r = Math.min(across, Math.sqrt(ox * ox + oy * oy + oz * oz) + apart);
  if (l2 >= r * r) return;
  const l: number = l2 > 0 ? Math.sqrt(l2) : 1e-12;
  const push = (r - l) / give;
  const nx = dx / l,
    ny = dy / l,
    nz = dz / l;
  // How they slid along each other in the step.
  const along = (dx - ox) * nx + (dy - oy) * ny + (dz - oz) * nz;
  const sx = dx - ox - along * nx,
    sy = dy - oy - along * ny,
    sz = dz - oz - along * nz;
  const slid = Math.sqrt(sx * sx + sy * sy + sz * sz);
  const most = friction * (r - l);
  const back: number = slid > 0 ? Math.min(1, most / slid) / give : 0;
  movePoint(x, a, w[i]!, push * nx - back * sx, push * ny - back * sy, push * nz - back * sz);
  movePoint(x, b, -w[j]!, push * nx - back * sx, push * ny - back * sy, push * nz - back * sz);
  if (touched[i]! < 4) touched[i] = touched[i]! + 4;
  if (touched[j]! < 4) touched[j] = touched[j]! + 4;
}

function movePoint(x: Floats, o: Index, by: number, px: number, py: number, pz: number): void {
  x[o] = x[o]! + by * px;
  x[o + 1] = x[o + 1]! + by * py;
  x[o + 2] = x[o + 2]! + by * pz;
}
