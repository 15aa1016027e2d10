import { BodyStep } from './bodyFields';
import type { Floats, Index } from '../numbers';

/**
 * The modes of a cell in a field of nodes: 1 to 3 are four times its gradient times its edge, 4 to 7 its hourglasses
 * (yz, zx, xy and xyz), 3 numbers each.
 */
export function gatherCell(step: BodyStep, cell: Index, p: Floats): void {
  const { corners, modes } = step;
  const o = 8 * cell;
  const n0 = 3 * corners[o]!,
    n1 = 3 * corners[o + 1]!,
    n2 = 3 * corners[o + 2]!,
    n3 = 3 * corners[o + 3]!,
    n4 = 3 * corners[o + 4]!,
    n5 = 3 * corners[o + 5]!,
    n6 = 3 * corners[o + 6]!,
    n7 = 3 * corners[o + 7]!;
  for (let a = 0; a < 3; a++) {
    const s0 = p[n1 + a]! + p[n0 + a]!,
      d0 = p[n1 + a]! - p[n0 + a]!,
      s1 = p[n3 + a]! + p[n2 + a]!,
      d1 = p[n3 + a]! - p[n2 + a]!,
      s2 = p[n5 + a]! + p[n4 + a]!,
      d2 = p[n5 + a]! - p[n4 + a]!,
      s3 = p[n7 + a]! + p[n6 + a]!,
      d3 = p[n7 + a]! - p[n6 + a]!;
    const ss0 = s1 + s0,
      sd0 = s1 - s0,
      ss1 = s3 + s2,
      sd1 = s3 - s2,
      ds0 = d1 + d0,
      dd0 = d1 - d0,
      ds1 = d3 + d2,
      dd1 = d3 - d2;
    modes[3 + a] = ds1 + ds0;
    modes[6 + a] = sd1 + sd0;
    modes[9 + a] = ss1 - ss0;
    modes[12 + a] = sd1 - sd0;
    modes[15 + a] = ds1 - ds0;
    modes[18 + a] = dd1 + dd0;
    modes[21 + a] = dd1 - dd0;
  }
}

/** Adds the modes of a cell to a field of nodes: the transpose of {@link gatherCell}. */
export function scatterCell(step: BodyStep, cell: Index, f: Floats): void {
  const { corners, modes } = step;
  const o = 8 * cell;
  const n0 = 3 * corners[o]!,
    n1 = 3 * corners[o + 1]!,
    n2 = 3 * corners[o + 2]!,
    n3 = 3 * corners[o + 3]!,
    n4 = 3 * corners[o + 4]!,
    n5 = 3 * corners[o + 5]!,
    n6 = 3 * corners[o + 6]!,
    n7 = 3 * corners[o + 7]!;
  for (let a = 0; a < 3; a++) {
    const m1 = modes[3 + a]!,
      m2 = modes[6 + a]!,
      m3 = modes[9 + a]!,
      m4 = modes[12 + a]!,
      m5 = modes[15 + a]!,
      m6 = modes[18 + a]!,
      m7 = modes[21 + a]!;
    const sd0 = m2 - m4,
      sd1 = m2 + m4,
      ds0 = m1 - m5,
      ds1 = m1 + m5,
      dd0 = m6 - m7,
      dd1 = m6 + m7;
    const s0 = -m3 - sd0,
      s1 = -m3 + sd0,
      s2 = m3 - sd1,
      s3 = m3 + sd1,
      d0 = ds0 - dd0,
      d1 = ds0 + dd0,
      d2 = ds1 - dd1,
      d3 = ds1 + dd1;
    f[n0 + a] = f[n0 + a]! + s0 - d0;
    f[n1 + a] = f[n1 + a]! + s0 + d0;
    f[n2 + a] = f[n2 + a]! + s1 - d1;
    f[n3 + a] = f[n3 + a]! + s1 + d1;
    f[n4 + a] = f[n4 + a]! + s2 - d2;
    f[n5 + a] = f[n5 + a]! + s2 + d2;
    f[n6 + a] = f[n6 + a]! + s3 - d3;
    f[n7 + a] = f[n7 + a]! + s3 + d3;
  }
}

/** How the hourglasses of a cell, in its own turn, are resisted: plates in bending, without parasitic shear. */
export function resistBending(step: BodyStep): void {
  const { young, poisson, mu, bent, stress } = step;
  const plate = young / (1 - poisson * poisson);
  const cross = plate * poisson;
  // Modes yz, zx, xy: 3 numbers each.
  const t1 = bent[8]! + bent[4]!,
    t2 = bent[8]! + bent[0]!,
    t3 = bent[4]! + bent[0]!;
  stress[0] = mu * (t2 + t3);
  stress[4] = mu * (t1 + t3);
  stress[8] = mu * (t1 + t2);
  stress[7] = plate * bent[7]! + cross * bent[5]!;
  stress[5] = plate * bent[5]! + cross * bent[7]!;
  stress[6] = plate * bent[6]! + cross * bent[2]!;
  stress[2] = plate * bent[2]! + cross * bent[6]!;
  stress[3] = plate * bent[3]! + cross * bent[1]!;
  stress[1] = plate * bent[1]! + cross * bent[3]!;
  for (let a = 9; a < 12; a++) stress[a] = (young / 3) * bent[a]!;
}

/** Hourglasses of a cell in its own turn; `by` of them. */
export function bendInTurn(step: BodyStep, cell: Index, by: number): void {
  const { modes, turn, bent } = step;
  const o = 9 * cell;
  const r0 = by * turn[o]!,
    r1 = by * turn[o + 1]!,
    r2 = by * turn[o + 2]!,
    r3 = by * turn[o + 3]!,
    r4 = by * turn[o + 4]!,
    r5 = by * turn[o + 5]!,
    r6 = by * turn[o + 6]!,
    r7 = by * turn[o + 7]!,
    r8 = by * turn[o + 8]!;
  for (let m = 0; m < 12; m += 3) {
    const x = modes[12 + m]!,
      y = modes[13 + m]!,
      z = modes[14 + m]!;
    bent[m] = r0 * x + r3 * y + r6 * z;
    bent[m + 1] = r1 * x + r4 * y + r7 * z;
    bent[m + 2] = r2 * x + r5 * y + r8 * z;
  }
}

/** The stresses of the hourglasses turned back into the world as modes; `by` of them. */
export function bendToWorld(step: BodyStep, cell: Index, by: number): void {
  const { modes, turn, stress } = step;
  const o = 9 * cell;
  const r0 = by * turn[o]!,
    r1 = by * turn[o + 1]!,
    r2 = by * turn[o + 2]!,
    r3 = by * turn[o + 3]!,
    r4 = by * turn[o + 4]!,
    r5 = by * turn[o + 5]!,
    r6 = by * turn[o + 6]!,
    r7 = by * turn[o + 7]!,
    r8 = by * turn[o + 8]!;
  for (let m = 0; m < 12; m += 3) {
    const x = stress[m]!,
      y = stress[m + 1]!,
      z = stress[m + 2]!;
    modes[12 + m] = r0 * x + r1 * y + r2 * z;
    modes[13 + m] = r3 * x + r4 * y + r5 * z;
    modes[14 + m] = r6 * x + r7 * y + r8 * z;
  }
}
