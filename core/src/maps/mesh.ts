import { alongEdges, findRims, type Sheet } from '../sheets/index';

/** A mesh that is painted on: points that hang together by edges. Vertices at one place are one point. */
export interface PaintMesh {
  readonly sheet: Sheet;
  readonly points: number;
  readonly vertices: number;
  /** The point of each vertex. */
  readonly pointOf: Int32Array;
  /** Where each point's neighbours begin, all neighbours, and how far they are, in the places' unit. */
  readonly from: Int32Array;
  readonly beside: Int32Array;
  readonly length: Float64Array;
  /** Room for {@link reachFrom}: distance of each point, and in which search it was found. */
  readonly distance: Float64Array;
  readonly found: Uint32Array;
  search: number;
}

/** Makes a mesh to paint on from a sheet. */
export function makePaintMesh(sheet: Sheet): PaintMesh {
  const { points, edges, pointOf } = sheet;
  const from = new Int32Array(points + 1);
  for (const p of edges) from[p + 1]!++;
  for (let p = 0; p < points; p++) from[p + 1]! += from[p]!;
  const filled = Int32Array.from(from);
  const beside = new Int32Array(edges.length);
  const length = new Float64Array(edges.length);
  for (let e = 0; e < edges.length / 2; e++)
    for (const [a, b] of [
      [edges[2 * e]!, edges[2 * e + 1]!],
      [edges[2 * e + 1]!, edges[2 * e]!],
    ] as const) {
      length[filled[a]!] = sheet.length[e]!;
      beside[filled[a]!++] = b;
    }
  return {
    ...{ sheet, points, pointOf, from, beside, length, vertices: pointOf.length },
    ...{ distance: new Float64Array(points), found: new Uint32Array(points), search: 0 },
  };
}

/**
 * The points within `radius` of a point along the edges, the nearest first; how far each is stays in `distance`
 * (Dijkstra, kept to what is near).
 */
export function reachFrom(mesh: PaintMesh, start: number, radius: number): number[] {
  const { from, beside, length, distance, found } = mesh;
  const search = (mesh.search = (mesh.search + 1) >>> 0);
  distance[start] = 0;
  found[start] = search;
  const heap = [start];
  const out: number[] = [];
  const done = new Set<number>();
  while (heap.length > 0) {
    const p = pop(heap, distance);
    if (done.has(p)) continue;
    done.add(p);
    out.push(p);
    for (let k = from[p]!; k < from[p + 1]!; k++) {
      const q = beside[k]!;
      const d = distance[p]! + length[k]!;
      if (d > radius || (found[q] === search && distance[q]! <= d)) continue;
      distance[q] = d;
      found[q] = search;
      push(heap, q, distance);
    }
  }
  return out;
}

function push(heap: number[], p: number, distance: Float64Array): void {
  let k = heap.length;
  heap.push(p);
  while (k > 0) {
    const up = (k - 1) >> 1;
    if (distance[heap[up]!]! <= distance[p]!) break;
    heap[k] = heap[up]!;
    k = up;
  }
  heap[k] = p;
}

function pop(heap: number[], distance: Float64Array): number {
  const top = heap[0]!;
  const last = heap.pop()!;
  if (heap.length === 0) return top;
  let k = 0;
  for (;;) {
    let kid = 2 * k + 1;
    if (kid >= heap.length) break;
    if (kid + 1 < heap.length && distance[heap[kid + 1]!]! < distance[heap[kid]!]!) kid++;
    if (distance[heap[kid]!]! >= distance[last]!) break;
    heap[k] = heap[kid]!;
    k = kid;
  }
  heap[k] = last;
  return top;
}

/** Shares a vertex as shares a point (the least of those at one place), and back. */
export function toPoints(
  { points, pointOf }: Pick<Sheet, 'points' | 'pointOf'>,
  shares: Float64Array,
): Float64Array {
  const out = new Float64Array(points).fill(1);
  pointOf.forEach((p, v) => (out[p] = Math.min(out[p]!, shares[v]!)));
  return out;
}
export const toVertices = ({ pointOf }: PaintMesh, values: Float64Array): Float64Array =>
  Float64Array.from(pointOf, (p) => values[p]!);

/** The point across the plane x = middle of each point; −1 for one that has none there. Within `within`. */
export function partnersOf({ sheet, points }: PaintMesh, middle: number, within: number): Int32Array {
  const { rest } = sheet;
  const cell = (x: number, y: number, z: number) =>
    `${Math.floor(x / within)} ${Math.floor(y / within)} ${Math.floor(z / within)}`;
  const cells = new Map<string, number[]>();
  for (let p = 0; p < points; p++) {
    const key = cell(rest[3 * p]!, rest[3 * p + 1]!, rest[3 * p + 2]!);
    const list = cells.get(key);
    if (list) list.push(p);
    else cells.set(key, [p]);
  }
  return Int32Array.from({ length: points }, (_, p) => {
    const at = [2 * middle - rest[3 * p]!, rest[3 * p + 1]!, rest[3 * p + 2]!] as const;
    let best = -1;
    let least = within * within;
    for (let k = 0; k < 27; k++) {
      const near = cell(
        at[0] + ((k % 3) - 1) * within,
        at[1] + ((Math.floor(k / 3) % 3) - 1) * within,
        at[2] + (Math.floor(k / 9) - 1) * within,
      );
      for (const q of cells.get(near) ?? []) {
        const d = at.reduce((s, x, a) => s + (x - rest[3 * q + a]!) ** 2, 0);
        if (d <= least) [best, least] = [q, d];
      }
    }
    return best;
  });
}

/** How far each point is from the nearest rim (an edge of the mesh that closes on itself), along its edges. */
export function fromRims(mesh: PaintMesh, rim: number): Float64Array {
  const start = new Uint8Array(mesh.points);
  for (const p of findRims(mesh.sheet)[rim] ?? []) start[p] = 1;
  return alongEdges(mesh.sheet, start);
}
