import type { Floats, Index } from '../numbers';
import { ROW } from './fields';
import type { ChainStep } from './fields';

/**
 * Bending between link i−1 and link i (or the carried root and link 0): gradient into `f` (per link vector) and
 * Gauss–Newton Hessian into the band. e = u_i/l_i − r(d_{i−1}); δr = G δu_{i−1}, with
 * G = [(d·r) I − d rᵀ − (d×r) wᵀ]/l and w = (s×d)/(1 + s·d), the twist of the smallest turn from s to d.
 */
export function addBend(chain: ChainStep, i: Index): void {
  const { H, perRest, bend, u, d, s, f } = chain;
  const o = 3 * i;
  const kappa = H * bend[i]!;
  const a = perRest[i]!;
  if (i === 0) {
    for (let c = 0; c < 3; c++) f[c]! += kappa * a * (u[c]! * a - s[c]!);
    return;
  }
  const p = o - 3;
  const b = perRest[i - 1]!;
  const dx = d[p]!,
    dy = d[p + 1]!,
    dz = d[p + 2]!,
    sx = s[p]!,
    sy = s[p + 1]!,
    sz = s[p + 2]!;
  const vx = s[o]!,
    vy = s[o + 1]!,
    vz = s[o + 2]!;
  // r = T v for the smallest turn T from s to d: with k = s×d and c = s·d, T v = c v + k×v + k (k·v)/(1+c).
  const c = sx * dx + sy * dy + sz * dz;
  // Near a half turn the twist runs away; bounding it there keeps the step finite.
  const t = 1 / (c > -0.98 ? 1 + c : 0.02);
  const kx = sy * dz - sz * dy,
    ky = sz * dx - sx * dz,
    kz = sx * dy - sy * dx;
  const kv = (kx * vx + ky * vy + kz * vz) * t;
  const rx = c * vx + ky * vz - kz * vy + kx * kv,
    ry = c * vy + kz * vx - kx * vz + ky * kv,
    rz = c * vz + kx * vy - ky * vx + kz * kv;
  const wx = kx * t,
    wy = ky * t,
    wz = kz * t;
  const dr = dx * rx + dy * ry + dz * rz;
  const cx = dy * rz - dz * ry,
    cy = dz * rx - dx * rz,
    cz = dx * ry - dy * rx;
  const g00 = b * (dr - dx * rx - cx * wx),
    g01 = -b * (dx * ry + cx * wy),
    g02 = -b * (dx * rz + cx * wz);
  const g10 = -b * (dy * rx + cy * wx),
    g11 = b * (dr - dy * ry - cy * wy),
    g12 = -b * (dy * rz + cy * wz);
  const g20 = -b * (dz * rx + cz * wx),
    g21 = -b * (dz * ry + cz * wy),
    g22 = b * (dr - dz * rz - cz * wz);
  const ex = kappa * (u[o]! * a - rx),
    ey = kappa * (u[o + 1]! * a - ry),
    ez = kappa * (u[o + 2]! * a - rz);
  f[o]! += a * ex;
  f[o + 1]! += a * ey;
  f[o + 2]! += a * ez;
  f[p]! -= g00 * ex + g10 * ey + g20 * ez;
  f[p + 1]! -= g01 * ex + g11 * ey + g21 * ez;
  f[p + 2]! -= g02 * ex + g12 * ey + g22 * ez;
  spread(chain.band, i, kappa, a, g00, g01, g02, g10, g11, g12, g20, g21, g22);
}

/**
 * Hessian of the bending at link i into the band: e moves with x_{i+1} by a·I (in the base), with x_i by −(a·I + G),
 * with x_{i−1} by G.
 */
function spread(
  band: Floats,
  i: Index,
  kappa: number,
  a: number,
  g00: number,
  g01: number,
  g02: number,
  g10: number,
  g11: number,
  g12: number,
  g20: number,
  g21: number,
  g22: number,
): void {
  const ka = kappa * a;
  const h00 = ka * g00,
    h01 = ka * g01,
    h02 = ka * g02,
    h10 = ka * g10,
    h11 = ka * g11,
    h12 = ka * g12,
    h20 = ka * g20,
    h21 = ka * g21,
    h22 = ka * g22;
  const q00 = kappa * (g00 * g00 + g10 * g10 + g20 * g20),
    q11 = kappa * (g01 * g01 + g11 * g11 + g21 * g21),
    q22 = kappa * (g02 * g02 + g12 * g12 + g22 * g22);
  const q10 = kappa * (g00 * g01 + g10 * g11 + g20 * g21),
    q20 = kappa * (g00 * g02 + g10 * g12 + g20 * g22),
    q21 = kappa * (g01 * g02 + g11 * g12 + g21 * g22);
  const kaa = ka * a;
  const r0 = 3 * i * ROW;
  const r1 = r0 - 3 * ROW;
  band[r1]! += q00 + 2 * h00 + kaa;
  band[r1 + ROW]! += q11 + 2 * h11 + kaa;
  band[r1 + ROW - 8]! += q10 + h01 + h10;
  band[r1 + 2 * ROW]! += q22 + 2 * h22 + kaa;
  band[r1 + 2 * ROW - 8]! += q21 + h12 + h21;
  band[r1 + 2 * ROW - 16]! += q20 + h02 + h20;
  band[r0 - 24]! -= kaa + h00;
  band[r0 - 16]! -= h01;
  band[r0 - 8]! -= h02;
  band[r0 + ROW - 32]! -= h10;
  band[r0 + ROW - 24]! -= kaa + h11;
  band[r0 + ROW - 16]! -= h12;
  band[r0 + 2 * ROW - 40]! -= h20;
  band[r0 + 2 * ROW - 32]! -= h21;
  band[r0 + 2 * ROW - 24]! -= kaa + h22;
  if (i === 1) return;
  const r2 = r1 - 3 * ROW;
  band[r2]! += q00;
  band[r2 + ROW]! += q11;
  band[r2 + ROW - 8]! += q10;
  band[r2 + 2 * ROW]! += q22;
  band[r2 + 2 * ROW - 8]! += q21;
  band[r2 + 2 * ROW - 16]! += q20;
  band[r1 - 24]! -= h00 + q00;
  band[r1 - 16]! -= h01 + q10;
  band[r1 - 8]! -= h02 + q20;
  band[r1 + ROW - 32]! -= h10 + q10;
  band[r1 + ROW - 24]! -= h11 + q11;
  band[r1 + ROW - 16]! -= h12 + q21;
  band[r1 + 2 * ROW - 40]! -= h20 + q20;
  band[r1 + 2 * ROW - 32]! -= h21 + q21;
  band[r1 + 2 * ROW - 24]! -= h22 + q22;
  band[r0 - 48]! += h00;
  band[r0 - 40]! += h01;
  band[r0 - 32]! += h02;
  band[r0 + ROW - 56]! += h10;
  band[r0 + ROW - 48]! += h11;
  band[r0 + ROW - 40]! += h12;
  band[r0 + 2 * ROW - 64]! += h20;
  band[r0 + 2 * ROW - 56]! += h21;
  band[r0 + 2 * ROW - 48]! += h22;
}
