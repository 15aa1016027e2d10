import { matCompose, matMultiply } from './matrix';
import { int, NONE } from './numbers';
import type { Floats } from './numbers';
import { quatBetween, quatMultiply, quatRotate } from './turn';

/** What finding the turns of a row of joints reads and writes (see `LinkTurns`): numbers first. */
export class TurnStep {
  links: number = 0;
  /** 1 where links stretch, else 0. */
  stretch: number = 0;
  points: Floats = NONE;
  place: Floats = NONE;
  turn: Floats = NONE;
  scale: Floats = NONE;
  world: Floats = NONE;
  turned: Floats = NONE;
  placed: Floats = NONE;
  /** Room for one matrix and one direction. */
  local: Floats = NONE;
  aim: Floats = NONE;
}

/** Finds turns, places and matrices of the joints; see `makeLinkTurns`. */
export function turnLinks(turns: TurnStep): void {
  const links = int(turns.links);
  const { stretch, points, place, turn, scale, world, turned, placed, local, aim } = turns;
  let ratio: number = 1;
  for (let i = 0; i < links; i++) {
    const p = 16 * i;
    const o = 3 * i;
    const q = 4 * i;
    // Inverse of the parent's 3×3 (columns a, b, c): its rows are b×c, c×a and a×b over the determinant.
    const ax = world[p]!,
      ay = world[p + 1]!,
      az = world[p + 2]!,
      bx = world[p + 4]!,
      by = world[p + 5]!,
      bz = world[p + 6]!,
      cx = world[p + 8]!,
      cy = world[p + 9]!,
      cz = world[p + 10]!;
    const nx = by * cz - bz * cy,
      ny = bz * cx - bx * cz,
      nz = bx * cy - by * cx;
    const determinant = ax * nx + ay * ny + az * nz;
    const invertible = Math.abs(determinant) > 1e-30;
    const per: number = invertible ? 1 / determinant : 0;
    const mx = (cy * az - cz * ay) * per,
      my = (cz * ax - cx * az) * per,
      mz = (cx * ay - cy * ax) * per,
      ox = (ay * bz - az * by) * per,
      oy = (az * bx - ax * bz) * per,
      oz = (ax * by - ay * bx) * per;
    placed[o] = place[o]! * ratio;
    placed[o + 1] = place[o + 1]! * ratio;
    placed[o + 2] = place[o + 2]! * ratio;
    if (i === 0 && stretch > 0 && invertible) {
      // The root may have left its place.
      const rx = points[0]! - world[12]!,
        ry = points[1]! - world[13]!,
        rz = points[2]! - world[14]!;
      placed[0] = (nx * rx + ny * ry + nz * rz) * per;
      placed[1] = mx * rx + my * ry + mz * rz;
      placed[2] = ox * rx + oy * ry + oz * rz;
    }
    // The link's end in the joint's own space, then its direction in the parent's space as the source has it.
    aim[0] = scale[o]! * place[o + 3]!;
    aim[1] = scale[o + 1]! * place[o + 4]!;
    aim[2] = scale[o + 2]! * place[o + 5]!;
    quatRotate(aim, 0, turn, q, aim, 0);
    const sx = aim[0]!,
      sy = aim[1]!,
      sz = aim[2]!;
    const ls = Math.sqrt(sx * sx + sy * sy + sz * sz);
    const wx = points[o + 3]! - points[o]!,
      wy = points[o + 4]! - points[o + 1]!,
      wz = points[o + 5]! - points[o + 2]!;
    const dx = (nx * wx + ny * wy + nz * wz) * per;
    const dy = mx * wx + my * wy + mz * wz;
    const dz = ox * wx + oy * wy + oz * wz;
    const ld = Math.sqrt(dx * dx + dy * dy + dz * dz);
    const moved = invertible && ls > 1e-12 && ld > 1e-12;
    if (moved) {
      const ps = 1 / ls;
      const pd = 1 / ld;
      quatBetween(turned, q, sx * ps, sy * ps, sz * ps, dx * pd, dy * pd, dz * pd);
      quatMultiply(turned, q, turned, q, turn, q);
    } else {
      for (let k = 0; k < 4; k++) turned[q + k] = turn[q + k]!;
    }
    matCompose(local, 0, placed, o, turned, q, scale, o);
    matMultiply(world, p + 16, world, p, local, 0);
    ratio = stretch > 0 && moved ? ld / ls : 1;
    if (stretch === 0) for (let k = 0; k < 3; k++) placed[o + k] = place[o + k]!;
  }
}
