import { bandFactor8, PAD8 } from '../factor';
import { copy, int } from '../numbers';
import { bandSolve8 } from '../solve';
import { addBend } from './bend';
import { addContacts } from './contact';
import { ROW } from './fields';
import type { ChainStep } from './fields';

/** One Newton step: assembles gradient and matrix at y, solves, and moves y. */
export function newton(chain: ChainStep): void {
  const n = int(chain.n);
  const n3 = 3 * n;
  const { y, band, base, rhs } = chain;
  copy(band, base, (n3 + PAD8) * ROW);
  addLengths(chain);
  if (chain.bending > 0) for (let i = 0; i < n; i++) addBend(chain, i);
  if (chain.damped > 0) addDamping(chain);
  writeRight(chain);
  if (chain.airy > 0) addAir(chain);
  if (chain.contacts > 0) addContacts(chain);
  bandFactor8(band, n3);
  bandSolve8(band, n3, rhs);
  for (let i = 0; i < n3; i++) y[i]! += rhs[i]!;
  readTension(chain);
}

/** Begins the gradient with hold and lengths, and adds the lengths to the band. */
function addLengths(chain: ChainStep): void {
  const n = int(chain.n);
  const { H, rest, hold, lengthwise, length, aim, perAim, tension, u, d, s, f, band } = chain;
  for (let i = 0, o = 0; i < n; i++, o += 3) {
    const kh = H * hold[i]!;
    const pull = lengthwise[i]! * (length[i]! - aim[i]!);
    const dx = d[o]!,
      dy = d[o + 1]!,
      dz = d[o + 2]!;
    f[o] = kh * (u[o]! - rest[i]! * s[o]!) + pull * dx;
    f[o + 1] = kh * (u[o + 1]! - rest[i]! * s[o + 1]!) + pull * dy;
    f[o + 2] = kh * (u[o + 2]! - rest[i]! * s[o + 2]!) + pull * dz;
    // Lengthwise stiffness k d dᵀ on the link vector, and what a taut link has across itself: its tension over its
    // length.
    const taut = tension[i]! > 0 ? tension[i]! * perAim[i]! : 0;
    const k = lengthwise[i]! - taut;
    const xx = k * dx * dx + taut,
      xy = k * dx * dy,
      xz = k * dx * dz,
      yy = k * dy * dy + taut,
      yz = k * dy * dz,
      zz = k * dz * dz + taut;
    const at = o * ROW;
    band[at]! += xx;
    band[at + ROW - 8]! += xy;
    band[at + ROW]! += yy;
    band[at + 2 * ROW - 16]! += xz;
    band[at + 2 * ROW - 8]! += yz;
    band[at + 2 * ROW]! += zz;
    if (i > 0) {
      const b = at - 3 * ROW;
      band[b]! += xx;
      band[b + ROW - 8]! += xy;
      band[b + ROW]! += yy;
      band[b + 2 * ROW - 16]! += xz;
      band[b + 2 * ROW - 8]! += yz;
      band[b + 2 * ROW]! += zz;
      band[at - 24]! -= xx;
      band[at - 16]! -= xy;
      band[at - 8]! -= xz;
      band[at + ROW - 32]! -= xy;
      band[at + ROW - 24]! -= yy;
      band[at + ROW - 16]! -= yz;
      band[at + 2 * ROW - 40]! -= xz;
      band[at + 2 * ROW - 32]! -= yz;
      band[at + 2 * ROW - 24]! -= zz;
    }
  }
}

/** The right-hand side: inertia, damping of points, and the gradient of the link vectors. */
function writeRight(chain: ChainStep): void {
  const n = int(chain.n);
  const { touch, mass, dampMass, carried, y, target, f, rhs } = chain;
  let cx: number = 0;
  let cy: number = 0;
  let cz: number = 0;
  for (let i = 0, o = 0; i < n; i++, o += 3) {
    const m = mass[i]!;
    const a = m * touch * dampMass[i]!;
    const last = i === n - 1;
    cx += carried[o]!;
    cy += carried[o + 1]!;
    cz += carried[o + 2]!;
    rhs[o] = m * (target[o]! - y[o]!) - a * (y[o]! - cx) - f[o]! + (last ? 0 : f[o + 3]!);
    rhs[o + 1] = m * (target[o + 1]! - y[o + 1]!) - a * (y[o + 1]! - cy) - f[o + 1]! + (last ? 0 : f[o + 4]!);
    rhs[o + 2] = m * (target[o + 2]! - y[o + 2]!) - a * (y[o + 2]! - cz) - f[o + 2]! + (last ? 0 : f[o + 5]!);
  }
}

/** The tension the linear problem gives each link: what the lengths' curvature needs, without their rounding. */
function readTension(chain: ChainStep): void {
  const n = int(chain.n);
  const { lengthwise, length, aim, tension, d, rhs } = chain;
  for (let i = 0, o = 0; i < n; i++, o += 3) {
    const along =
      d[o]! * (rhs[o]! - (i > 0 ? rhs[o - 3]! : 0)) +
      d[o + 1]! * (rhs[o + 1]! - (i > 0 ? rhs[o - 2]! : 0)) +
      d[o + 2]! * (rhs[o + 2]! - (i > 0 ? rhs[o - 1]! : 0));
    tension[i] = lengthwise[i]! * (length[i]! + along - aim[i]!);
  }
}

/** Stiffness-proportional damping of link vectors against where the source carried them. */
function addDamping(chain: ChainStep): void {
  const n = int(chain.n);
  const { touch, perRest, hold, bend, dampStiff, carried, u, f } = chain;
  let px: number = 0;
  let py: number = 0;
  let pz: number = 0;
  for (let i = 0, o = 0; i < n; i++, o += 3) {
    const damp = touch * dampStiff[i]!;
    const kh = damp * hold[i]!;
    const kb = damp * bend[i]!;
    const ex = u[o]! - carried[o]!,
      ey = u[o + 1]! - carried[o + 1]!,
      ez = u[o + 2]! - carried[o + 2]!;
    f[o]! += kh * ex;
    f[o + 1]! += kh * ey;
    f[o + 2]! += kh * ez;
    if (chain.bending === 0) continue;
    const a = perRest[i]!;
    const bx = kb * (ex * a - px),
      by = kb * (ey * a - py),
      bz = kb * (ez * a - pz);
    f[o]! += bx * a;
    f[o + 1]! += by * a;
    f[o + 2]! += bz * a;
    if (i > 0) {
      const b = perRest[i - 1]!;
      f[o - 3]! -= bx * b;
      f[o - 2]! -= by * b;
      f[o - 1]! -= bz * b;
    }
    px = ex * a;
    py = ey * a;
    pz = ez * a;
  }
}

/** Air that holds each point back from where it would have been: grip · velocity. */
function addAir(chain: ChainStep): void {
  const n = int(chain.n);
  const { c43, c13, touch, grip, x, xOld, source, y, band, rhs } = chain;
  for (let i = 0, o = 0; i < n; i++, o += 3) {
    const g = touch * grip[i]!;
    for (let c = 0; c < 3; c++) {
      band[(o + c) * ROW]! += g;
      rhs[o + c]! -= g * (y[o + c]! - c43 * x[o + c + 3]! + c13 * xOld[o + c + 3]! + source[c]!);
    }
  }
}
