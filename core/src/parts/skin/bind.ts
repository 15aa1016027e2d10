import type { Sheet } from '../../sheets/index';
import { makeSurface } from '../../solver/index';

/** How the points of a skin hang on the surfaces below it. Only points that go along at all have a place here. */
export interface Bound {
  /** Points of the sheet, rising. */
  readonly points: Int32Array;
  /** How much each goes along, 0..1. */
  readonly weight: Float64Array;
  /** The surface that is nearest at rest, three of its points, and how much of each the nearest place is. */
  readonly below: Int32Array;
  readonly corners: Int32Array;
  readonly shares: Float64Array;
  /** Points beside each: where its list begins (points + 1), their places here, and how many there are in all. */
  readonly from: Int32Array;
  readonly beside: Int32Array;
  readonly around: Int32Array;
}

/** Less than this a point does not go along. */
const LEAST = 1e-3;

/** 1 up to half of the reach, 0 from all of it on, with no kick between. */
function falls(far: number, reach: number): number {
  const t = Math.min(1, Math.max(0, 2 - (2 * far) / reach));
  return t * t * (3 - 2 * t);
}

/**
 * Binds a sheet to surfaces at rest: each point to the nearest place, as far as the reach (m) goes, times its share
 * (null is all of it). Places of sheets are in file units.
 */
export function bindSkin(
  sheet: Sheet,
  surfaces: readonly Sheet[],
  reach: number,
  share: Float64Array | null,
  metresPerUnit: number,
): Bound {
  const found = surfaces.map(({ rest, triangles }) =>
    makeSurface(inMetres(rest, metresPerUnit), Uint32Array.from(triangles)),
  );
  const rest = inMetres(sheet.rest, metresPerUnit);
  const [points, weight, below, corners, shares]: number[][] = [[], [], [], [], []];
  const place = new Int32Array(sheet.points).fill(-1);
  for (let p = 0; p < sheet.points; p++) {
    const most = share?.[p] ?? 1;
    if (most < LEAST) continue;
    let nearest = Infinity;
    let at = -1;
    let foot: ReturnType<(typeof found)[number]['foot']> = null;
    const [x, y, z] = [rest[3 * p]!, rest[3 * p + 1]!, rest[3 * p + 2]!];
    found.forEach((surface, s) => {
      const own = surface.foot(x, y, z);
      if (!own) return;
      const far = Math.sqrt(
        [x, y, z].reduce((sum, v, a) => {
          let near = 0;
          own.corners.forEach((c, k) => (near += own.shares[k]! * surface.vertices[3 * c + a]!));
          return sum + (v - near) ** 2;
        }, 0),
      );
      if (far >= nearest) return;
      [nearest, at, foot] = [far, s, { corners: own.corners.slice(), shares: own.shares.slice() }];
    });
    const w = most * falls(nearest, reach);
    if (!foot || w < LEAST) continue;
    place[p] = points!.length;
    points!.push(p);
    weight!.push(w);
    below!.push(at);
    corners!.push(...(foot as { corners: Uint32Array }).corners);
    shares!.push(...(foot as { shares: Float64Array }).shares);
  }
  return {
    points: Int32Array.from(points!),
    weight: Float64Array.from(weight!),
    below: Int32Array.from(below!),
    corners: Int32Array.from(corners!),
    shares: Float64Array.from(shares!),
    ...neighbours(sheet, place, points!.length),
  };
}

const inMetres = (places: ArrayLike<number>, metresPerUnit: number): Float64Array =>
  Float64Array.from(places, (x) => x * metresPerUnit);

function neighbours(
  sheet: Sheet,
  place: Int32Array,
  count: number,
): Pick<Bound, 'from' | 'beside' | 'around'> {
  const sets = Array.from({ length: count }, () => new Set<number>());
  for (let t = 0; t < sheet.triangles.length; t += 3)
    for (let k = 0; k < 3; k++) {
      const [i, j] = [sheet.triangles[t + k]!, sheet.triangles[t + ((k + 1) % 3)]!];
      if (place[i]! >= 0) sets[place[i]!]!.add(j);
      if (place[j]! >= 0) sets[place[j]!]!.add(i);
    }
  const from = new Int32Array(count + 1);
  const beside: number[] = [];
  sets.forEach((set, i) => {
    for (const j of set) if (place[j]! >= 0) beside.push(place[j]!);
    from[i + 1] = beside.length;
  });
  return { from, beside: Int32Array.from(beside), around: Int32Array.from(sets, (s) => s.size) };
}

/** Smooths ways (3 numbers a point) over the skin, in place: what is not bound stays where it is. */
export function smoothWays(ways: Float64Array, { from, beside, around }: Bound, passes: number): void {
  const next = new Float64Array(ways.length);
  for (let pass = 0; pass < passes; pass++) {
    // A part of a pass counts as much.
    const half = 0.5 * Math.min(1, passes - pass);
    for (let i = 0; i < around.length; i++)
      for (let a = 0; a < 3; a++) {
        let sum = 0;
        for (let k = from[i]!; k < from[i + 1]!; k++) sum += ways[3 * beside[k]! + a]!;
        const mean = around[i]! > 0 ? sum / around[i]! : ways[3 * i + a]!;
        next[3 * i + a] = (1 - half) * ways[3 * i + a]! + half * mean;
      }
    ways.set(next);
  }
}
