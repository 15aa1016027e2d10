import { int } from '../numbers';
import { ClothStep } from './fields';
import type { Index } from '../numbers';

/**
 * Takes up how far each point goes in the step, and has gone since the last. What touched something in the step before
 * has now done so one step earlier.
 */
export function readyTouches(step: ClothStep): void {
  const points = int(step.points);
  const { x, old, seen, own, gone, touched } = step;
  for (let i = 0; i < points; i++) {
    const o = 3 * i;
    const t = touched[i]!;
    // Four was in this step: it becomes two, and two one.
    touched[i] = (t >= 4 ? 2 : 0) + ((t >= 4 ? t - 4 : t) >= 2 ? 1 : 0);
    const px = x[o]!,
      py = x[o + 1]!,
      pz = x[o + 2]!;
    const ax = px - old[o]!,
      ay = py - old[o + 1]!,
      az = pz - old[o + 2]!;
    own[i] = Math.sqrt(ax * ax + ay * ay + az * az);
    const bx = px - seen[o]!,
      by = py - seen[o + 1]!,
      bz = pz - seen[o + 2]!;
    gone[i] = Math.sqrt(bx * bx + by * by + bz * bz);
    seen[o] = px;
    seen[o + 1] = py;
    seen[o + 2] = pz;
  }
}

/** Brings back what has gone farther from its animation than its leash, or farther inward than its inner one. */
export function keepLeash(step: ClothStep): void {
  const points = int(step.points);
  const { x, w, now, leash, touched } = step;
  for (let i = 0; i < points; i++) {
    if (!(w[i]! > 0)) continue;
    const o = 3 * i;
    keepOut(step, i);
    const dx = x[o]! - now[o]!,
      dy = x[o + 1]! - now[o + 1]!,
      dz = x[o + 2]! - now[o + 2]!;
    const d = Math.sqrt(dx * dx + dy * dy + dz * dz);
    if (!(d > leash[i]!)) continue;
    const s = leash[i]! / d;
    x[o] = now[o]! + s * dx;
    x[o + 1] = now[o + 1]! + s * dy;
    x[o + 2] = now[o + 2]! + s * dz;
    if (touched[i]! < 4) touched[i] = touched[i]! + 4;
  }
}

/** Brings a point that is too far inward of its animation back along the normal there. */
function keepOut(step: ClothStep, i: Index): void {
  const { x, now, inner, outward, touched } = step;
  const o = 3 * i;
  const nx = outward[o]!,
    ny = outward[o + 1]!,
    nz = outward[o + 2]!;
  const out = nx * (x[o]! - now[o]!) + ny * (x[o + 1]! - now[o + 1]!) + nz * (x[o + 2]! - now[o + 2]!);
  const by = -inner[i]! - out;
  if (!(by > 0)) return;
  x[o] = x[o]! + by * nx;
  x[o + 1] = x[o + 1]! + by * ny;
  x[o + 2] = x[o + 2]! + by * nz;
  if (touched[i]! < 4) touched[i] = touched[i]! + 4;
}
