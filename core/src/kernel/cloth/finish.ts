import { ClothStep } from './fields';
import type { Index } from '../numbers';

/** m/s: what would go faster is slowed, so that no shot can run away. */
export const FASTEST: number = 100;

/** Speed of a point at the end of a step. The first two steps of a contact are first order: see {@link finishCloth}. */
export function finishPoint(step: ClothStep, i: Index): void {
  const { h, x, old, older, v, vOld, touched } = step;
  holdBack(step, i);
  const jumps = touched[i]! >= 4 && touched[i]! < 7;
  const simple = step.first > 0 || jumps;
  const a: number = simple ? 1 / h : 1.5 / h,
    b: number = simple ? 0 : 0.5 / h;
  for (let k = 3 * i; k < 3 * i + 3; k++) {
    const speed = a * (x[k]! - old[k]!) - b * (old[k]! - older[k]!);
    vOld[k] = jumps ? speed : v[k]!;
    v[k] = speed;
    older[k] = old[k]!;
  }
  slow(step, 3 * i);
}

/** Lets no free point go farther in a step than the fastest: steps that grow from one to the next would not end. */
function holdBack(step: ClothStep, i: Index): void {
  const { h, x, old, w } = step;
  if (w[i] === 0) return;
  const o = 3 * i;
  const dx = x[o]! - old[o]!,
    dy = x[o + 1]! - old[o + 1]!,
    dz = x[o + 2]! - old[o + 2]!;
  const d = dx * dx + dy * dy + dz * dz;
  if (!(d > FASTEST * h * (FASTEST * h))) return;
  const s = (FASTEST * h) / Math.sqrt(d);
  x[o] = old[o]! + s * dx;
  x[o + 1] = old[o + 1]! + s * dy;
  x[o + 2] = old[o + 2]! + s * dz;
}

/** Slows a point that is too fast, with what it remembers of its way. */
export function slow(step: ClothStep, o: Index): void {
  const { h, x, older, v, vOld } = step;
  const fast = v[o]! * v[o]! + v[o + 1]! * v[o + 1]! + v[o + 2]! * v[o + 2]!;
  if (!(fast > FASTEST * FASTEST)) return;
  const s = FASTEST / Math.sqrt(fast);
  for (let k = o; k < o + 3; k++) {
    v[k] = s * v[k]!;
    vOld[k] = v[k]!;
    older[k] = x[k]! - h * v[k]!;
  }
}
