import { StrandStep } from './fields';
import { basisOf, dot3, put3 } from './vectors';
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
/** Below this 1 + cos a link points back along its parent, and turns no further by it. */
const FOLDED: number = 0.02;
/** How much of a tension counts as stiffness across the link. */
const TENSION: number = 0.7;

/** From tip to root: gathers what each link answers a turn by (a Riccati sweep). */
export function sweepStrand(step: StrandStep, lo: Index, hi: Index, touching: boolean): void {
  const { room, u, v1, base, c, v, kh, khd, kb, kd, hv } = step;
  for (let a = 0; a < X; a++) room[a] = 0;
  basisOf(u, v1, 3 * (hi - 1), base);
  for (let i = hi - 1; i >= lo; i--) {
    gather(step, i, touching);
    const o = 3 * i,
      p = o + 1,
      q = o + 2;
    const h = kh[i]!,
      d = khd[i]!;
    // How far it is turned from where it was carried on to, and what holds it to its source.
    const ex = base[o]! - c[o]!,
      ey = base[p]! - c[p]!,
      ez = base[q]! - c[q]!;
    room[OWN] = h * base[o]! - hv[o]! + d * ex;
    room[OWN + 1] = h * base[p]! - hv[p]! + d * ey;
    room[OWN + 2] = h * base[q]! - hv[q]! + d * ez;
    if (i > lo) bend(step, i, ex, ey, ez);
    else {
      for (let a = X; a < OWN; a++) room[a] = 0;
      for (let a = PARENT; a < PARTS + 2; a++) room[a] = 0;
      const b = kb[i]!,
        e = kd[i]!;
      room[OWN] = room[OWN]! + b * (base[o]! - v[o]!) + e * ex;
      room[OWN + 1] = room[OWN + 1]! + b * (base[p]! - v[p]!) + e * ey;
      room[OWN + 2] = room[OWN + 2]! + b * (base[q]! - v[q]!) + e * ez;
    }
    eliminate(step, i);
  }
}

/** Inertia and contact of the point of a link. */
function gather(step: StrandStep, i: Index, touching: boolean): void {
  const { room, mass, y, at, on } = step;
  const o = 3 * i,
    m = mass[i]!;
  room[P] = room[P]! + m;
  room[P + 3] = room[P + 3]! + m;
  room[P + 5] = room[P + 5]! + m;
  const x0 = m * (y[o]! - at[o]!),
    x1 = m * (y[o + 1]! - at[o + 1]!),
    x2 = m * (y[o + 2]! - at[o + 2]!);
  room[FORCE] = room[FORCE]! + x0;
  room[FORCE + 1] = room[FORCE + 1]! + x1;
  room[FORCE + 2] = room[FORCE + 2]! + x2;
  room[PULL] = room[PULL]! + x0;
  room[PULL + 1] = room[PULL + 1]! + x1;
  room[PULL + 2] = room[PULL + 2]! + x2;
  if (touching && on[i]! > 0) press(step, i);
}

/** The contact of a point: hard along its normal, and held back along the surface. */
function press(step: StrandStep, i: Index): void {
  const { room, y, gap, cn, ct, load, firm, kt } = step;
  const o = 3 * i;
  const nx = cn[o]!,
    ny = cn[o + 1]!,
    nz = cn[o + 2]!;
  const t = kt[i]!,
    was = load[i]!;
  const more = firm[i]! - t;
  room[P] = room[P]! + more * nx * nx + t;
  room[P + 1] = room[P + 1]! + more * nx * ny;
  room[P + 2] = room[P + 2]! + more * nx * nz;
  room[P + 3] = room[P + 3]! + more * ny * ny + t;
  room[P + 4] = room[P + 4]! + more * ny * nz;
  room[P + 5] = room[P + 5]! + more * nz * nz + t;
  const sx = y[o]! - ct[o]!,
    sy = y[o + 1]! - ct[o + 1]!,
    sz = y[o + 2]! - ct[o + 2]!;
  const push = firm[i]! * gap[i]! - t * (sx * nx + sy * ny + sz * nz);
  room[FORCE] = room[FORCE]! - was * nx;
  room[FORCE + 1] = room[FORCE + 1]! - was * ny;
  room[FORCE + 2] = room[FORCE + 2]! - was * nz;
  room[PULL] = room[PULL]! + push * nx + t * sx;
  room[PULL + 1] = room[PULL + 1]! + push * ny + t * sy;
  room[PULL + 2] = room[PULL + 2]! + push * nz + t * sz;
}

/**
 * How a link leans on its parent: its rest direction r turns with the parent from where the source has that, by J. `e`
 * is how far the link is turned from where it was carried on to.
 */
function bend(step: StrandStep, i: Index, ex: number, ey: number, ez: number): void {
  const { room, base, u, v1, s, v, sigma, c } = step;
  const o = 3 * i,
    q = o - 3;
  basisOf(u, v1, q, base);
  const dx = base[q]!,
    dy = base[q + 1]!,
    dz = base[q + 2]!;
  const sx = s[q]!,
    sy = s[q + 1]!,
    sz = s[q + 2]!;
  const vx = v[o]!,
    vy = v[o + 1]!,
    vz = v[o + 2]!;
  const reach = 1 + (sx * dx + sy * dy + sz * dz);
  const folded = reach < FOLDED;
  const t: number = 1 / (folded ? FOLDED : reach);
  const sg = sigma[i]!;
  const g = (sg + (dx * vx + dy * vy + dz * vz)) * t;
  const turning: number = folded ? 0 : g;
  const main = 2 * sg - g,
    bx = sx + dx,
    by = sy + dy,
    bz = sz + dz;
  const wx = (vx - turning * sx) * t,
    wy = (vy - turning * sy) * t,
    wz = (vz - turning * sz) * t;
  // From the rest direction to the link's, and how far it is turned against its parent's turn.
  const rx = base[o]! - (vx - g * bx + 2 * sg * dx),
    ry = base[o + 1]! - (vy - g * by + 2 * sg * dy),
    rz = base[o + 2]! - (vz - g * bz + 2 * sg * dz);
  const mx = ex - (dx - c[q]!),
    my = ey - (dy - c[q + 1]!),
    mz = ez - (dz - c[q + 2]!);
  const b = step.kb[i]!,
    d = step.kd[i]!;
  room[OWN] = room[OWN]! + b * rx + d * mx;
  room[OWN + 1] = room[OWN + 1]! + b * ry + d * my;
  room[OWN + 2] = room[OWN + 2]! + b * rz + d * mz;
  const along = bx * rx + by * ry + bz * rz;
  const px = -d * mx - b * (main * rx - along * wx),
    py = -d * my - b * (main * ry - along * wy),
    pz = -d * mz - b * (main * rz - along * wz);
  room[PARENT] = px;
  room[PARENT + 1] = py;
  room[PARENT + 2] = pz;
  room[PARTS] = px * u[q]! + py * u[q + 1]! + pz * u[q + 2]!;
  room[PARTS + 1] = px * v1[q]! + py * v1[q + 1]! + pz * v1[q + 2]!;
  lean(step, i, main, bx, by, bz, wx, wy, wz);
}

/** What a turn of the parent does to a link: its rest direction turns by J = main I − b w. */
function lean(
  step: StrandStep,
  i: Index,
  main: number,
  bx: number,
  by: number,
  bz: number,
  wx: number,
  wy: number,
  wz: number,
): void {
  const { room, u, v1 } = step;
  const o = 3 * i,
    q = o - 3;
  const b = step.kb[i]!,
    d = step.kd[i]!;
  const ux = u[q]!,
    uy = u[q + 1]!,
    uz = u[q + 2]!;
  const tx = v1[q]!,
    ty = v1[q + 1]!,
    tz = v1[q + 2]!;
  const au = wx * ux + wy * uy + wz * uz,
    av = wx * tx + wy * ty + wz * tz;
  const jx = main * ux - au * bx,
    jy = main * uy - au * by,
    jz = main * uz - au * bz;
  const kx = main * tx - av * bx,
    ky = main * ty - av * by,
    kz = main * tz - av * bz;
  room[B] = b * (jx * jx + jy * jy + jz * jz) + d;
  room[B + 1] = b * (jx * kx + jy * ky + jz * kz);
  room[B + 2] = b * (kx * kx + ky * ky + kz * kz) + d;
  const hx = b * jx + d * ux,
    hy = b * jy + d * uy,
    hz = b * jz + d * uz;
  const lx = b * kx + d * tx,
    ly = b * ky + d * ty,
    lz = b * kz + d * tz;
  room[X] = -(u[o]! * hx + u[o + 1]! * hy + u[o + 2]! * hz);
  room[X + 1] = -(u[o]! * lx + u[o + 1]! * ly + u[o + 2]! * lz);
  room[X + 2] = -(v1[o]! * hx + v1[o + 1]! * hy + v1[o + 2]! * hz);
  room[X + 3] = -(v1[o]! * lx + v1[o + 1]! * ly + v1[o + 2]! * lz);
}

/** How a turn of a link by a unit vector is felt at its point and what hangs beyond it: P l a and what leans on it. */
function felt(room: Floats, out: Floats, a: Floats, o: Index, l: number, lean: Index): void {
  const x = l * a[o]!,
    y = l * a[o + 1]!,
    z = l * a[o + 2]!;
  out[o] = room[lean]! + (room[P]! * x + room[P + 1]! * y + room[P + 2]! * z);
  out[o + 1] = room[lean + 1]! + (room[P + 1]! * x + room[P + 3]! * y + room[P + 4]! * z);
  out[o + 2] = room[lean + 2]! + (room[P + 2]! * x + room[P + 4]! * y + room[P + 5]! * z);
}

/** Solves a link for the turns of those inboard of it, and passes on what is left. */
function eliminate(step: StrandStep, i: Index): void {
  const { room, base, u, v1, span, sum, n0, n1 } = step;
  const o = 3 * i,
    l = span[i]!;
  felt(room, n0, u, o, l, B0);
  felt(room, n1, v1, o, l, B1);
  const tension = -(
    base[o]! * (room[OWN]! + room[BENT]! + l * room[FORCE]!) +
    base[o + 1]! * (room[OWN + 1]! + room[BENT + 1]! + l * room[FORCE + 1]!) +
    base[o + 2]! * (room[OWN + 2]! + room[BENT + 2]! + l * room[FORCE + 2]!)
  );
  const stiff = sum[i]! + TENSION * Math.max(0, tension);
  const q00 = l * (dot3(u, o, n0, o) + dot3(room, B0, u, o)) + room[LEANS]! + stiff,
    q01 = l * (dot3(u, o, n1, o) + dot3(room, B1, u, o)) + room[LEANS + 1]!,
    q11 = l * (dot3(v1, o, n1, o) + dot3(room, B1, v1, o)) + room[LEANS + 2]! + stiff;
  const g0 = l * dot3(u, o, room, PULL) + room[LEANT]! + dot3(u, o, room, OWN),
    g1 = l * dot3(v1, o, room, PULL) + room[LEANT + 1]! + dot3(v1, o, room, OWN);
  const id = 1 / (q00 * q11 - q01 * q01);
  passOn(step, i, q11 * id, -q01 * id, q00 * id, g0, g1);
}

/** What hangs on the parent's point and leans on it, once this link answers: P −= N K Nᵀ, p −= N K G. */
function passOn(
  step: StrandStep,
  i: Index,
  i00: number,
  i01: number,
  i11: number,
  g0: number,
  g1: number,
): void {
  const { room, n0, n1, four, two } = step;
  const o = 3 * i;
  const h0 = i00 * g0 + i01 * g1,
    h1 = i01 * g0 + i11 * g1;
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
  const x00 = room[X]!,
    x01 = room[X + 1]!,
    x10 = room[X + 2]!,
    x11 = room[X + 3]!;
  const y00 = i00 * x00 + i01 * x10,
    y01 = i00 * x01 + i01 * x11,
    y10 = i01 * x00 + i11 * x10,
    y11 = i01 * x01 + i11 * x11;
  room[B0] = -(a0 * y00 + b0 * y10);
  room[B0 + 1] = -(a1 * y00 + b1 * y10);
  room[B0 + 2] = -(a2 * y00 + b2 * y10);
  room[B1] = -(a0 * y01 + b0 * y11);
  room[B1 + 1] = -(a1 * y01 + b1 * y11);
  room[B1 + 2] = -(a2 * y01 + b2 * y11);
  room[LEANS] = room[B]! - (x00 * y00 + x10 * y10);
  room[LEANS + 1] = room[B + 1]! - (x00 * y01 + x10 * y11);
  room[LEANS + 2] = room[B + 2]! - (x01 * y01 + x11 * y11);
  room[LEANT] = room[PARTS]! - (x00 * h0 + x10 * h1);
  room[LEANT + 1] = room[PARTS + 1]! - (x01 * h0 + x11 * h1);
  put3(n0, o, m0, m1, m2);
  put3(n1, o, k0, k1, k2);
  put3(room, BENT, room[PARENT]!, room[PARENT + 1]!, room[PARENT + 2]!);
  const f = 4 * i;
  four[f] = y00;
  four[f + 1] = y01;
  four[f + 2] = y10;
  four[f + 3] = y11;
  two[2 * i] = h0;
  two[2 * i + 1] = h1;
}
