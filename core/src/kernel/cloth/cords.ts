import { int } from '../numbers';
import { ClothStep } from './fields';
import type { Index } from '../numbers';

/** Adds the forces of the air on edges without triangles to `push`, N. */
export function blowThreads(step: ClothStep): void {
  const threads = int(step.threads);
  const { density, drag, x, push, thread, strip, past } = step;
  for (let t = 0; t < threads; t++) {
    const i = 3 * thread[2 * t]!,
      j = 3 * thread[2 * t + 1]!;
    const tx = x[j]! - x[i]!,
      ty = x[j + 1]! - x[i + 1]!,
      tz = x[j + 2]! - x[i + 2]!;
    let ux = (past[i]! + past[j]!) / 2,
      uy = (past[i + 1]! + past[j + 1]!) / 2,
      uz = (past[i + 2]! + past[j + 2]!) / 2;
    const along = (ux * tx + uy * ty + uz * tz) / (tx * tx + ty * ty + tz * tz + 1e-30);
    ux -= along * tx;
    uy -= along * ty;
    uz -= along * tz;
    const f = (density / 4) * drag * strip[t]! * Math.sqrt(ux * ux + uy * uy + uz * uz);
    for (let k = 0; k < 2; k++) {
      const o: Index = k === 0 ? i : j;
      push[o] = push[o]! + f * ux;
      push[o + 1] = push[o + 1]! + f * uy;
      push[o + 2] = push[o + 2]! + f * uz;
    }
  }
}

/**
 * Bends closed rows of lines straight: E = ½ Σ B |Δ²x|² / l³ at each of their points, one after the other.
 * Position-based dynamics with compliance (Macklin, Müller, Chentanez 2016).
 */
export function bendCords(step: ClothStep): void {
  const knots = int(step.knots);
  const { x, w, knot, straight } = step;
  const perStep: number = step.first > 0 ? 1 / (step.h * step.h) : 9 / (4 * step.h * step.h);
  for (let s = 0; s < 2 * knots; s++) {
    // There and back, each with half of it: one way alone would drive it round.
    const t: Index = s < knots ? s : 2 * knots - 1 - s;
    const a = knot[3 * t]!,
      b = knot[3 * t + 1]!,
      c = knot[3 * t + 2]!;
    const by = -1 / (w[a]! + 4 * w[b]! + w[c]! + (2 * perStep) / straight[t]!);
    for (let k = 0; k < 3; k++) {
      const turn = by * (x[3 * a + k]! + x[3 * c + k]! - 2 * x[3 * b + k]!);
      x[3 * a + k] = x[3 * a + k]! + w[a]! * turn;
      x[3 * b + k] = x[3 * b + k]! - 2 * w[b]! * turn;
      x[3 * c + k] = x[3 * c + k]! + w[c]! * turn;
    }
  }
}
