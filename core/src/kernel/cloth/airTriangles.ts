import { int } from '../numbers';
import { ClothStep } from './fields';
import type { Floats, Index } from '../numbers';

const THIRD: number = 1 / 3;

/** Adds the forces of the air to `push`, N. wasm/airTriangles.as does two triangles at once, to the same bits. */
export function blowTriangles(step: ClothStep): void {
  const triangles = int(step.triangles);
  const { density, drag, lift, x, push, triangle, past } = step;
  for (let t = 0; t < 3 * triangles; t += 3) {
    const i = 3 * triangle[t]!,
      j = 3 * triangle[t + 1]!,
      k = 3 * triangle[t + 2]!;
    const ux = (past[i]! + past[j]! + past[k]!) * THIRD,
      uy = (past[i + 1]! + past[j + 1]! + past[k + 1]!) * THIRD,
      uz = (past[i + 2]! + past[j + 2]! + past[k + 2]!) * THIRD;
    const px = x[i]!,
      py = x[i + 1]!,
      pz = x[i + 2]!;
    const bx = x[j]! - px,
      by = x[j + 1]! - py,
      bz = x[j + 2]! - pz;
    const cx = x[k]! - px,
      cy = x[k + 1]! - py,
      cz = x[k + 2]! - pz;
    const nx = by * cz - bz * cy,
      ny = bz * cx - bx * cz,
      nz = bx * cy - by * cx;
    const nn = nx * nx + ny * ny + nz * nz;
    if (!(nn > 0)) continue;
    // |u| / |n| by one root and one division.
    const flux = ux * nx + uy * ny + uz * nz;
    const f = (density / 12) * Math.abs(flux);
    const lifted = lift * f * Math.sqrt((ux * ux + uy * uy + uz * uz) / nn);
    const fd = f * (drag - lift),
      fl: number = flux < 0 ? -lifted : lifted;
    const fx = fd * ux + fl * nx,
      fy = fd * uy + fl * ny,
      fz = fd * uz + fl * nz;
    pushPoint(push, i, fx, fy, fz);
    pushPoint(push, j, fx, fy, fz);
    pushPoint(push, k, fx, fy, fz);
  }
}

function pushPoint(push: Floats, o: Index, x: number, y: number, z: number): void {
  push[o] = push[o]! + x;
  push[o + 1] = push[o + 1]! + y;
  push[o + 2] = push[o + 2]! + z;
}
