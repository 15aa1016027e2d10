/** A sheet of triangles as points and edges: what never changes while it moves. */
export interface Sheet {
  readonly points: number;
  /** Places at rest, m, 3 numbers a point. */
  readonly rest: Float64Array;
  /** The point each vertex of the mesh became: vertices at one place are one point. */
  readonly pointOf: Int32Array;
  /** Points of each triangle, 3 numbers; triangles without an area are left out. */
  readonly triangles: Int32Array;
  /** A third of the area of the triangles at each point, and half of that of its lines, m². */
  readonly area: Float64Array;
  /** Points of each edge, 2 numbers, the lower one first. */
  readonly edges: Int32Array;
  /** Length at rest, m. */
  readonly length: Float64Array;
  /** Area of the triangles at each edge over its length squared: times N/m it is its stiffness. */
  readonly share: Float64Array;
  /** Triangles at each edge: 1 on a rim, 0 of a line. */
  readonly faces: Uint8Array;
  /** Vertices that belong to no triangle with an area, and edges with more than two: what is odd about the mesh. */
  readonly loose: number;
  readonly crowded: number;
}

/** Places that differ by less than this share of the mesh's size are one. */
const SAME = 1e-6;
/** Triangles flatter than this, as twice their area over their longest side squared, have no area. */
const FLAT = 1e-7;
/** A line is a strip of this share of the mesh's size wide. */
const THREAD = 0.005;

/**
 * Makes the sheet of a mesh: `places` m, 3 numbers a vertex; `indices` 3 a triangle. Seams (vertices at one place,
 * split for their texture) are welded. `lines` are edges without triangles, 2 vertices each: strings.
 */
export function makeSheet(
  places: Float64Array,
  indices: ArrayLike<number>,
  lines: ArrayLike<number> = [],
): Sheet {
  const { pointOf, rest, size: whole } = weld(places);
  const points = rest.length / 3;
  const triangles: number[] = [];
  const area = new Float64Array(points);
  const found = new Map<number, number>();
  const edges: number[] = [];
  const length: number[] = [];
  const share: number[] = [];
  const faces: number[] = [];
  for (let t = 0; t + 2 < indices.length; t += 3) {
    const [a, b, c] = [pointOf[indices[t]!]!, pointOf[indices[t + 1]!]!, pointOf[indices[t + 2]!]!];
    if (a === b || b === c || a === c) continue;
    const size = areaOf(rest, a, b, c);
    const sides = [distance(rest, a, b), distance(rest, b, c), distance(rest, c, a)] as const;
    if (!(2 * size > FLAT * Math.max(...sides) ** 2)) continue;
    triangles.push(a, b, c);
    const corners = [a, b, c, a];
    for (let k = 0; k < 3; k++) {
      area[corners[k]!]! += size / 3;
      const [lo, hi] = [Math.min(corners[k]!, corners[k + 1]!), Math.max(corners[k]!, corners[k + 1]!)];
      const key = lo * points + hi;
      let e = found.get(key);
      if (e === undefined) {
        e = edges.length / 2;
        found.set(key, e);
        edges.push(lo, hi);
        length.push(sides[k]!);
        share.push(0);
        faces.push(0);
      }
      share[e]! += size / sides[k]! ** 2;
      faces[e]!++;
    }
  }
  for (let l = 0; l + 1 < lines.length; l += 2) {
    const [p, q] = [pointOf[lines[l]!]!, pointOf[lines[l + 1]!]!];
    const [lo, hi] = [Math.min(p, q), Math.max(p, q)];
    const far = distance(rest, p, q);
    if (!(far > 0) || found.has(lo * points + hi)) continue;
    found.set(lo * points + hi, edges.length / 2);
    edges.push(lo, hi);
    length.push(far);
    share.push((THREAD * whole) / far);
    faces.push(0);
    for (const end of [lo, hi]) area[end]! += (THREAD * whole * far) / 2;
  }
  return {
    ...{ points, rest, pointOf, area },
    triangles: Int32Array.from(triangles),
    edges: Int32Array.from(edges),
    length: Float64Array.from(length),
    share: Float64Array.from(share),
    faces: Uint8Array.from(faces, (n) => Math.min(n, 255)),
    loose: area.reduce((n, a) => n + (a > 0 ? 0 : 1), 0),
    crowded: faces.reduce((n, f) => n + (f > 2 ? 1 : 0), 0),
  };
}

/** Vertices at one place become one point, numbered by their first vertex. */
function weld(places: Float64Array): { pointOf: Int32Array; rest: Float64Array; size: number } {
  let size = 0;
  for (let a = 0; a < 3; a++) {
    let [lo, hi] = [Infinity, -Infinity];
    for (let k = a; k < places.length; k += 3) {
      lo = Math.min(lo, places[k]!);
      hi = Math.max(hi, places[k]!);
    }
    if (hi > lo) size = Math.max(size, hi - lo);
  }
  const step = size * SAME || 1;
  const seen = new Map<string, number>();
  const rest: number[] = [];
  const pointOf = new Int32Array(places.length / 3);
  for (let v = 0; v < pointOf.length; v++) {
    const at = [places[3 * v]!, places[3 * v + 1]!, places[3 * v + 2]!] as const;
    const key = at.map((x) => Math.round(x / step)).join(' ');
    let p = seen.get(key);
    if (p === undefined) {
      p = rest.length / 3;
      seen.set(key, p);
      rest.push(...at);
    }
    pointOf[v] = p;
  }
  return { pointOf, rest: Float64Array.from(rest), size };
}

function distance(x: Float64Array, a: number, b: number): number {
  const [i, j] = [3 * a, 3 * b];
  return Math.sqrt((x[i]! - x[j]!) ** 2 + (x[i + 1]! - x[j + 1]!) ** 2 + (x[i + 2]! - x[j + 2]!) ** 2);
}

function areaOf(x: Float64Array, a: number, b: number, c: number): number {
  const n = [0, 0, 0];
  crossOf(n, x, a, b, c);
  return Math.sqrt(n[0]! ** 2 + n[1]! ** 2 + n[2]! ** 2) / 2;
}

/** (b − a) × (c − a) into `out`: twice the area, along the normal. */
function crossOf(out: number[], x: Float64Array, a: number, b: number, c: number): void {
  const [i, j, k] = [3 * a, 3 * b, 3 * c];
  const [ux, uy, uz] = [x[j]! - x[i]!, x[j + 1]! - x[i + 1]!, x[j + 2]! - x[i + 2]!];
  const [vx, vy, vz] = [x[k]! - x[i]!, x[k + 1]! - x[i + 1]!, x[k + 2]! - x[i + 2]!];
  out[0] = uy * vz - uz * vy;
  out[1] = uz * vx - ux * vz;
  out[2] = ux * vy - uy * vx;
}

/**
 * Sums of the cross products of the triangles at each point (3 numbers each): along its normal, and six times a third
 * of their area long.
 */
export function sumNormals(out: Float64Array, x: Float64Array, triangles: Int32Array | Uint32Array): void {
  out.fill(0);
  for (let t = 0; t < triangles.length; t += 3) {
    const i = 3 * triangles[t]!;
    const j = 3 * triangles[t + 1]!;
    const k = 3 * triangles[t + 2]!;
    const ux = x[j]! - x[i]!;
    const uy = x[j + 1]! - x[i + 1]!;
    const uz = x[j + 2]! - x[i + 2]!;
    const vx = x[k]! - x[i]!;
    const vy = x[k + 1]! - x[i + 1]!;
    const vz = x[k + 2]! - x[i + 2]!;
    const nx = uy * vz - uz * vy;
    const ny = uz * vx - ux * vz;
    const nz = ux * vy - uy * vx;
    out[i]! += nx;
    out[i + 1]! += ny;
    out[i + 2]! += nz;
    out[j]! += nx;
    out[j + 1]! += ny;
    out[j + 2]! += nz;
    out[k]! += nx;
    out[k + 1]! += ny;
    out[k + 2]! += nz;
  }
}

/** Unit normals of all points (3 numbers each), weighted by the area of their triangles; 0 where there is none. */
export function normalsOf(out: Float64Array, x: Float64Array, triangles: Int32Array): void {
  sumNormals(out, x, triangles);
  for (let o = 0; o < out.length; o += 3) {
    const l = Math.sqrt(out[o]! ** 2 + out[o + 1]! ** 2 + out[o + 2]! ** 2);
    if (l > 0) for (let a = 0; a < 3; a++) out[o + a]! /= l;
  }
}

/** The same sheet with its points at rest elsewhere (3 numbers each): its edges are as long as they are there. */
export function restAt(sheet: Sheet, rest: Float64Array): Sheet {
  const length = sheet.length.map((l, e) => {
    const [a, b] = [3 * sheet.edges[2 * e]!, 3 * sheet.edges[2 * e + 1]!];
    const d = Math.sqrt(
      (rest[a]! - rest[b]!) ** 2 + (rest[a + 1]! - rest[b + 1]!) ** 2 + (rest[a + 2]! - rest[b + 2]!) ** 2,
    );
    // Two points at one place there are as far apart as before: nothing divides by it.
    return d > 1e-6 * l ? d : l;
  });
  return { ...sheet, rest, length };
}
