import { int } from '../numbers';
import { ClothStep } from './fields';
import type { Index } from '../numbers';

/** Where each point goes on to by itself: BDF2, or backward Euler in a first step; held ones follow the animation. */
export function predictCloth(step: ClothStep): void {
  const points = int(step.points);
  const { h, x, old, w, now, pull, damp, older } = step;
  const first = step.first > 0;
  const hh: number = first ? h * h : (4 / 9) * h * h,
    hd: number = first ? h : (2 / 3) * h,
    d0: number = first ? 1 : 4 / 3,
    d1: number = first ? 0 : 1 / 3,
    d2: number = first ? 1 : 2 / 3;
  for (let i = 0; i < points; i++) {
    const held = !(w[i]! > 0);
    const q = hh * pull[i]!,
      r = hd * damp[i]!;
    const over = 1 / (1 + q + r);
    for (let a = 0; a < 3; a++) {
      const k = 3 * i + a;
      const at = x[k]!;
      old[k] = at;
      if (held) x[k] = now[k]!;
      else {
        const free = freely(step, first, k, a, hh);
        const along = d0 * at - d1 * older[k]! + d2 * (now[k]! - step.before[k]!);
        x[k] = q + r > 0 ? (free + q * now[k]! + r * along) * over : free;
      }
    }
  }
}

/** One coordinate without any hold; `a` is its axis. */
function freely(step: ClothStep, first: boolean, k: Index, a: Index, hh: number): number {
  const { h, x, older, v, vOld, push } = step;
  const g: number = a === 0 ? step.gx : a === 1 ? step.gy : step.gz;
  const accel = hh * (g + push[k]!);
  if (first) return x[k]! + h * v[k]! + accel;
  return x[k]! + (x[k]! - older[k]!) / 3 + (8 / 9) * h * v[k]! - (2 / 9) * h * vOld[k]! + accel;
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

/** m/s: what would go faster is slowed, so that no shot can run away. */
const FASTEST: number = 100;

/** Speeds at the end of a step. The first two steps of a contact are first order: what it was before tells nothing. */
export function finishCloth(step: ClothStep): void {
  const points = int(step.points);
  const { h, x, old, older, v, vOld, touched } = step;
  const first = step.first > 0;
  for (let i = 0; i < points; i++) {
    holdBack(step, i);
    const jumps = touched[i]! >= 4 && touched[i]! < 7;
    const a: number = first || jumps ? 1 / h : 1.5 / h,
      b: number = first || jumps ? 0 : 0.5 / h;
    for (let k = 3 * i; k < 3 * i + 3; k++) {
      const speed = a * (x[k]! - old[k]!) - b * (old[k]! - older[k]!);
      vOld[k] = jumps ? speed : v[k]!;
      v[k] = speed;
      older[k] = old[k]!;
    }
    slow(step, 3 * i);
  }
}

/** Lets no free point go farther in a step than the fastest: steps that grow from one to the next would not end. */
function holdBack(step: ClothStep, i: Index): void {
  const { h, x, old, w } = step;
  if (w[i] === 0) return;
  const o = 3 * i;
  const dx = x[o]! - old[o]!,
    dy = x[o + 1]! - old[o + 1]!,
    dz = x[o + 2]! - old[o + 2]!;
  const d = Math.sqrt(dx * dx + dy * dy + dz * dz);
  if (!(d > FASTEST * h)) return;
  const s = (FASTEST * h) / d;
  x[o] = old[o]! + s * dx;
  x[o + 1] = old[o + 1]! + s * dy;
  x[o + 2] = old[o + 2]! + s * dz;
}

/** Slows a point that is too fast, with what it remembers of its way. */
function slow(step: ClothStep, o: Index): void {
  const { h, x, older, v, vOld } = step;
  const fast = Math.sqrt(v[o]! * v[o]! + v[o + 1]! * v[o + 1]! + v[o + 2]! * v[o + 2]!);
  if (!(fast > FASTEST)) return;
  const s = FASTEST / fast;
  for (let k = o; k < o + 3; k++) {
    v[k] = s * v[k]!;
    vOld[k] = v[k]!;
    older[k] = x[k]! - h * v[k]!;
  }
}
