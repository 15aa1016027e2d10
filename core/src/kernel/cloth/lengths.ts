import { int } from '../numbers';
import { ClothStep } from './fields';
import { keepRim } from './rim';
import type { Floats, Index } from '../numbers';

const TINY: number = 1e-20;

/**
 * Moves the points so that each path's edges get their lengths, closed rims before and after the rest. Position-based
 * dynamics with compliance (Macklin, Müller, Chentanez 2016), each path solved directly.
 */
export function keepLengths(step: ClothStep): void {
  const paths = int(step.paths);
  const { path } = step;
  const perStep: number = step.first > 0 ? 1 / (step.h * step.h) : 9 / (4 * step.h * step.h);
  for (let k = 0; k < paths; k++)
    if (path[4 * k + 3]! > 0)
      keepRim(step, perStep, int(path[4 * k]!), int(path[4 * k + 1]!), int(path[4 * k + 2]!));
  for (let k = 0; k < paths; k++)
    if (path[4 * k + 3]! === 0)
      keepPath(step, perStep, int(path[4 * k]!), int(path[4 * k + 1]!), int(path[4 * k + 2]!));
  for (let k = 0; k < paths; k++)
    if (path[4 * k + 3]! > 0)
      keepRim(step, perStep, int(path[4 * k]!), int(path[4 * k + 1]!), int(path[4 * k + 2]!));
}

/** One path of m edges from end to end, its edges from e on, its points from p: way, push and take of each edge. */
function keepPath(step: ClothStep, perStep: number, e: Index, p: Index, m: Index): void {
  const { x, w, pointAt, length, gives, giving, rows } = step;
  const a = int(pointAt[p]!);
  let ax = x[3 * a]!,
    ay = x[3 * a + 1]!,
    az = x[3 * a + 2]!,
    wa = w[a]!;
  let ex: number = 0,
    ey: number = 0,
    ez: number = 0,
    over: number = 0,
    pushed: number = 0;
  for (let j = 0; j < m; j++) {
    const r = 5 * j;
    const b = int(pointAt[p + j + 1]!);
    const bx = x[3 * b]!,
      by = x[3 * b + 1]!,
      bz = x[3 * b + 2]!,
      wb = w[b]!;
    let dx = bx - ax,
      dy = by - ay,
      dz = bz - az;
    const l = Math.sqrt(dx * dx + dy * dy + dz * dz);
    const s = 1 / (l + TINY);
    dx *= s;
    dy *= s;
    dz *= s;
    const wanted = length[e + j]!;
    const alpha: number = perStep * (l > wanted ? gives[e + j]! : giving[e + j]!);
    // Coupling with the edge before it, through the point they share.
    const c = -wa * (ex * dx + ey * dy + ez * dz);
    const take = c * over;
    over = 1 / (wa + wb + alpha - c * take + TINY);
    pushed = (wanted - l - c * pushed) * over;
    rows[r] = dx;
    rows[r + 1] = dy;
    rows[r + 2] = dz;
    rows[r + 3] = pushed;
    rows[r + 4] = take;
    ex = dx;
    ey = dy;
    ez = dz;
    ax = bx;
    ay = by;
    az = bz;
    wa = wb;
  }
  movePath(x, w, pointAt, rows, p, m);
}

/** Back along a path: each point goes along the edge before it and against the one after it. */
function movePath(x: Floats, w: Floats, pointAt: Floats, rows: Floats, p: Index, m: Index): void {
  let push: number = 0,
    take: number = 0,
    ex: number = 0,
    ey: number = 0,
    ez: number = 0;
  for (let j = m; j >= 0; j--) {
    let fx: number = 0,
      fy: number = 0,
      fz: number = 0;
    if (j > 0) {
      const r = 5 * (j - 1);
      push = rows[r + 3]! - take * push;
      take = rows[r + 4]!;
      fx = rows[r]! * push;
      fy = rows[r + 1]! * push;
      fz = rows[r + 2]! * push;
    }
    const a = int(pointAt[p + j]!);
    const wa = w[a]!;
    x[3 * a] = x[3 * a]! + wa * (fx - ex);
    x[3 * a + 1] = x[3 * a + 1]! + wa * (fy - ey);
    x[3 * a + 2] = x[3 * a + 2]! + wa * (fz - ez);
    ex = fx;
    ey = fy;
    ez = fz;
  }
}
