import type { Path } from './paths';
import { normalsOf, type Sheet } from './sheet';

/** Bends a sheet back to its rest shape along its paths. */
export interface Bend {
  /** Takes the way the sheet lies now for what its rest shape is turned to: once in a few steps is enough. */
  aim(x: Float64Array): void;
  /** Moves the points `x` (m) as an implicit step of the bending forces does. */
  solve(x: Float64Array): void;
}

/** Mass that stands for a point that is held, kg per kg. */
const HELD = 1e12;

/** Where along its row each number of a path stands. */
interface Strip {
  readonly points: Int32Array;
  /** Weights of the point before and after in the second difference, and the stiffness: 3 numbers a point. */
  readonly weights: Float64Array;
  /** Rest curvature along the normal and across it, 2 numbers a point. */
  readonly rest: Float64Array;
  /** What the second difference aims at now, 3 numbers a point. */
  readonly aims: Float64Array;
  /** Factors of the pentadiagonal matrix: two below the diagonal, and one over it. */
  readonly factors: Float64Array;
  /** 1 for points that may move. */
  readonly free: Uint8Array;
}

/**
 * Second differences along paths, E = ½ Σ B A |κ − κ₀|², solved implicitly with constant pentadiagonal factors. `rigidity`
 * is B, N m; `mass` kg a point; `perStep` 9/(4 h²). κ₀ turns with the sheet's normal, so that what is made curved rests
 * curved.
 */
export function makeBend(
  sheet: Sheet,
  paths: readonly Path[],
  rigidity: number,
  mass: Float64Array,
  w: Float64Array,
  perStep: number,
): Bend {
  const crossed = new Uint8Array(sheet.points);
  const bent = paths.filter((p) => !p.closed && p.edges.length >= 2);
  for (const p of bent) for (const v of p.points.subarray(1, -1)) crossed[v]!++;
  const normals = new Float64Array(3 * sheet.points);
  normalsOf(normals, sheet.rest, sheet.triangles);
  const strips = bent.map((path) => makeStrip(sheet, path, { rigidity, mass, w, perStep, crossed, normals }));
  const most = bent.reduce((n, p) => Math.max(n, p.points.length), 0);
  const row = new Float64Array(most);
  const aimed = new Float64Array(3);
  return {
    aim: (x) => {
      normalsOf(normals, x, sheet.triangles);
      for (const s of strips) aimStrip(s, x, normals, aimed);
    },
    solve: (x) => {
      for (const s of strips) solveStrip(s, x, row);
    },
  };
}

interface StripNeeds {
  readonly rigidity: number;
  readonly mass: Float64Array;
  readonly w: Float64Array;
  readonly perStep: number;
  readonly crossed: Uint8Array;
  readonly normals: Float64Array;
}

function makeStrip(sheet: Sheet, path: Path, needs: StripNeeds): Strip {
  const { rigidity, mass, w, perStep, crossed, normals } = needs;
  const { points } = path;
  const m = points.length;
  const [weights, rest, aims] = [new Float64Array(3 * m), new Float64Array(2 * m), new Float64Array(3 * m)];
  const [d, e1, e2] = [new Float64Array(m), new Float64Array(m), new Float64Array(m)];
  points.forEach((v, j) => (d[j] = w[v] === 0 ? HELD : perStep * mass[v]!));
  const { rest: x, area, length } = sheet;
  for (let j = 1; j < m - 1; j++) {
    const v = points[j]!;
    const [l1, l2] = [length[path.edges[j - 1]!]!, length[path.edges[j]!]!];
    const a = 2 / (l1 * (l1 + l2));
    const c = 2 / (l2 * (l1 + l2));
    // Three directions at a point share out what a plate bends by in all.
    const k = rigidity * area[v]! * Math.min(1, 8 / (3 * crossed[v]!));
    weights.set([a, c, k], 3 * j);
    const b = -a - c;
    d[j - 1]! += k * a * a;
    d[j]! += k * b * b;
    d[j + 1]! += k * c * c;
    e1[j - 1]! += k * a * b;
    e1[j]! += k * b * c;
    e2[j - 1]! += k * a * c;
    const [p, o, q] = [3 * points[j - 1]!, 3 * v, 3 * points[j + 1]!];
    const bend = [0, 1, 2].map((i) => a * (x[p + i]! - x[o + i]!) + c * (x[q + i]! - x[o + i]!));
    const across = acrossOf(new Float64Array(3), x, normals, p, o, q);
    rest[2 * j] = bend[0]! * normals[o]! + bend[1]! * normals[o + 1]! + bend[2]! * normals[o + 2]!;
    rest[2 * j + 1] = bend[0]! * across[0]! + bend[1]! * across[1]! + bend[2]! * across[2]!;
  }
  const free = Uint8Array.from(points, (v) => Number(w[v] !== 0));
  return { points, weights, rest, aims, free, factors: factor(d, e1, e2) };
}

/** LDLᵀ of a symmetric pentadiagonal matrix: for each row its two factors below the diagonal and 1/D. */
function factor(d: Float64Array, e1: Float64Array, e2: Float64Array): Float64Array {
  const m = d.length;
  const out = new Float64Array(3 * m);
  const big = new Float64Array(m);
  for (let j = 0; j < m; j++) {
    const l2 = j > 1 ? e2[j - 2]! / big[j - 2]! : 0;
    const l1 = j > 0 ? (e1[j - 1]! - (j > 1 ? l2 * big[j - 2]! * out[3 * j - 3]! : 0)) / big[j - 1]! : 0;
    big[j] = d[j]! - (j > 1 ? l2 * l2 * big[j - 2]! : 0) - (j > 0 ? l1 * l1 * big[j - 1]! : 0);
    out.set([l1, l2, 1 / big[j]!], 3 * j);
  }
  return out;
}

/** The unit way across a path within the sheet: normal × way along it. */
function acrossOf(
  out: Float64Array,
  x: Float64Array,
  n: Float64Array,
  p: number,
  o: number,
  q: number,
): Float64Array {
  const tx = x[q]! - x[p]!;
  const ty = x[q + 1]! - x[p + 1]!;
  const tz = x[q + 2]! - x[p + 2]!;
  const cx = n[o + 1]! * tz - n[o + 2]! * ty;
  const cy = n[o + 2]! * tx - n[o]! * tz;
  const cz = n[o]! * ty - n[o + 1]! * tx;
  const l = 1 / Math.sqrt(cx * cx + cy * cy + cz * cz + 1e-30);
  out[0] = cx * l;
  out[1] = cy * l;
  out[2] = cz * l;
  return out;
}

function aimStrip(s: Strip, x: Float64Array, n: Float64Array, across: Float64Array): void {
  const { points, rest, aims } = s;
  for (let j = 1; j < points.length - 1; j++) {
    const o = 3 * points[j]!;
    const kn = rest[2 * j]!;
    const kg = rest[2 * j + 1]!;
    acrossOf(across, x, n, 3 * points[j - 1]!, o, 3 * points[j + 1]!);
    for (let a = 0; a < 3; a++) aims[3 * j + a] = kn * n[o + a]! + kg * across[a]!;
  }
}

/** (9/(4h²) M + Q) dx = −(Q x − aims), forward and back along one path, one axis at a time. */
function solveStrip(s: Strip, x: Float64Array, row: Float64Array): void {
  const { points, weights, aims, factors, free } = s;
  const m = points.length;
  for (let i = 0; i < 3; i++) {
    // What the bending pushes each point by waits until its last triple is known.
    let wait0 = 0;
    let wait1 = 0;
    let y1 = 0;
    let y2 = 0;
    let xa = x[3 * points[0]! + i]!;
    let xb = x[3 * points[1]! + i]!;
    for (let j = 1; j <= m; j++) {
      let f = 0;
      let a = 0;
      let c = 0;
      if (j < m - 1) {
        const xc = x[3 * points[j + 1]! + i]!;
        a = weights[3 * j]!;
        c = weights[3 * j + 1]!;
        f = weights[3 * j + 2]! * (a * (xa - xb) + c * (xc - xb) - aims[3 * j + i]!);
        xa = xb;
        xb = xc;
      }
      const k = 3 * (j - 1);
      const y = wait0 - a * f - factors[k]! * y1 - factors[k + 1]! * y2;
      row[j - 1] = y;
      y2 = y1;
      y1 = y;
      wait0 = wait1 + (a + c) * f;
      wait1 = -c * f;
    }
    let z1 = 0;
    let z2 = 0;
    let l1 = 0;
    let l2 = 0;
    let next = 0;
    for (let j = m - 1; j >= 0; j--) {
      const k = 3 * j;
      const z = free[j] === 1 ? row[j]! * factors[k + 2]! - l1 * z1 - l2 * z2 : 0;
      x[3 * points[j]! + i]! += z;
      l1 = factors[k]!;
      l2 = next;
      next = factors[k + 1]!;
      z2 = z1;
      z1 = z;
    }
  }
}
