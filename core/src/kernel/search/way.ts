import { int } from '../numbers';
import type { SearchStep } from './fields';

/**
 * Where the points are and go: a box round them, how far they have gone since they were last looked at (`drift`) and go
 * in the step (`way`, `reach`), and where to (`ahead`).
 */
export function measureWay(search: SearchStep): void {
  const links = int(search.links);
  const { x, thick, drift, way } = search;
  const went = lookAgain(search);
  drift[links] = drift[links]! + went;
  let thickest: number = 0;
  for (let k = 0; k < links; k++) {
    drift[k] = drift[k]! + Math.max(way[k]!, way[k + 1]!);
    if (thick[k]! > thickest) thickest = thick[k]!;
  }
  search.thickest = thickest;
  goAhead(search);
  const { ahead } = search;
  let reach: number = 0;
  for (let k = 0; k <= links; k++) {
    const p = 3 * k;
    const ax = ahead[p]! - x[p]!,
      ay = ahead[p + 1]! - x[p + 1]!,
      az = ahead[p + 2]! - x[p + 2]!;
    const moves = Math.sqrt(ax * ax + ay * ay + az * az);
    way[k] = moves;
    if (moves > reach) reach = moves;
  }
  search.reach = reach;
}

/** The box round the points, and into `way` how far each has gone since it was last looked at; returns the farthest. */
function lookAgain(search: SearchStep): number {
  const links = int(search.links);
  const { x, way, seen } = search;
  let loX: number = Infinity,
    loY: number = Infinity,
    loZ: number = Infinity;
  let hiX: number = -Infinity,
    hiY: number = -Infinity,
    hiZ: number = -Infinity;
  let went: number = 0;
  for (let k = 0; k <= links; k++) {
    const p = 3 * k;
    const px = x[p]!,
      py = x[p + 1]!,
      pz = x[p + 2]!;
    if (px < loX) loX = px;
    if (py < loY) loY = py;
    if (pz < loZ) loZ = pz;
    if (px > hiX) hiX = px;
    if (py > hiY) hiY = py;
    if (pz > hiZ) hiZ = pz;
    const sx = px - seen[p]!,
      sy = py - seen[p + 1]!,
      sz = pz - seen[p + 2]!;
    const moved = Math.sqrt(sx * sx + sy * sy + sz * sz);
    way[k] = moved;
    if (moved > went) went = moved;
    seen[p] = px;
    seen[p + 1] = py;
    seen[p + 2] = pz;
  }
  search.loX = loX;
  search.loY = loY;
  search.loZ = loZ;
  search.hiX = hiX;
  search.hiY = hiY;
  search.hiZ = hiZ;
  return went;
}

/** Where the points go by themselves; the root has gone on to its source already. */
function goAhead(search: SearchStep): void {
  const links = int(search.links);
  const { h, x, v, fall, source, ahead } = search;
  ahead[0] = source[0]!;
  ahead[1] = source[1]!;
  ahead[2] = source[2]!;
  const last = 3 * links + 3;
  for (let k = 3; k < last; k++) ahead[k] = x[k]! + h * v[k]! + h * h * fall[k - 3]!;
}
