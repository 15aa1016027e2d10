import { int } from '../numbers';
import { quatRotate } from '../turn';
import { RegionStep } from './fields';
import type { Floats, Index } from '../numbers';

/**
 * One step of a region of skin: how far each point is from where its skin has it, as a field of oscillators with a
 * spread between neighbours, in world axes. Implicit, second order (BDF2); damping acts in the frame of what carries
 * the skin. Solved by conjugate gradients with its diagonal.
 */
export function stepRegion(step: RegionStep): void {
  const n = int(step.points);
  const { u, older, x, v, vOld, b } = step;
  load(step, n);
  // From where it would come to if it went on as it did.
  for (let o = 0; o < 3 * n; o++) x[o] = 2 * u[o]! - older[o]!;
  step.rounds = solve(step, n, b, x, step.tolerance);
  if (step.volume > 0) keepVolume(step, n);
  const h = step.h;
  for (let o = 0; o < 3 * n; o++) {
    const speed = (1.5 * (x[o]! - u[o]!) - 0.5 * (u[o]! - older[o]!)) / h;
    vOld[o] = v[o]!;
    v[o] = speed;
    older[o] = u[o]!;
    u[o] = x[o]!;
  }
}

/** What the points are driven by, and the diagonal of the system. */
function load(step: RegionStep, n: Index): void {
  const { h, k, c, u, older, v, vOld, drive, turns, area, share, sums, own, inverse, b, r } = step;
  const inert = 9 / (4 * h * h);
  const damped = c / h;
  const more = step.along - 1;
  for (let i = 0; i < n; i++) {
    const o = 3 * i;
    const m = area[i]!;
    const held = (m * k) / share[i]!;
    own[i] = m * (inert + 1.5 * damped) + held + step.spread * sums[i]!;
    inverse[i] = 1 / (own[i]! + (held * more) / 3);
    quatRotate(r, o, turns, 0, u, o);
    for (let a = o; a < o + 3; a++) {
      const goes = (4 * u[a]! - older[a]!) / 3 + (h * (8 * v[a]! - 2 * vOld[a]!)) / 9 - drive[a]! / inert;
      b[a] = m * (inert * goes + 2 * damped * r[a]!);
    }
    quatRotate(r, o, turns, 4, older, o);
    for (let a = o; a < o + 3; a++) b[a] = b[a]! - 0.5 * m * damped * r[a]!;
  }
}

/** out = the system times p. */
function apply(step: RegionStep, n: Index, out: Floats, p: Floats): void {
  const { k, spread, along, area, share, normal, own, from, beside, cotangents } = step;
  for (let i = 0; i < n; i++) {
    const o = 3 * i;
    let sx: number = 0,
      sy: number = 0,
      sz: number = 0;
    for (let e = from[i]!; e < from[i + 1]!; e++) {
      const j = 3 * beside[e]!;
      const w = cotangents[e]!;
      sx += w * p[j]!;
      sy += w * p[j + 1]!;
      sz += w * p[j + 2]!;
    }
    const d = own[i]!;
    out[o] = d * p[o]! - spread * sx;
    out[o + 1] = d * p[o + 1]! - spread * sy;
    out[o + 2] = d * p[o + 2]! - spread * sz;
    if (along === 1) continue;
    const nx = normal[o]!,
      ny = normal[o + 1]!,
      nz = normal[o + 2]!;
    const square = nx * nx + ny * ny + nz * nz;
    if (square < 1e-30) continue;
    const s =
      (((area[i]! * k) / share[i]!) * (along - 1) * (nx * p[o]! + ny * p[o + 1]! + nz * p[o + 2]!)) / square;
    out[o] = out[o]! + s * nx;
    out[o + 1] = out[o + 1]! + s * ny;
    out[o + 2] = out[o + 2]! + s * nz;
  }
}

/** Betters x until the system times x is b to a share of b, or for the most rounds. Returns the rounds. */
function solve(step: RegionStep, n: Index, b: Floats, x: Floats, tolerance: number): number {
  const { inverse, r, z, p, q } = step;
  apply(step, n, q, x);
  let rz: number = 0,
    bb: number = 0;
  for (let i = 0; i < n; i++)
    for (let o = 3 * i; o < 3 * i + 3; o++) {
      r[o] = b[o]! - q[o]!;
      z[o] = r[o]! * inverse[i]!;
      p[o] = z[o]!;
      rz += r[o]! * z[o]!;
      bb += b[o]! * b[o]! * inverse[i]!;
    }
  const enough = tolerance * tolerance * bb;
  let rounds: number = 0;
  while (rounds < step.most && rz > enough && rz > 1e-30) {
    rounds += 1;
    apply(step, n, q, p);
    let pq: number = 0;
    for (let o = 0; o < 3 * n; o++) pq += p[o]! * q[o]!;
    const along = rz / pq;
    let next: number = 0;
    for (let i = 0; i < n; i++)
      for (let o = 3 * i; o < 3 * i + 3; o++) {
        x[o] = x[o]! + along * p[o]!;
        r[o] = r[o]! - along * q[o]!;
        z[o] = r[o]! * inverse[i]!;
        next += r[o]! * z[o]!;
      }
    const on = next / rz;
    rz = next;
    for (let o = 0; o < 3 * n; o++) p[o] = z[o]! + on * p[o]!;
  }
  return rounds;
}

/** Takes out of x what goes through the skin on the whole beyond what it swells by: what sinks here bulges there. */
function keepVolume(step: RegionStep, n: Index): void {
  const { x, y, normal, share, swell } = step;
  step.rounds += solve(step, n, normal, y, 1e-2);
  let gx: number = 0,
    gy: number = 0;
  for (let o = 0; o < 3 * n; o++) {
    gx += normal[o]! * x[o]!;
    gy += normal[o]! * y[o]!;
  }
  if (gy < 1e-30) return;
  if (swell !== 0)
    for (let i = 0; i < n; i++) {
      const o = 3 * i;
      const nx = normal[o]!,
        ny = normal[o + 1]!,
        nz = normal[o + 2]!;
      gx -= swell * share[i]! * Math.sqrt(nx * nx + ny * ny + nz * nz);
    }
  const s = (step.volume * gx) / gy;
  for (let o = 0; o < 3 * n; o++) x[o] = x[o]! - s * y[o]!;
}
