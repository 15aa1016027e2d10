import { meshTriangles, type Character } from '../../character/index';
import { makeSurface } from '../../solver/index';
import { MOST_GUIDES } from './groom';
import { restPlaces } from './layout';

/** How guides grow. */
export interface Growth {
  /** How many there are. */
  readonly count: number;
  /** m */
  readonly length: number;
  /** Points of each, its root among them. */
  readonly points: number;
  /** How far they lie down, 0..1: 0 stands straight out of the skin, 1 lies along it, downward. */
  readonly lean: number;
  /** Guides are even over the skin; the seed says which places they take. */
  readonly seed: number;
  /** Whether those of one side are those of the other, mirrored at x = 0. */
  readonly mirrored: boolean;
  /** Share of each vertex of the mesh that grows, 0..1; null for all alike. */
  readonly shares: ArrayLike<number> | null;
}

/** Places that are tried for each guide; the one that is farthest from all before it is taken. */
const TRIED = 12;
/** How far out of the skin a guide keeps, as a share of a link. */
const CLEAR = 0.1;

/** Numbers from 0 to 1 that are the same for a seed on every machine (Lehmer 1951). */
function random(seed: number): () => number {
  let state = 1 + (Math.abs(Math.trunc(seed)) % 2147483645);
  const next = () => (state = (state * 16807) % 2147483647) / 2147483647;
  for (let k = 0; k < 8; k++) next();
  return next;
}

/**
 * Grows guides on a mesh node at rest: places of their points, m, in the axes of the file. They stand evenly by area,
 * more densely where the share is higher, and do not enter the mesh. None where nothing grows.
 */
export function growGuides(
  character: Character,
  node: number,
  metresPerUnit: number,
  down: readonly number[],
  { count, length, points, lean, seed, mirrored, shares }: Growth,
): Float64Array[] {
  const places = restPlaces(character, node, metresPerUnit);
  const { indices } = meshTriangles(character, node);
  const areas = areasOf(places, indices, shares, mirrored);
  const whole = areas.at(-1) ?? 0;
  const wanted = Math.min(MOST_GUIDES, Math.max(0, Math.round(mirrored ? count / 2 : count)));
  if (!(whole > 0) || !(length > 0)) return [];
  const next = random(seed);
  const surface = makeSurface(places, indices);
  const out: Float64Array[] = [];
  const taken: V[] = [];
  const tries = whole > 0 ? TRIED : 0;
  for (let g = 0; g < wanted; g++) {
    let [best, far] = [null as V | null, -1];
    for (let k = 0; k < tries; k++) {
      const at = placeOn(places, indices, areas, next);
      if (mirrored && at[0] < 0) at[0] = -at[0];
      const near = taken.reduce((m, p) => Math.min(m, squared(p, at)), Infinity);
      if (near > far) [best, far] = [at, near];
    }
    taken.push(best!);
    const guide = growOne(surface, best!, { length, points, lean, down: unit(down) ?? [0, -1, 0] });
    out.push(guide);
    if (mirrored) out.push(guide.map((x, o) => (o % 3 === 0 ? -x : x)));
  }
  return out;
}

type V = [number, number, number];
const squared = (a: V, b: V): number => (a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2 + (a[2] - b[2]) ** 2;
function unit(v: readonly number[]): V | null {
  const size = Math.sqrt(v[0]! ** 2 + v[1]! ** 2 + v[2]! ** 2);
  return size > 1e-12 ? [v[0]! / size, v[1]! / size, v[2]! / size] : null;
}

/** Sums of the areas of triangles up to each, by how much grows on them; of one side alone where it is mirrored. */
function areasOf(
  places: Float64Array,
  indices: Uint32Array,
  shares: ArrayLike<number> | null,
  mirrored: boolean,
): number[] {
  let sum = 0;
  return Array.from({ length: indices.length / 3 }, (_, t) => {
    const [a, b, c] = [indices[3 * t]!, indices[3 * t + 1]!, indices[3 * t + 2]!];
    const side = (p: number) => [0, 1, 2].map((k) => places[3 * p + k]! - places[3 * a + k]!);
    const [u, v] = [side(b), side(c)] as [number[], number[]];
    const n = [0, 1, 2].map((k) => u[(k + 1) % 3]! * v[(k + 2) % 3]! - u[(k + 2) % 3]! * v[(k + 1) % 3]!);
    const size = Math.sqrt(n.reduce((s, x) => s + x * x, 0)) / 2;
    const grows = shares ? (shares[a]! + shares[b]! + shares[c]!) / 3 : 1;
    const middle = (places[3 * a]! + places[3 * b]! + places[3 * c]!) / 3;
    sum += mirrored && middle < 0 ? 0 : size * grows;
    return sum;
  });
}

/** A place on the mesh, even by area. */
function placeOn(
  places: Float64Array,
  indices: Uint32Array,
  areas: readonly number[],
  next: () => number,
): V {
  const at = next() * areas.at(-1)!;
  let [lo, hi] = [0, areas.length - 1];
  while (lo < hi) {
    const mid = (lo + hi) >> 1;
    if (areas[mid]! > at) hi = mid;
    else lo = mid + 1;
  }
  const r = Math.sqrt(next());
  const s = next();
  const share = [1 - r, r * (1 - s), r * s];
  return [0, 1, 2].map((a) =>
    share.reduce((sum, w, k) => sum + w * places[3 * indices[3 * lo + k]! + a]!, 0),
  ) as V;
}

/** One guide from its root: it leaves along the skin's normal, leans downward, and keeps out of the mesh. */
function growOne(
  surface: ReturnType<typeof makeSurface>,
  root: V,
  { length, points, lean, down }: { length: number; points: number; lean: number; down: V },
): Float64Array {
  const link = length / (points - 1);
  const found = new Float64Array(4);
  surface.nearest(found, ...root);
  const normal = unit([found[1]!, found[2]!, found[3]!]) ?? [0, 1, 0];
  // Just out of the skin, on which side a place lies is sure.
  surface.nearest(found, ...(root.map((x, a) => x + 0.05 * link * normal[a]!) as V));
  const out = Float64Array.from({ length: 3 * points }, (_, o) => (o < 3 ? root[o]! : 0));
  let at = root;
  let way = found[0]! < 0 ? (normal.map((x) => -x) as V) : normal;
  for (let i = 1; i < points; i++) {
    const bent = Math.min(1, lean * Math.min(1, (2 * i) / points));
    const aim = unit(way.map((x, a) => (1 - bent) * x + bent * down[a]!)) ?? way;
    let to = at.map((x, a) => x + link * aim[a]!) as V;
    surface.nearest(found, ...to);
    const inside = CLEAR * link - found[0]!;
    if (inside > 0) to = to.map((x, a) => x + inside * found[1 + a]!) as V;
    way = unit(to.map((x, a) => x - at[a]!)) ?? way;
    to = at.map((x, a) => x + link * way[a]!) as V;
    out.set(to, 3 * i);
    at = to;
  }
  return out;
}
