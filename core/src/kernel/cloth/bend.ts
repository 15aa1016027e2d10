import { int } from '../numbers';
import { ClothStep } from './fields';
import type { Floats, Index } from '../numbers';

/** Unit normals of all points, weighted by the area of their triangles; 0 where there is none. */
export function turnNormals(step: ClothStep): void {
  const points = int(step.points);
  const triangles = int(step.triangles);
  const { x, triangle, normal } = step;
  for (let k = 0; k < 3 * points; k++) normal[k] = 0;
  for (let t = 0; t < 3 * triangles; t += 3) {
    const i = 3 * int(triangle[t]!),
      j = 3 * int(triangle[t + 1]!),
      k = 3 * int(triangle[t + 2]!);
    const ux = x[j]! - x[i]!,
      uy = x[j + 1]! - x[i + 1]!,
      uz = x[j + 2]! - x[i + 2]!;
    const vx = x[k]! - x[i]!,
      vy = x[k + 1]! - x[i + 1]!,
      vz = x[k + 2]! - x[i + 2]!;
    const nx = uy * vz - uz * vy,
      ny = uz * vx - ux * vz,
      nz = ux * vy - uy * vx;
    addTo(normal, i, nx, ny, nz);
    addTo(normal, j, nx, ny, nz);
    addTo(normal, k, nx, ny, nz);
  }
  for (let o = 0; o < 3 * points; o += 3) {
    const nx = normal[o]!,
      ny = normal[o + 1]!,
      nz = normal[o + 2]!;
    const l = Math.sqrt(nx * nx + ny * ny + nz * nz);
    if (l > 0) {
      normal[o] = nx / l;
      normal[o + 1] = ny / l;
      normal[o + 2] = nz / l;
    }
  }
}

function addTo(out: Floats, o: Index, x: number, y: number, z: number): void {
  out[o] = out[o]! + x;
  out[o + 1] = out[o + 1]! + y;
  out[o + 2] = out[o + 2]! + z;
}

/** Turns what the sheet bends back to with its normals as they are now. */
export function aimBend(step: ClothStep): void {
  turnNormals(step);
  const paths = int(step.paths);
  const { x, normal, path, pointAt, curve, aims } = step;
  for (let q = 0; q < paths; q++) {
    const p = int(path[4 * q + 1]!),
      m = int(path[4 * q + 2]!);
    if (path[4 * q + 3]! > 0) continue;
    for (let j = p + 1; j < p + m; j++) {
      const a = 3 * int(pointAt[j - 1]!),
        o = 3 * int(pointAt[j]!),
        b = 3 * int(pointAt[j + 1]!);
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
      const kn = curve[2 * j]!;
      const kg = curve[2 * j + 1]! / Math.sqrt(cx * cx + cy * cy + cz * cz + 1e-30);
      aims[3 * j] = kn * nx + kg * cx;
      aims[3 * j + 1] = kn * ny + kg * cy;
      aims[3 * j + 2] = kn * nz + kg * cz;
    }
  }
}

/** Moves the points as an implicit step of the bending forces does, one path after the other. */
export function bendBack(step: ClothStep): void {
  const paths = int(step.paths);
  const { path } = step;
  for (let q = 0; q < paths; q++) {
    const m = int(path[4 * q + 2]!);
    if (path[4 * q + 3]! > 0 || m < 2) continue;
    const p = int(path[4 * q + 1]!);
    bendForward(step, p, m + 1);
    bendPoints(step, p, m + 1);
  }
}

/** (9/(4h²) M + Q) dx = −(Q x − aims) of a path of m points that begin at p: forward, 3 numbers a point. */
function bendForward(step: ClothStep, p: Index, m: Index): void {
  const { x, pointAt, bends, aims, factors, rows } = step;
  let o = 3 * int(pointAt[p]!);
  let ax = x[o]!,
    ay = x[o + 1]!,
    az = x[o + 2]!;
  o = 3 * int(pointAt[p + 1]!);
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
    const k = 3 * (p + j);
    let fx: number = 0,
      fy: number = 0,
      fz: number = 0,
      a: number = 0,
      c: number = 0;
    if (j < m - 1) {
      o = 3 * int(pointAt[p + j + 1]!);
      const cx = x[o]!,
        cy = x[o + 1]!,
        cz = x[o + 2]!;
      a = bends[k]!;
      c = bends[k + 1]!;
      const s = bends[k + 2]!;
      fx = s * (a * (ax - bx) + c * (cx - bx) - aims[k]!);
      fy = s * (a * (ay - by) + c * (cy - by) - aims[k + 1]!);
      fz = s * (a * (az - bz) + c * (cz - bz) - aims[k + 2]!);
      ax = bx;
      ay = by;
      az = bz;
      bx = cx;
      by = cy;
      bz = cz;
    }
    const r = 3 * (j - 1);
    const l1 = factors[k - 3]!,
      l2 = factors[k - 2]!;
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
function bendPoints(step: ClothStep, p: Index, m: Index): void {
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
    const k = 3 * (p + j),
      r = 3 * j;
    const a = int(pointAt[p + j]!);
    const over = factors[k + 2]!;
    let dx: number = 0,
      dy: number = 0,
      dz: number = 0;
    if (w[a]! > 0) {
      dx = rows[r]! * over - l1 * zx - l2 * px;
      dy = rows[r + 1]! * over - l1 * zy - l2 * py;
      dz = rows[r + 2]! * over - l1 * zz - l2 * pz;
      addTo(x, 3 * a, dx, dy, dz);
    }
    l1 = factors[k]!;
    l2 = next;
    next = factors[k + 1]!;
    px = zx;
    py = zy;
    pz = zz;
    zx = dx;
    zy = dy;
    zz = dz;
  }
}
