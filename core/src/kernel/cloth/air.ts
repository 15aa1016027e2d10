import { int } from '../numbers';
import { blowTriangles } from './airTriangles';
import { blowThreads } from './cords';
import { ClothStep } from './fields';

/**
 * Adds the acceleration of the air: F = ½ ρ A |u·n| ((C_d − C_l) u + C_l |u| n̂) on each triangle, a third on each
 * corner, with u the wind past it and n̂ the normal on its lee side (Wilson and others 2014); and F = ½ ρ A C_d |u⊥| u⊥
 * on each edge without triangles, half on each end, with u⊥ the wind across it.
 */
export function blowCloth(step: ClothStep): void {
  const points = int(step.points);
  const { v, push, w, wind, past } = step;
  for (let k = 0; k < 3 * points; k++) {
    past[k] = wind[k]! - v[k]!;
    push[k] = 0;
  }
  blowTriangles(step);
  blowThreads(step);
  for (let i = 0; i < points; i++) for (let k = 3 * i; k < 3 * i + 3; k++) push[k] = push[k]! * w[i]!;
}
