import { int } from '../numbers';
import { ClothStep } from './fields';
import type { Floats, Index } from '../numbers';

/**
 * Adds the acceleration of the air: F = ½ ρ A |u·n| ((C_d − C_l) u + C_l |u| n̂) on each triangle, a third on each
 * corner, with u the wind past it and n̂ the normal on its lee side (Wilson and others 2014).
 */
export function blowCloth(step: ClothStep): void {
  const triangles = int(step.triangles);
  const { density, drag, lift, x, v, push, w, triangle, wind } = step;
  for (let t = 0; t < 3 * triangles; t += 3) {
    const i = 3 * int(triangle[t]!),
      j = 3 * int(triangle[t + 1]!),
      k = 3 * int(triangle[t + 2]!);
    const ux = (wind[i]! + wind[j]! + wind[k]! - v[i]! - v[j]! - v[k]!) / 3,
      uy = (wind[i + 1]! + wind[j + 1]! + wind[k + 1]! - v[i + 1]! - v[j + 1]! - v[k + 1]!) / 3,
      uz = (wind[i + 2]! + wind[j + 2]! + wind[k + 2]! - v[i + 2]! - v[j + 2]! - v[k + 2]!) / 3;
    const bx = x[j]! - x[i]!,
      by = x[j + 1]! - x[i + 1]!,
      bz = x[j + 2]! - x[i + 2]!;
    const cx = x[k]! - x[i]!,
      cy = x[k + 1]! - x[i + 1]!,
      cz = x[k + 2]! - x[i + 2]!;
    const nx = by * cz - bz * cy,
      ny = bz * cx - bx * cz,
      nz = bx * cy - by * cx;
    const size = Math.sqrt(nx * nx + ny * ny + nz * nz);
    if (!(size > 0)) continue;
    const through = (ux * nx + uy * ny + uz * nz) / size;
    const speed = Math.sqrt(ux * ux + uy * uy + uz * uz);
    const f = (density * size * Math.abs(through)) / 12;
    const side: number = through < 0 ? -1 : 1;
    const fd = f * (drag - lift),
      fl = (side * f * lift * speed) / size;
    const fx = fd * ux + fl * nx,
      fy = fd * uy + fl * ny,
      fz = fd * uz + fl * nz;
    pushPoint(push, w, i, fx, fy, fz);
    pushPoint(push, w, j, fx, fy, fz);
    pushPoint(push, w, k, fx, fy, fz);
  }
}

function pushPoint(push: Floats, w: Floats, o: Index, x: number, y: number, z: number): void {
  const wi = w[int(o / 3)]!;
  push[o] = push[o]! + wi * x;
  push[o + 1] = push[o + 1]! + wi * y;
  push[o + 2] = push[o + 2]! + wi * z;
}
