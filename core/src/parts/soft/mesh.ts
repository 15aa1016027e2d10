import type { Sheet } from '../../sheets/index';
import type { RegionMesh } from '../../solver/soft/index';

/** A region's free points and how they lie beside each other; how they are held is said step by step. */
export type RegionLattice = Omit<RegionMesh, 'share'>;

/** One mesh that a region spans. */
export interface RegionPiece {
  readonly node: number;
  readonly vertices: number;
  /** Vertices that move, rising, and the free point of each. */
  readonly picked: Int32Array;
  readonly pointOfPicked: Int32Array;
  /** The point of the region that each vertex of the mesh is; below 0 where it is none. */
  readonly pointOf: Int32Array;
  /** Each of its points of the region, and a vertex that stands there: 2 numbers each. */
  readonly shown: Int32Array;
}

/** The points of a region: free ones first; those of a rim beside them do not move. */
export interface RegionPoints {
  readonly pieces: readonly RegionPiece[];
  /** All points, and the free ones among them. */
  readonly points: number;
  readonly lattice: RegionLattice;
  /** How much each free point is painted, 0..1. */
  readonly weight: Float64Array;
  /** Corners of the triangles at free points. */
  readonly triangles: Int32Array;
  /** The diagonal of the box round what moves at rest, m. */
  readonly size: number;
}

/** A mesh, and how much each of its points is part of a region. */
interface Weighed {
  readonly node: number;
  readonly sheet: Sheet;
  readonly weights: Float64Array;
}

/**
 * The points of a region on some meshes: those that are weighed at all are free, and those at a triangle with a free
 * one stand beside them. Cotangents by Pinkall and Polthier (1993), negative ones left out.
 */
export function meshOf(meshes: readonly Weighed[], least: number, metresPerUnit: number): RegionPoints {
  const free = meshes.map(({ weights }) => Array.from(weights.keys()).filter((p) => weights[p]! >= least));
  const count = free.reduce((n, f) => n + f.length, 0);
  /** By mesh: the number of each of its points among those of the region. */
  const numbers = meshes.map(({ sheet }) => new Int32Array(sheet.points).fill(-1));
  let next = 0;
  free.forEach((points, m) => points.forEach((p) => (numbers[m]![p] = next++)));
  const triangles: number[] = [];
  meshes.forEach(({ sheet }, m) => {
    const own = numbers[m]!;
    for (let t = 0; t < sheet.triangles.length; t += 3) {
      const corners = [0, 1, 2].map((k) => sheet.triangles[t + k]!);
      if (!corners.some((p) => own[p]! >= 0 && own[p]! < count)) continue;
      for (const p of corners) {
        if (own[p]! < 0) own[p] = next++;
        triangles.push(own[p]!);
      }
    }
  });
  const rest = new Float64Array(3 * next);
  meshes.forEach(({ sheet }, m) =>
    numbers[m]!.forEach((n, p) => {
      if (n >= 0) for (let a = 0; a < 3; a++) rest[3 * n + a] = sheet.rest[3 * p + a]! * metresPerUnit;
    }),
  );
  const weight = Float64Array.from(free.flatMap((points, m) => points.map((p) => meshes[m]!.weights[p]!)));
  return {
    pieces: meshes.map(({ node, sheet }, m) => pieceOf(node, sheet, numbers[m]!, count)),
    ...{ points: next, weight, triangles: Int32Array.from(triangles) },
    lattice: latticeOf(rest, triangles, count),
    size: sizeOf(rest.subarray(0, 3 * count)),
  };
}

function pieceOf(node: number, sheet: Sheet, numbers: Int32Array, free: number): RegionPiece {
  const vertices = sheet.pointOf.length;
  const picked: number[] = [];
  const pointOf = Int32Array.from(sheet.pointOf, (p) => numbers[p]!);
  const vertexOf = new Map<number, number>();
  pointOf.forEach((n, v) => {
    if (n < 0) return;
    if (!vertexOf.has(n)) vertexOf.set(n, v);
    if (n < free) picked.push(v);
  });
  return {
    ...{ node, vertices, pointOf, picked: Int32Array.from(picked) },
    pointOfPicked: Int32Array.from(picked, (v) => pointOf[v]!),
    shown: Int32Array.from([...vertexOf].flat()),
  };
}

/** Areas and cotangents at the free points. */
function latticeOf(rest: Float64Array, triangles: readonly number[], free: number): RegionLattice {
  const area = new Float64Array(free);
  const sums = new Float64Array(free);
  const beside = Array.from({ length: free }, () => new Map<number, number>());
  for (let t = 0; t < triangles.length; t += 3)
    for (let k = 0; k < 3; k++) {
      const [i, j, o] = [0, 1, 2].map((s) => triangles[t + ((k + s) % 3)]!) as [number, number, number];
      const [u, v] = [i, j].map((p) => [0, 1, 2].map((a) => rest[3 * p + a]! - rest[3 * o + a]!));
      const dot = u!.reduce((s, x, a) => s + x * v![a]!, 0);
      const n = [0, 1, 2].map(
        (a) => u![(a + 1) % 3]! * v![(a + 2) % 3]! - u![(a + 2) % 3]! * v![(a + 1) % 3]!,
      );
      const twice = Math.sqrt(n.reduce((s, x) => s + x * x, 0));
      if (o < free) area[o]! += twice / 6;
      if (!(twice > 0)) continue;
      const w = dot / twice / 2;
      for (const [a, b] of [
        [i, j],
        [j, i],
      ] as const)
        if (a < free) beside[a]!.set(b, (beside[a]!.get(b) ?? 0) + w);
    }
  const from = new Int32Array(free + 1);
  const list: number[] = [];
  const cotangents: number[] = [];
  beside.forEach((near, i) => {
    for (const [j, w] of near) {
      if (w <= 0) continue;
      sums[i]! += w;
      if (j >= free) continue;
      list.push(j);
      cotangents.push(w);
    }
    from[i + 1] = list.length;
  });
  // A point of no triangle moves as its paint says.
  const mean = area.reduce((s, x) => s + x, 0) / Math.max(1, free) || 1;
  return {
    ...{ points: free, sums, from },
    area: area.map((x) => (x > 1e-6 * mean ? x : 1e-6 * mean)),
    beside: Int32Array.from(list),
    cotangents: Float64Array.from(cotangents),
  };
}

function sizeOf(places: Float64Array): number {
  if (places.length === 0) return 1;
  let sum = 0;
  for (let a = 0; a < 3; a++) {
    let [lo, hi] = [Infinity, -Infinity];
    for (let k = a; k < places.length; k += 3) {
      lo = Math.min(lo, places[k]!);
      hi = Math.max(hi, places[k]!);
    }
    sum += (hi - lo) ** 2;
  }
  return Math.sqrt(sum) || 1;
}
