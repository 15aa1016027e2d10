import type { Character } from './character';
import { makePose, rootMatrix, worldMatrices } from './pose';
import { meshTriangles, skinVertices } from './skinning';

/** A row of points from root to tip, 3 numbers each, m, in the rest pose. */
export type StrandPath = readonly (readonly [number, number, number])[];

/** A mesh node's vertices at rest, m, and which hang together. */
export interface MeshAtRest {
  /** 3 numbers a vertex. */
  readonly places: Float64Array;
  readonly indices: Uint32Array;
  /** Vertices that touch each vertex; those in the same place count as one. */
  readonly beside: readonly ReadonlySet<number>[];
  /** Connected piece of each vertex, from 0. */
  readonly piece: Int32Array;
  readonly pieces: number;
}

/** Takes a mesh node apart. Vertices that stand in one place (seams) are joined. */
export function meshAtRest(
  character: Character,
  node: number,
  metresPerUnit: number,
  upAxis: 'Y' | 'Z',
): MeshAtRest {
  const { vertices, indices } = meshTriangles(character, node);
  const world = new Float64Array(16 * character.nodes.length);
  worldMatrices(character, makePose(character), rootMatrix(metresPerUnit, upAxis), world);
  const places = new Float64Array(3 * vertices);
  skinVertices(places, character, node, world);
  const beside = Array.from({ length: vertices }, () => new Set<number>());
  const join = (a: number, b: number) => {
    beside[a]!.add(b);
    beside[b]!.add(a);
  };
  for (let k = 0; k < indices.length; k += 3)
    for (let e = 0; e < 3; e++) join(indices[k + e]!, indices[k + ((e + 1) % 3)]!);
  const first = new Map<string, number>();
  for (let v = 0; v < vertices; v++) {
    const key = Array.from(places.subarray(3 * v, 3 * v + 3), (x) => Math.fround(x)).join();
    const other = first.get(key);
    if (other === undefined) first.set(key, v);
    else join(v, other);
  }
  const piece = new Int32Array(vertices).fill(-1);
  let pieces = 0;
  for (let v = 0; v < vertices; v++) {
    if (piece[v]! >= 0) continue;
    const open = [v];
    piece[v] = pieces;
    while (open.length > 0)
      for (const w of beside[open.pop()!]!)
        if (piece[w]! < 0) {
          piece[w] = pieces;
          open.push(w);
        }
    pieces++;
  }
  return { places, indices, beside, piece, pieces };
}

const apart = (a: ArrayLike<number>, i: number, b: ArrayLike<number>, j: number): number =>
  Math.sqrt((a[i]! - b[j]!) ** 2 + (a[i + 1]! - b[j + 1]!) ** 2 + (a[i + 2]! - b[j + 2]!) ** 2);

/** Share of a piece's reach from what it hangs from that counts as its root, and beyond which ways may end. */
const ROOT = 0.3;
const TIPS = 0.5;

/**
 * Finds rows from root to tip: `rows` of them on every connected piece, spread as far apart at their tips as can be.
 * The root is where a piece is nearest to `hold` (m); the way is the shortest along the mesh, by relaxation (Bellman
 * 1958). A single row of a piece goes through the middle of it.
 */
export function findStrands(mesh: MeshAtRest, hold: ArrayLike<number>, rows: number): StrandPath[] {
  const out: StrandPath[] = [];
  for (let piece = 0; piece < mesh.pieces; piece++) {
    const members = Array.from(mesh.piece.keys()).filter((v) => mesh.piece[v] === piece);
    if (members.length < 3) continue;
    const near = members.map((v) => apart(mesh.places, 3 * v, hold, 0));
    // Not spread into arguments: a mesh may have more vertices than a call takes.
    const least = near.reduce((a, b) => Math.min(a, b));
    const most = near.reduce((a, b) => Math.max(a, b));
    const roots = members.filter((_, i) => near[i]! <= least + ROOT * (most - least));
    const { far, from } = distances(mesh, roots);
    const longest = members.reduce((most, v) => Math.max(most, far[v]!), 0);
    if (!(longest > 0)) continue;
    const passed = new Set(members.map((v) => from[v]!));
    const ends = members.filter((v) => !passed.has(v) && far[v]! >= TIPS * longest);
    const tips = [ends.reduce((a, b) => (far[b]! > far[a]! ? b : a))];
    while (tips.length < Math.min(rows, ends.length)) {
      const gap = (v: number) => Math.min(...tips.map((t) => apart(mesh.places, 3 * v, mesh.places, 3 * t)));
      tips.push(ends.reduce((a, b) => (gap(b) > gap(a) ? b : a)));
    }
    for (const tip of tips) {
      const way = [tip];
      while (from[way.at(-1)!]! >= 0) way.push(from[way.at(-1)!]!);
      const path = way.reverse().map((v) => place(mesh, v));
      out.push(rows === 1 ? throughMiddle(mesh, members, far, longest, path) : path);
    }
  }
  return out;
}

const place = (mesh: MeshAtRest, v: number): [number, number, number] =>
  [0, 1, 2].map((a) => mesh.places[3 * v + a]!) as [number, number, number];

/** Length of the shortest way along the mesh from a set of vertices to each, and the vertex before it. */
function distances(mesh: MeshAtRest, roots: readonly number[]): { far: Float64Array; from: Int32Array } {
  const far = new Float64Array(mesh.piece.length).fill(Infinity);
  const from = new Int32Array(mesh.piece.length).fill(-1);
  for (const v of roots) far[v] = 0;
  let open = new Set(roots);
  // Rounds of relaxation: meshes are shallow, so few are needed.
  while (open.size > 0) {
    const next = new Set<number>();
    for (const v of open)
      for (const w of mesh.beside[v]!) {
        const d = far[v]! + apart(mesh.places, 3 * v, mesh.places, 3 * w);
        if (d < far[w]! - 1e-12) {
          far[w] = d;
          from[w] = v;
          next.add(w);
        }
      }
    open = next;
  }
  return { far, from };
}

/** Slices a piece by its distance from the root and goes through the middles of the slices. */
function throughMiddle(
  mesh: MeshAtRest,
  members: readonly number[],
  far: Float64Array,
  longest: number,
  path: StrandPath,
): StrandPath {
  const slices = Math.max(4, Math.min(24, path.length));
  const sums = Array.from({ length: slices + 1 }, () => [0, 0, 0, 0]);
  for (const v of members) {
    const sum = sums[Math.round((far[v]! / longest) * slices)]!;
    for (let a = 0; a < 3; a++) sum[a]! += mesh.places[3 * v + a]!;
    sum[3]!++;
  }
  return sums.flatMap(([x, y, z, n]) => (n ? [[x! / n, y! / n, z! / n] as const] : []));
}

/** `count` + 1 places evenly spaced along a path: joints and the end after the last. */
export function alongPath(path: StrandPath, count: number): [number, number, number][] {
  const lengths = path.slice(1).map((p, i) => apart(p, 0, path[i]!, 0));
  const total = lengths.reduce((a, b) => a + b, 0);
  return Array.from({ length: count + 1 }, (_, k) => {
    let left = (k / count) * total;
    let i = 0;
    while (i < lengths.length - 1 && left > lengths[i]!) left -= lengths[i++]!;
    const u = lengths[i]! > 0 ? Math.min(1, left / lengths[i]!) : 0;
    return [0, 1, 2].map((a) => path[i]![a]! + u * (path[i + 1]![a]! - path[i]![a]!)) as [
      number,
      number,
      number,
    ];
  });
}

/**
 * Weights of vertices to rows of joints by distance along them. Gives, for each vertex, a share for "as it was" and for
 * each joint of each row (all in one list, row after row): they sum to 1. A vertex goes with the link it lies beside,
 * blends half way into the next, and stays as it was at the root and beyond `reach` (m, fading over its last third).
 * A piece of several goes with the row nearest to it as a whole. `smoothing` rounds of averaging over the mesh follow.
 */
export function strandWeights(
  mesh: MeshAtRest,
  rows: readonly StrandPath[],
  smoothing: number,
  reach: number,
): Float64Array[] {
  const starts: number[] = [];
  let size = 1;
  for (const row of rows) {
    starts.push(size);
    size += row.length - 1;
  }
  const vertices = mesh.piece.length;
  const found = Array.from({ length: vertices }, (_, v) =>
    rows.map((row) => nearestOn(row, mesh.places, 3 * v)),
  );
  const nearest = (v: number) => found[v]!.reduce((b, f, i) => (f.away < found[v]![b]!.away ? i : b), 0);
  let choice = Array.from({ length: vertices }, (_, v) => nearest(v));
  if (mesh.pieces > 1 && rows.length > 1) {
    const sums = Array.from({ length: mesh.pieces }, () => new Float64Array(rows.length));
    for (let v = 0; v < vertices; v++) found[v]!.forEach((f, i) => (sums[mesh.piece[v]!]![i]! += f.away));
    const best = sums.map((s) => s.indexOf(Math.min(...s)));
    const crowded = best.map((_, p) => rows.filter((_, i) => nearestPiece(mesh, rows[i]!) === p).length > 1);
    choice = choice.map((own, v) => (crowded[mesh.piece[v]!] ? own : best[mesh.piece[v]!]!));
  }
  let weights = Array.from({ length: vertices }, (_, v) => {
    const w = new Float64Array(size);
    const row = choice[v]!;
    const { along, away } = found[v]![row]!;
    const joints = rows[row]!.length - 1;
    const fade = Math.min(1, Math.max(0, (reach - away) / (reach / 3 || 1)));
    const own = (reach === Infinity ? 1 : fade) * Math.min(1, 2 * along);
    w[0] = 1 - own;
    const t = Math.min(joints - 1, Math.max(0, along - 0.5));
    const i = Math.min(joints - 1, Math.floor(t));
    w[starts[row]! + i]! += own * (1 - (t - i));
    if (t > i) w[starts[row]! + i + 1]! += own * (t - i);
    return w;
  });
  for (let round = 0; round < smoothing; round++)
    weights = weights.map((w, v) => {
      const out = w.slice();
      const others = mesh.beside[v]!;
      for (const o of others) for (let k = 0; k < size; k++) out[k]! += weights[o]![k]!;
      return out.map((x) => x / (others.size + 1));
    });
  return weights;
}

/** The piece whose vertex is nearest to the middle of a path. */
function nearestPiece(mesh: MeshAtRest, path: StrandPath): number {
  const middle = path[path.length >> 1]!;
  let best = 0;
  let least = Infinity;
  for (let v = 0; v < mesh.piece.length; v++) {
    const d = apart(mesh.places, 3 * v, middle, 0);
    if (d < least) {
      least = d;
      best = mesh.piece[v]!;
    }
  }
  return best;
}

/** Place along a path nearest to a point, in points from its first, and how far away it is, m. */
function nearestOn(path: StrandPath, points: Float64Array, o: number): { along: number; away: number } {
  let best = { along: 0, away: Infinity };
  for (let i = 0; i + 1 < path.length; i++) {
    const [a, b] = [path[i]!, path[i + 1]!];
    let dot = 0;
    let length = 0;
    for (let k = 0; k < 3; k++) {
      dot += (points[o + k]! - a[k]!) * (b[k]! - a[k]!);
      length += (b[k]! - a[k]!) ** 2;
    }
    const u = length > 0 ? Math.min(1, Math.max(0, dot / length)) : 0;
    const at = [0, 1, 2].map((k) => a[k]! + u * (b[k]! - a[k]!));
    const away = apart(points, o, at, 0);
    if (away < best.away) best = { along: i + u, away };
  }
  return best;
}
