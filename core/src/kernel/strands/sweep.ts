import { StrandStep } from './fields';
import { basisOf, dot3 } from './vectors';
import type { Floats, Index } from '../numbers';

/**
 * Where in the room the sums that go from the tip to the root stand: the matrix of what hangs on a point (6 numbers),
 * its pull (3), the forces for the tension (3), how a turn of the link is felt there (3 and 3), what the bend adds to
 * the tension (3), and how the link outboard leans on this one: matrix (3) and pull (2). Then what one link works out:
 * how it leans on its parent (4), the parent's matrix (3), own pull (3), pull on the parent (3) and its parts (2).
 */
const P: Index = 0;
const PULL: Index = 6;
const FORCE: Index = 9;
const B0: Index = 12;
const B1: Index = 15;
const BENT: Index = 18;
const LEANS: Index = 21;
const LEANT: Index = 24;
const X: Index = 26;
const B: Index = 30;
const OWN: Index = 33;
const PARENT: Index = 36;
const PARTS: Index = 39;
/** Scratch: r, w and J u, J v. */
const R: Index = 42;
const W: Index = 45;
const JU: Index = 48;
const JV: Index = 51;
const E: Index = 54;
/** Below this 1 + cos a link points back along its parent, and turns no further by it. */
const FOLDED: number = 0.02;
/** How much of a tension counts as stiffness across the link. */
const TENSION: number = 0.7;

/** From tip to root: gathers what each link answers a turn by (a Riccati sweep). */
export function sweepStrand(step: StrandStep, lo: Index, hi: Index, touching: boolean): void {
  const { room, u, v1, base } = step;
  for (let a = 0; a < 26; a++) room[a] = 0;
  basisOf(u, v1, 3 * (hi - 1), base);
  for (let i = hi - 1; i >= lo; i--) {
    gather(step, i, touching);
    for (let a = 0; a < 3; a++) {
      const o = 3 * i + a;
      room[E + a] = base[o]! - step.c[o]!;
      room[OWN + a] = step.kh[i]! * base[o]! - step.hv[o]! + step.khd[i]! * room[E + a]!;
    }
    for (let a = X; a < OWN; a++) room[a] = 0;
    for (let a = PARENT; a < PARTS + 2; a++) room[a] = 0;
    if (i > lo) bend(step, i);
    else
      for (let a = 0; a < 3; a++)
        room[OWN + a] =
          room[OWN + a]! + step.kb[i]! * (base[3 * i + a]! - step.v[3 * i + a]!) + step.kd[i]! * room[E + a]!;
    eliminate(step, i);
  }
}

/** Inertia and contact of the point of a link. */
function gather(step: StrandStep, i: Index, touching: boolean): void {
  const { room, mass, y, at, gap, cn, ct, load, hard, kt, on } = step;
  const o = 3 * i,
    m = mass[i]!;
  room[P] = room[P]! + m;
  room[P + 3] = room[P + 3]! + m;
  room[P + 5] = room[P + 5]! + m;
  for (let a = 0; a < 3; a++) {
    const pull = m * (y[o + a]! - at[o + a]!);
    room[FORCE + a] = room[FORCE + a]! + pull;
    room[PULL + a] = room[PULL + a]! + pull;
  }
  if (!touching || !(on[i]! > 0)) return;
  const nx = cn[o]!,
    ny = cn[o + 1]!,
    nz = cn[o + 2]!;
  const kn = hard[i]!,
    t = kt[i]!;
  const more = kn - t;
  room[P] = room[P]! + more * nx * nx + t;
  room[P + 1] = room[P + 1]! + more * nx * ny;
  room[P + 2] = room[P + 2]! + more * nx * nz;
  room[P + 3] = room[P + 3]! + more * ny * ny + t;
  room[P + 4] = room[P + 4]! + more * ny * nz;
  room[P + 5] = room[P + 5]! + more * nz * nz + t;
  for (let a = 0; a < 3; a++) room[E + a] = y[o + a]! - ct[o + a]!;
  const push = kn * gap[i]! - t * dot3(room, E, cn, o);
  for (let a = 0; a < 3; a++) {
    room[FORCE + a] = room[FORCE + a]! - load[i]! * cn[o + a]!;
    room[PULL + a] = room[PULL + a]! + push * cn[o + a]! + t * room[E + a]!;
  }
}

/** How a link leans on its parent: its rest direction turns with the parent from where the source has that. */
function bend(step: StrandStep, i: Index): void {
  const { room, base, u, v1, s, v, sigma, c } = step;
  const o = 3 * i,
    q = o - 3;
  basisOf(u, v1, q, base);
  const reach = 1 + dot3(s, q, base, q);
  const folded = reach < FOLDED;
  const t: number = 1 / (folded ? FOLDED : reach);
  const sg = sigma[i]!;
  const g = (sg + dot3(base, q, v, o)) * t,
    main = 2 * sg - g;
  const turning: number = folded ? 0 : g;
  for (let a = 0; a < 3; a++) {
    const b = s[q + a]! + base[q + a]!;
    room[R + a] = v[o + a]! - g * b + 2 * sg * base[q + a]!;
    room[W + a] = (v[o + a]! - turning * s[q + a]!) * t;
  }
  const au = dot3(room, W, u, q),
    av = dot3(room, W, v1, q);
  const kb = step.kb[i]!,
    kd = step.kd[i]!;
  for (let a = 0; a < 3; a++) {
    const b = s[q + a]! + base[q + a]!;
    room[JU + a] = main * u[q + a]! - au * b;
    room[JV + a] = main * v1[q + a]! - av * b;
  }
  room[B] = kb * dot3(room, JU, room, JU) + kd;
  room[B + 1] = kb * dot3(room, JU, room, JV);
  room[B + 2] = kb * dot3(room, JV, room, JV) + kd;
  let along: number = 0;
  for (let a = 0; a < 3; a++) {
    const hu = kb * room[JU + a]! + kd * u[q + a]!,
      hv = kb * room[JV + a]! + kd * v1[q + a]!;
    room[X] = room[X]! - u[o + a]! * hu;
    room[X + 1] = room[X + 1]! - u[o + a]! * hv;
    room[X + 2] = room[X + 2]! - v1[o + a]! * hu;
    room[X + 3] = room[X + 3]! - v1[o + a]! * hv;
    along += (s[q + a]! + base[q + a]!) * (base[o + a]! - room[R + a]!);
  }
  for (let a = 0; a < 3; a++) {
    const off = base[o + a]! - room[R + a]!,
      moved = room[E + a]! - (base[q + a]! - c[q + a]!);
    room[OWN + a] = room[OWN + a]! + kb * off + kd * moved;
    room[PARENT + a] = -kd * moved - kb * (main * off - along * room[W + a]!);
  }
  room[PARTS] = dot3(room, PARENT, u, q);
  room[PARTS + 1] = dot3(room, PARENT, v1, q);
}

/** P a of a symmetric matrix. */
function times(room: Floats, a: Floats, o: Index, row: Index): number {
  if (row === 0) return room[P]! * a[o]! + room[P + 1]! * a[o + 1]! + room[P + 2]! * a[o + 2]!;
  if (row === 1) return room[P + 1]! * a[o]! + room[P + 3]! * a[o + 1]! + room[P + 4]! * a[o + 2]!;
  return room[P + 2]! * a[o]! + room[P + 4]! * a[o + 1]! + room[P + 5]! * a[o + 2]!;
}

/** Solves a link for the turns of those inboard of it, and passes on what is left. */
function eliminate(step: StrandStep, i: Index): void {
  const { room, base, u, v1, long, sum, n0, n1, four, two } = step;
  const o = 3 * i,
    f = 4 * i,
    l = long[i]!;
  let tension: number = 0;
  for (let a = 0; a < 3; a++) {
    n0[o + a] = room[B0 + a]! + l * times(room, u, o, a);
    n1[o + a] = room[B1 + a]! + l * times(room, v1, o, a);
    tension -= base[o + a]! * (room[OWN + a]! + room[BENT + a]! + l * room[FORCE + a]!);
  }
  const stiff = sum[i]! + TENSION * Math.max(0, tension);
  const q00 = l * (dot3(u, o, n0, o) + dot3(room, B0, u, o)) + room[LEANS]! + stiff,
    q01 = l * (dot3(u, o, n1, o) + dot3(room, B1, u, o)) + room[LEANS + 1]!,
    q11 = l * (dot3(v1, o, n1, o) + dot3(room, B1, v1, o)) + room[LEANS + 2]! + stiff;
  const g0 = l * dot3(u, o, room, PULL) + room[LEANT]! + dot3(u, o, room, OWN),
    g1 = l * dot3(v1, o, room, PULL) + room[LEANT + 1]! + dot3(v1, o, room, OWN);
  const id = 1 / (q00 * q11 - q01 * q01);
  const i00 = q11 * id,
    i01 = -q01 * id,
    i11 = q00 * id;
  const x00 = room[X]!,
    x01 = room[X + 1]!,
    x10 = room[X + 2]!,
    x11 = room[X + 3]!;
  const y00 = i00 * x00 + i01 * x10,
    y01 = i00 * x01 + i01 * x11,
    y10 = i01 * x00 + i11 * x10,
    y11 = i01 * x01 + i11 * x11;
  const h0 = i00 * g0 + i01 * g1,
    h1 = i01 * g0 + i11 * g1;
  passOn(step, i, i00, i01, i11, h0, h1);
  for (let a = 0; a < 3; a++) {
    const p = n0[o + a]!,
      r = n1[o + a]!;
    room[B0 + a] = -(p * y00 + r * y10);
    room[B1 + a] = -(p * y01 + r * y11);
    n0[o + a] = p * i00 + r * i01;
    n1[o + a] = p * i01 + r * i11;
    room[BENT + a] = room[PARENT + a]!;
  }
  room[LEANS] = room[B]! - (x00 * y00 + x10 * y10);
  room[LEANS + 1] = room[B + 1]! - (x00 * y01 + x10 * y11);
  room[LEANS + 2] = room[B + 2]! - (x01 * y01 + x11 * y11);
  room[LEANT] = room[PARTS]! - (x00 * h0 + x10 * h1);
  room[LEANT + 1] = room[PARTS + 1]! - (x01 * h0 + x11 * h1);
  four[f] = y00;
  four[f + 1] = y01;
  four[f + 2] = y10;
  four[f + 3] = y11;
  two[2 * i] = h0;
  two[2 * i + 1] = h1;
}

/** What hangs on the parent's point, once this link answers: P −= N K Nᵀ, p −= N K G. */
function passOn(
  step: StrandStep,
  i: Index,
  i00: number,
  i01: number,
  i11: number,
  h0: number,
  h1: number,
): void {
  const { room, n0, n1 } = step;
  const o = 3 * i;
  const a0 = n0[o]!,
    a1 = n0[o + 1]!,
    a2 = n0[o + 2]!,
    b0 = n1[o]!,
    b1 = n1[o + 1]!,
    b2 = n1[o + 2]!;
  const m0 = a0 * i00 + b0 * i01,
    m1 = a1 * i00 + b1 * i01,
    m2 = a2 * i00 + b2 * i01,
    k0 = a0 * i01 + b0 * i11,
    k1 = a1 * i01 + b1 * i11,
    k2 = a2 * i01 + b2 * i11;
  room[P] = room[P]! - (m0 * a0 + k0 * b0);
  room[P + 1] = room[P + 1]! - (m0 * a1 + k0 * b1);
  room[P + 2] = room[P + 2]! - (m0 * a2 + k0 * b2);
  room[P + 3] = room[P + 3]! - (m1 * a1 + k1 * b1);
  room[P + 4] = room[P + 4]! - (m1 * a2 + k1 * b2);
  room[P + 5] = room[P + 5]! - (m2 * a2 + k2 * b2);
  room[PULL] = room[PULL]! - (a0 * h0 + b0 * h1);
  room[PULL + 1] = room[PULL + 1]! - (a1 * h0 + b1 * h1);
  room[PULL + 2] = room[PULL + 2]! - (a2 * h0 + b2 * h1);
}
