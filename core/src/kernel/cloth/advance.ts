import { int } from '../numbers';
import { ClothStep } from './fields';
import { finishPoint } from './finish';

/**
 * Where each point goes on to by itself: BDF2, or backward Euler in a first step; held ones follow the animation.
 * wasm/advance.as does this and {@link finishCloth} two points at a time, to the same bits.
 */
export function predictCloth(step: ClothStep): void {
  const points = int(step.points);
  const { h, x, old, older, v, vOld, push, w, skinFrom, skinTo, now, pull, damp, gx, gy, gz, to } = step;
  const first = step.first > 0;
  const hh: number = first ? h * h : (4 / 9) * h * h,
    hd: number = first ? h : (2 / 3) * h,
    c1: number = first ? 0 : 1 / 3,
    c2: number = first ? h : (8 / 9) * h,
    c3: number = first ? 0 : (2 / 9) * h,
    d0: number = first ? 1 : 4 / 3,
    d2: number = (first ? 1 : 2 / 3) * (to - step.from);
  for (let i = 0; i < points; i++) {
    const held = !(w[i]! > 0);
    const q = hh * pull[i]!,
      r = hd * damp[i]!;
    const over = 1 / (1 + q + r);
    for (let a = 0; a < 3; a++) {
      const k = 3 * i + a;
      const at = x[k]!,
        way = skinTo[k]! - skinFrom[k]!;
      const skin: number = to === 1 ? skinTo[k]! : skinFrom[k]! + to * way;
      const g: number = a === 0 ? gx : a === 1 ? gy : gz;
      const free = at + c1 * (at - older[k]!) + c2 * v[k]! - c3 * vOld[k]! + hh * (g + push[k]!);
      const swung = (free + q * skin + r * (d0 * at - c1 * older[k]! + d2 * way)) * over;
      now[k] = skin;
      old[k] = at;
      x[k] = held ? skin : swung;
    }
  }
}

/** Speeds at the end of a step. The first two steps of a contact are first order: what it was before tells nothing. */
export function finishCloth(step: ClothStep): void {
  const points = int(step.points);
  for (let i = 0; i < points; i++) finishPoint(step, i);
}
