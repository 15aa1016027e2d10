import { int } from '../numbers';
import { ClothStep } from './fields';
import { aimPaths } from './bendPaths';
import type { Floats, Index } from '../numbers';

/** Unit normals of all points, weighted by the area of their triangles; 0 where there is none. */
export function turnNormals(step: ClothStep): void {
  const points = int(step.points);
  const triangles = int(step.triangles);
  const { x, triangle, normal } = step;
  for (let k = 0; k < 3 * points; k++) normal[k] = 0;
  for (let t = 0; t < 3 * triangles; t += 3) {
    const i = 3 * triangle[t]!,
      j = 3 * triangle[t + 1]!,
      k = 3 * triangle[t + 2]!;
    const ux = x[j]! - x[i]!,
      uy = x[j + 1]! - x[i + 1]!,
      uz = x[j + 2]! - x[i + 2]!;
    const vx = x[k]! - x[i]!,
      vy = x[k + 1]! - x[i + 1]!,
      vz = x[k + 2]! - x[i + 2]!;
    const nx = uy * vz - uz * vy,
      ny = uz * vx - ux * vz,
      nz = ux * vy - uy * vx;
    addTo(normal, i, nx, ny, nz);
    addTo(normal, j, nx, ny, nz);
    addTo(normal, k, nx, ny, nz);
  }
  for (let o = 0; o < 3 * points; o += 3) {
    const nx = normal[o]!,
      ny = normal[o + 1]!,
      nz = normal[o + 2]!;
    const l = Math.sqrt(nx * nx + ny * ny + nz * nz);
    if (l > 0) {
      normal[o] = nx / l;
      normal[o + 1] = ny / l;
      normal[o + 2] = nz / l;
    }
  }
}

function addTo(out: Floats, o: Index, x: number, y: number, z: number): void {
  out[o] = out[o]! + x;
  out[o + 1] = out[o + 1]! + y;
  out[o + 2] = out[o + 2]! + z;
}

/** Turns what the sheet bends back to with its normals as they are now. */
export function aimBend(step: ClothStep): void {
  turnNormals(step);
  aimPaths(step);
}
