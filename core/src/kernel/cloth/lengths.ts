import { int } from '../numbers';
import { ClothStep } from './fields';
import { keepRims } from './rim';
import type { Index } from '../numbers';

const TINY: number = 1e-20;

/**
 * Moves the points so that each path's edges get their lengths, closed rims before and after the rest. Position-based
 * dynamics with compliance (Macklin, Müller, Chentanez 2016), each path solved directly. Paths of a group share no
 * point: wasm/lengths.as solves four at once, to the same bits.
 */
export function keepLengths(step: ClothStep): void {
  const perStep: number = step.first > 0 ? 1 / (step.h * step.h) : 9 / (4 * step.h * step.h);
  keepRims(step, perStep, false);
  const groups = int(step.groups);
  for (let lane = 0; lane < 4 * groups; lane++) {
    const m = step.lanes[lane]!;
    const g = lane >> 2;
    if (m > 0) keepPath(step, perStep, 4 * step.group[2 * g]! + (lane & 3), m);
  }
  keepRims(step, perStep, true);
}

/** One path of m edges whose numbers stand from `at` on, 4 apart: way, push and take of each edge. */
function keepPath(step: ClothStep, perStep: number, at: Index, m: Index): void {
  const { x, w, pointAt, length, gives, giving, rows } = step;
  const a = pointAt[at]!;
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
    const r = 5 * j,
      e = at + 4 * j;
    const b = pointAt[e + 4]!;
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
    const wanted = length[e]!;
    const alpha: number = perStep * (l > wanted ? gives[e]! : giving[e]!);
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
  movePath(step, at, m);
}

/** Back along a path: each point goes along the edge before it and against the one after it. */
function movePath(step: ClothStep, at: Index, m: Index): void {
  const { x, w, pointAt, pulls, rows } = step;
  const told = step.threads > 0;
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
      if (told) pulls[at + 4 * (j - 1)] = push;
      fx = rows[r]! * push;
      fy = rows[r + 1]! * push;
      fz = rows[r + 2]! * push;
    }
    const a = pointAt[at + 4 * j]!;
    const wa = w[a]!;
    x[3 * a] = x[3 * a]! + wa * (fx - ex);
    x[3 * a + 1] = x[3 * a + 1]! + wa * (fy - ey);
    x[3 * a + 2] = x[3 * a + 2]! + wa * (fz - ez);
    ex = fx;
    ey = fy;
    ez = fz;
  }
}
