import { normalsOf, type Sheet } from './sheet';

/** Edges in a row, as straight as the mesh has them: points one more than edges, or as many where it is closed. */
export interface Path {
  readonly points: Int32Array;
  readonly edges: Int32Array;
  readonly closed: boolean;
}

/** Two edges go on from one to the other when they are straighter than 120°. */
const STRAIGHT = -0.5;
/** Rims of fewer edges are no loops: they are a hole of the mesh or a slit. Lines close with three. */
const LEAST_LOOP = 6;
const LEAST_CORD = 3;
/** A path is a hoop when its distance from the rims changes by no more than this share of its length. */
const HOOP = 0.5;

/**
 * All edges of a sheet as paths, in the order they are solved: closed rims and rows of lines first, then hoops, then
 * what runs from rim to rim, the longest of each first. At each point the straightest pairs of edges go on into each
 * other.
 */
export function findPaths(sheet: Sheet): Path[] {
  const mates = pairEdges(sheet);
  const goesOn = (e: number, v: number) => mates[2 * e + (sheet.edges[2 * e + 1] === v ? 1 : 0)]!;
  const smooth = rings(sheet, 1, LEAST_LOOP).filter((l) =>
    l.edges.every((e, j) => goesOn(e, l.points[j + 1 === l.points.length ? 0 : j + 1]!) >= 0),
  );
  const loops = [...smooth, ...rings(sheet, 0, LEAST_CORD)];
  const done = new Uint8Array(sheet.length.length);
  for (const l of loops) for (const e of l.edges) done[e] = 1;
  const seen = new Int32Array(sheet.points).fill(-1);
  const paths: Path[] = [];
  const walk = (start: number, side: number): void => {
    const id = paths.length;
    const points = [sheet.edges[2 * start + side]!];
    const edges: number[] = [];
    seen[points[0]!] = id;
    for (let e = start; ;) {
      edges.push(e);
      done[e] = 1;
      const next = otherEnd(sheet, e, points.at(-1)!);
      points.push(next);
      seen[next] = id;
      const mate = mates[2 * e + (sheet.edges[2 * e + 1] === next ? 1 : 0)]!;
      if (mate < 0 || done[mate]) break;
      // It ends before it would cross itself.
      if (seen[otherEnd(sheet, mate, next)] === id) break;
      e = mate;
    }
    paths.push({ points: Int32Array.from(points), edges: Int32Array.from(edges), closed: false });
  };
  // First from the ends, then what is left of rings.
  for (const fromEnds of [true, false])
    for (let e = 0; e < done.length; e++)
      for (let side = 0; side < 2; side++)
        if (!done[e] && (!fromEnds || mates[2 * e + side]! < 0)) walk(e, side);
  return [...loops, ...inOrder(sheet, paths)];
}

const otherEnd = (sheet: Sheet, e: number, v: number): number =>
  sheet.edges[2 * e] === v ? sheet.edges[2 * e + 1]! : sheet.edges[2 * e]!;

/** For each end of each edge the edge that goes straight on there, or −1. */
function pairEdges(sheet: Sheet): Int32Array {
  const { edges, rest, points, triangles } = sheet;
  const mates = new Int32Array(edges.length).fill(-1);
  const at: number[][] = Array.from({ length: points }, () => []);
  edges.forEach((v, k) => at[v]!.push(k >> 1));
  const normals = new Float64Array(3 * points);
  normalsOf(normals, rest, triangles);
  at.forEach((list, v) => {
    const way = list.map((e) => flatWay(rest, normals, v, otherEnd(sheet, e, v)));
    const pairs: [number, number, number][] = [];
    for (let i = 0; i < list.length; i++)
      for (let j = i + 1; j < list.length; j++) {
        const [p, q] = [way[i]!, way[j]!];
        const cos = p[0] * q[0] + p[1] * q[1] + p[2] * q[2];
        if (cos < STRAIGHT) pairs.push([cos, i, j]);
      }
    pairs.sort((a, b) => a[0] - b[0] || a[1] - b[1] || a[2] - b[2]);
    const used = new Set<number>();
    for (const [, i, j] of pairs) {
      if (used.has(i) || used.has(j)) continue;
      used.add(i).add(j);
      const [e, f] = [list[i]!, list[j]!];
      mates[2 * e + (edges[2 * e + 1] === v ? 1 : 0)] = f;
      mates[2 * f + (edges[2 * f + 1] === v ? 1 : 0)] = e;
    }
  });
  return mates;
}

/** The unit way from one point to another, within the plane of the sheet there. */
function flatWay(
  x: Float64Array,
  n: Float64Array,
  from: number,
  to: number,
): readonly [number, number, number] {
  const d = [0, 1, 2].map((a) => x[3 * to + a]! - x[3 * from + a]!);
  const along = [0, 1, 2].reduce((s, a) => s + d[a]! * n[3 * from + a]!, 0);
  const [p, q, r] = d.map((v, a) => v - along * n[3 * from + a]!) as [number, number, number];
  const l = Math.sqrt(p * p + q * q + r * r) || 1;
  return [p / l, q / l, r / l];
}

/** Edges of so many triangles that follow each other round: rims with one, closed rows of lines with none. */
function rings(sheet: Sheet, triangles: 0 | 1, least: number): Path[] {
  const { edges, faces, points } = sheet;
  const at: number[][] = Array.from({ length: points }, () => []);
  faces.forEach((n, e) => {
    if (n === triangles) for (let s = 0; s < 2; s++) at[edges[2 * e + s]!]!.push(e);
  });
  const done = new Uint8Array(faces.length);
  const out: Path[] = [];
  for (let start = 0; start < faces.length; start++) {
    if (faces[start] !== triangles || done[start]) continue;
    const first = edges[2 * start]!;
    const row = [first];
    const ring: number[] = [];
    for (let e = start, v = first; ;) {
      done[e] = 1;
      ring.push(e);
      v = otherEnd(sheet, e, v);
      if (v === first) break;
      row.push(v);
      const next = at[v]!.filter((f) => !done[f]);
      // Where rims meet it is no simple loop.
      if (at[v]!.length !== 2 || next.length !== 1) {
        ring.length = 0;
        break;
      }
      e = next[0]!;
    }
    if (ring.length >= least)
      out.push({ points: Int32Array.from(row), edges: Int32Array.from(ring), closed: true });
  }
  return out;
}

/** Hoops before what runs across them, each the longest first. */
function inOrder(sheet: Sheet, paths: readonly Path[]): Path[] {
  const away = fromRims(sheet);
  const sorted = paths.map((path, k) => {
    const ds = Array.from(path.points, (v) => away[v]!);
    const length = path.edges.reduce((s, e) => s + sheet.length[e]!, 0);
    const hoop = Math.max(...ds) - Math.min(...ds) <= HOOP * length;
    return { path, k, hoop };
  });
  sorted.sort(
    (a, b) => Number(b.hoop) - Number(a.hoop) || b.path.edges.length - a.path.edges.length || a.k - b.k,
  );
  return sorted.map((s) => s.path);
}

/** Distance of each point from the nearest rim along edges, m; 0 where the sheet has no rim. */
function fromRims(sheet: Sheet): Float64Array {
  const on = new Uint8Array(sheet.points);
  sheet.faces.forEach((n, e) => {
    if (n === 1) for (let s = 0; s < 2; s++) on[sheet.edges[2 * e + s]!] = 1;
  });
  return alongEdges(sheet, on).map((d) => (d === Infinity ? 0 : d));
}

/** Distance of each point from the nearest of some (1), along edges, m; Infinity where none can be reached. */
export function alongEdges({ edges, length, points }: Sheet, from: Uint8Array): Float64Array {
  const away = Float64Array.from(from, (on) => (on ? 0 : Infinity));
  for (let moved = true, sweep = 0; moved && sweep < points; sweep++) {
    moved = false;
    for (let e = 0; e < length.length; e++) {
      const [a, b] = [edges[2 * e]!, edges[2 * e + 1]!];
      for (const [p, q] of [
        [a, b],
        [b, a],
      ] as const)
        if (away[p]! + length[e]! < away[q]!) {
          away[q] = away[p]! + length[e]!;
          moved = true;
        }
    }
  }
  return away;
}

/** The points of each closed rim, corners or not, the shortest rim first. */
export const findRims = (sheet: Sheet): Int32Array[] =>
  rings(sheet, 1, LEAST_LOOP)
    .map((l) => [l.edges.reduce((s, e) => s + sheet.length[e]!, 0), l.points] as const)
    .sort((a, b) => a[0] - b[0])
    .map(([, points]) => points);
