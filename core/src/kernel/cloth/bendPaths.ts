import { int } from '../numbers';
import { ClothStep } from './fields';
import type { Index } from '../numbers';

/** Turns what each path bends back to with the normals. wasm/bendPaths.as does four paths at once, to the same bits. */
export function aimPaths(step: ClothStep): void {
  const groups = int(step.groups);
  for (let lane = 0; lane < 4 * groups; lane++) {
    const m = step.lanes[lane]!;
    if (m > 1) aimPath(step, step.group[2 * (lane >> 2)]!, lane & 3, m);
  }
}

function aimPath(step: ClothStep, slot: Index, lane: Index, m: Index): void {
  const { x, normal, pointAt, curve, aims } = step;
  for (let j = slot + 1; j < slot + m; j++) {
    const s = 4 * j + lane;
    const a = 3 * pointAt[s - 4]!,
      o = 3 * pointAt[s]!,
      b = 3 * pointAt[s + 4]!;
    const tx = x[b]! - x[a]!,
      ty = x[b + 1]! - x[a + 1]!,
      tz = x[b + 2]! - x[a + 2]!;
    const nx = normal[o]!,
      ny = normal[o + 1]!,
      nz = normal[o + 2]!;
    // Across the path within the sheet.
    const cx = ny * tz - nz * ty,
      cy = nz * tx - nx * tz,
      cz = nx * ty - ny * tx;
    const kn = curve[8 * j + lane]!;
    const kg = curve[8 * j + 4 + lane]! / Math.sqrt(cx * cx + cy * cy + cz * cz + 1e-30);
    aims[12 * j + lane] = kn * nx + kg * cx;
    aims[12 * j + 4 + lane] = kn * ny + kg * cy;
    aims[12 * j + 8 + lane] = kn * nz + kg * cz;
  }
}

/** Moves the points as an implicit step of the bending forces does, one path after the other. */
export function bendBack(step: ClothStep): void {
  const groups = int(step.groups);
  for (let lane = 0; lane < 4 * groups; lane++) {
    const m = step.lanes[lane]!;
    if (m < 2) continue;
    bendForward(step, step.group[2 * (lane >> 2)]!, lane & 3, m + 1);
    bendPoints(step, step.group[2 * (lane >> 2)]!, lane & 3, m + 1);
  }
}

/** (9/(4h²) M + Q) dx = −(Q x − aims) of a path of m points that begin at a slot: forward, 3 numbers a point. */
function bendForward(step: ClothStep, slot: Index, lane: Index, m: Index): void {
  const { x, pointAt, bends, aims, factors, rows } = step;
  let o = 3 * pointAt[4 * slot + lane]!;
  let ax = x[o]!,
    ay = x[o + 1]!,
    az = x[o + 2]!;
  o = 3 * pointAt[4 * slot + 4 + lane]!;
  let bx = x[o]!,
    by = x[o + 1]!,
    bz = x[o + 2]!;
  // What the bending pushes each point by waits until its last triple is known.
  let ux: number = 0,
    uy: number = 0,
    uz: number = 0,
    vx: number = 0,
    vy: number = 0,
    vz: number = 0;
  for (let j = 1; j <= m; j++) {
    const k = 12 * (slot + j) + lane;
    let fx: number = 0,
      fy: number = 0,
      fz: number = 0,
      a: number = 0,
      c: number = 0;
    if (j < m - 1) {
      o = 3 * pointAt[4 * (slot + j + 1) + lane]!;
      const cx = x[o]!,
        cy = x[o + 1]!,
        cz = x[o + 2]!;
      a = bends[k]!;
      c = bends[k + 4]!;
      const s = bends[k + 8]!;
      fx = s * (a * (ax - bx) + c * (cx - bx) - aims[k]!);
      fy = s * (a * (ay - by) + c * (cy - by) - aims[k + 4]!);
      fz = s * (a * (az - bz) + c * (cz - bz) - aims[k + 8]!);
      ax = bx;
      ay = by;
      az = bz;
      bx = cx;
      by = cy;
      bz = cz;
    }
    const r = 3 * (j - 1);
    const l1 = factors[k - 12]!,
      l2 = factors[k - 8]!;
    let yx = ux - a * fx,
      yy = uy - a * fy,
      yz = uz - a * fz;
    if (j > 1) {
      yx -= l1 * rows[r - 3]!;
      yy -= l1 * rows[r - 2]!;
      yz -= l1 * rows[r - 1]!;
    }
    if (j > 2) {
      yx -= l2 * rows[r - 6]!;
      yy -= l2 * rows[r - 5]!;
      yz -= l2 * rows[r - 4]!;
    }
    rows[r] = yx;
    rows[r + 1] = yy;
    rows[r + 2] = yz;
    const b = a + c;
    ux = vx + b * fx;
    uy = vy + b * fy;
    uz = vz + b * fz;
    vx = -c * fx;
    vy = -c * fy;
    vz = -c * fz;
  }
}

/** The same backward, moving the points that are free. */
function bendPoints(step: ClothStep, slot: Index, lane: Index, m: Index): void {
  const { x, w, pointAt, factors, rows } = step;
  let l1: number = 0,
    l2: number = 0,
    next: number = 0;
  let zx: number = 0,
    zy: number = 0,
    zz: number = 0,
    px: number = 0,
    py: number = 0,
    pz: number = 0;
  for (let j = m - 1; j >= 0; j--) {
    const k = 12 * (slot + j) + lane,
      r = 3 * j;
    const a = pointAt[4 * (slot + j) + lane]!;
    const over = factors[k + 8]!;
    let dx: number = 0,
      dy: number = 0,
      dz: number = 0;
    if (w[a]! > 0) {
      dx = rows[r]! * over - l1 * zx - l2 * px;
      dy = rows[r + 1]! * over - l1 * zy - l2 * py;
      dz = rows[r + 2]! * over - l1 * zz - l2 * pz;
      x[3 * a] = x[3 * a]! + dx;
      x[3 * a + 1] = x[3 * a + 1]! + dy;
      x[3 * a + 2] = x[3 * a + 2]! + dz;
    }
    l1 = factors[k]!;
    l2 = next;
    next = factors[k + 4]!;
    px = zx;
    py = zy;
    pz = zz;
    zx = dx;
    zy = dy;
    zz = dz;
  }
}
