import { meshTriangles, type Character } from '../../character/index';
import { mulberry32 } from '../../math/index';
import { makeSurface } from '../../solver/index';
import type { Growth } from './document';
import { MOST_GUIDES } from './groom';
import { restPlaces } from './layout';
import { even, placedOn } from './scatter';

/** Places that are tried for each guide; the one that is farthest from all before it is taken. */
const TRIED = 12;
/** How far out of the skin a guide keeps, as a share of a link. */
const CLEAR = 0.1;

/**
 * Grows guides on a mesh node at rest: places of their points, m, in the axes of the file. They stand evenly by area,
 * more densely where the share of a vertex is higher (`shares`, 0..1, null for all alike), and do not enter the mesh.
 * They leave it along its normal (lean 0) or lie along it (1): `down`, or the way that the growth has. None where
 * nothing grows.
 */
export function growGuides(
  character: Character,
  node: number,
  metresPerUnit: number,
  down: readonly number[],
  {
    count,
    length,
    points,
    lean,
    seed,
    mirrored,
    way = null,
  }: Omit<Growth, 'changed' | 'way'> & Partial<Growth>,
  shares: ArrayLike<number> | null,
): Float64Array[] {
  const places = restPlaces(character, node, metresPerUnit);
  const { indices } = meshTriangles(character, node);
  const where = whereItGrows(places, indices, shares, mirrored);
  const wanted = Math.min(MOST_GUIDES, Math.max(0, Math.round(mirrored ? count / 2 : count)));
  if (!(where.whole > 0) || !(length > 0)) return [];
  const next = mulberry32(seed);
  const surface = makeSurface(places, indices);
  const out: Float64Array[] = [];
  const taken: V[] = [];
  for (let g = 0; g < wanted; g++) {
    let [best, far] = [null as V | null, -1];
    for (let k = 0; k < TRIED; k++) {
      const { at } = placedOn(places, where, next);
      if (mirrored && at[0] < 0) at[0] = -at[0];
      const near = taken.reduce((m, p) => Math.min(m, squared(p, at)), Infinity);
      if (near > far) [best, far] = [at, near];
    }
    taken.push(best!);
    const guide = growOne(surface, best!, { length, points, lean, down: unit(way ?? down) ?? [0, -1, 0] });
    out.push(guide);
    if (mirrored) out.push(guide.map((x, o) => (o % 3 === 0 ? -x : x)));
  }
  return out;
}

/** Triangles that hair grows on, by area and share: those of one half where both are alike. */
const whereItGrows = (
  places: Float64Array,
  indices: ArrayLike<number>,
  shares: ArrayLike<number> | null,
  half: boolean,
) =>
  even(places, indices, (corners) => {
    const middle = corners.reduce((sum, v) => sum + places[3 * v]!, 0);
    if (half && middle < 0) return 0;
    return shares ? corners.reduce((sum, v) => sum + shares[v]! / 3, 0) : 1;
  });

/** How large a part of a mesh hair grows on, m²; where it is painted thinly, that share of it. */
export const growArea = (
  character: Character,
  node: number,
  metresPerUnit: number,
  shares: ArrayLike<number> | null,
): number =>
  whereItGrows(
    restPlaces(character, node, metresPerUnit),
    meshTriangles(character, node).indices,
    shares,
    false,
  ).whole;

type V = [number, number, number];
const squared = (a: V, b: V): number => (a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2 + (a[2] - b[2]) ** 2;
function unit(v: readonly number[]): V | null {
  const size = Math.sqrt(v[0]! ** 2 + v[1]! ** 2 + v[2]! ** 2);
  return size > 1e-12 ? [v[0]! / size, v[1]! / size, v[2]! / size] : null;
}

/** One guide from its root: it leaves along the skin's normal, leans one way, and keeps out of the mesh. */
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
