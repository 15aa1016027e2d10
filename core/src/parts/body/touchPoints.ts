import { sumNormals, type Sheet } from '../../sheets/index';

/** Places that are carried by 8 nodes each: which, and how much of each. */
export interface Carried {
  readonly nodes: Int32Array;
  readonly shares: Float64Array;
}

/** Places of a surface that may touch something. */
export interface TouchPoints extends Carried {
  readonly points: number;
  /** m² */
  readonly area: Float64Array;
  /** Three points of the mesh and a share of each, 3 numbers a point. */
  readonly of: Int32Array;
  readonly by: Float64Array;
  /** Triangles between them. */
  readonly triangles: Uint32Array;
  /** By point of the mesh: which of these stands for it. */
  readonly place: Int32Array;
}

/** Places that may touch something, m, and what is known of them beside what carries them. */
export interface Spread {
  readonly places: number[];
  readonly points: Omit<TouchPoints, keyof Carried>;
}

/** A triangle is parted into at most so many along each side. */
const FINEST = 8;
/**
 * Patches along the side of a cell that one point each stands for, where the mesh is finer: usually, and for a coarse
 * answer.
 */
export const PATCHES = 3;
export const FEW_PATCHES = 1;
/** A mesh is only thinned where that leaves less than this share of its points. */
const WORTH = 0.6;

/**
 * Where a surface may touch something: the points of its sheet with more of them on triangles with sides longer than a
 * cell, or fewer where it is much finer than its cells. Triangles face outwards.
 */
export function touchPoints(sheet: Sheet, rest: Float64Array, cell: number, patches = PATCHES): Spread {
  const all = allPoints(sheet, rest, cell);
  turnOutward(all.points.triangles, all.places);
  const fewer = thinned(all, sheet.points, cell / patches);
  return fewer.points.points < WORTH * sheet.points ? fewer : all;
}

/** Turns, in place, triangles round where they face inwards on the whole. */
function turnOutward(triangles: Uint32Array, places: readonly number[]): void {
  const normals = new Float64Array(places.length);
  sumNormals(normals, Float64Array.from(places), triangles);
  if (normals.reduce((sum, n, o) => sum + n * places[o]!, 0) >= 0) return;
  for (let t = 0; t < triangles.length; t += 3)
    [triangles[t + 1], triangles[t + 2]] = [triangles[t + 2]!, triangles[t + 1]!];
}

/** One point for each patch of a grid that faces one way: the outermost of the sheet's points in it. */
function thinned({ places, points }: Spread, sheetPoints: number, patch: number): Spread {
  const normals = new Float64Array(places.length);
  sumNormals(normals, Float64Array.from(places), points.triangles);
  const patches = new Map<string, number[]>();
  for (let p = 0; p < points.points; p++) {
    const at = [0, 1, 2].map((a) => Math.floor(places[3 * p + a]! / patch));
    const n = [0, 1, 2].map((a) => normals[3 * p + a]!);
    const most = n.reduce((m, x, a) => (Math.abs(x) > Math.abs(n[m]!) ? a : m), 0);
    const key = [...at, most, Math.sign(n[most]!)].join(' ');
    const own = patches.get(key);
    if (own) own.push(p);
    else patches.set(key, [p]);
  }
  const place = new Int32Array(points.points);
  const kept = [...patches.values()].map((own, k) => {
    const mean = [0, 1, 2].map((a) => own.reduce((s, p) => s + normals[3 * p + a]!, 0));
    const out = (p: number) => mean.reduce((s, n, a) => s + n * places[3 * p + a]!, 0);
    for (const p of own) place[p] = k;
    return own.reduce((best, p) => (out(p) > out(best) ? p : best), own[0]!);
  });
  const area = new Float64Array(kept.length);
  points.area.forEach((a, p) => (area[place[p]!]! += a));
  const known = new Set<string>();
  const triangles: number[] = [];
  for (let t = 0; t < points.triangles.length; t += 3) {
    const corners = [0, 1, 2].map((k) => place[points.triangles[t + k]!]!);
    if (new Set(corners).size < 3) continue;
    const key = [...corners].sort((a, b) => a - b).join(' ');
    if (known.has(key)) continue;
    known.add(key);
    triangles.push(...corners);
  }
  const three = <L extends ArrayLike<number>>(list: L) =>
    kept.flatMap((p) => [0, 1, 2].map((a) => list[3 * p + a]!));
  return {
    places: three(places),
    points: {
      ...{ points: kept.length, area, of: Int32Array.from(three(points.of)) },
      ...{ by: Float64Array.from(three(points.by)), triangles: Uint32Array.from(triangles) },
      place: place.slice(0, sheetPoints),
    },
  };
}

/** Points of a sheet, and more on triangles with sides longer than a cell. */
function allPoints(sheet: Sheet, rest: Float64Array, cell: number): Spread {
  const of = Array.from({ length: sheet.points }, (_, p) => [p, p, p]).flat();
  const by = Array.from({ length: sheet.points }, () => [1, 0, 0]).flat();
  const places = Array.from(rest);
  const area = new Array<number>(sheet.points).fill(0);
  const known = new Map<string, number>();
  const triangles: number[] = [];
  for (let t = 0; t < sheet.triangles.length; t += 3) {
    const corners = [0, 1, 2].map((k) => sheet.triangles[t + k]!);
    const at = (k: number, a: number) => rest[3 * corners[k]! + a]!;
    const sides = [0, 1, 2].map((k) =>
      Math.sqrt([0, 1, 2].reduce((s, a) => s + (at((k + 1) % 3, a) - at(k, a)) ** 2, 0)),
    );
    const n = Math.min(FINEST, Math.max(1, Math.ceil(Math.max(...sides) / cell)));
    const half = sides.reduce((s, l) => s + l, 0) / 2;
    const size = Math.sqrt(
      Math.max(
        0,
        sides.reduce((s, l) => s * (half - l), half),
      ),
    );
    const pointAt = (i: number, j: number): number => {
      const shares = [n - i - j, i, j];
      const used = [0, 1, 2].filter((k) => shares[k]! > 0).sort((p, q) => corners[p]! - corners[q]!);
      if (used.length === 1) return corners[used[0]!]!;
      const key = used.map((k) => `${corners[k]} ${shares[k]! / n}`).join(' ');
      let p = known.get(key);
      if (p === undefined) {
        p = area.length;
        known.set(key, p);
        area.push(0);
        of.push(...corners);
        by.push(...shares.map((s) => s / n));
        for (let a = 0; a < 3; a++) places.push(shares.reduce((s, w, k) => s + (w / n) * at(k, a), 0));
      }
      return p;
    };
    for (let i = 0; i < n; i++)
      for (let j = 0; i + j < n; j++) {
        const small = [[pointAt(i, j), pointAt(i + 1, j), pointAt(i, j + 1)]];
        if (i + j + 1 < n) small.push([pointAt(i + 1, j), pointAt(i + 1, j + 1), pointAt(i, j + 1)]);
        triangles.push(...small.flat());
        for (const p of small.flat()) area[p]! += size / n / n / 3;
      }
  }
  return {
    places,
    points: {
      ...{ points: area.length, area: Float64Array.from(area) },
      ...{ of: Int32Array.from(of), by: Float64Array.from(by), triangles: Uint32Array.from(triangles) },
      place: Int32Array.from({ length: sheet.points }, (_, p) => p),
    },
  };
}

/** How far points of a surface, whose mesh has its points at `places`, are from where others are: 3 numbers each. */
export function farFrom(
  out: Float64Array,
  { of, by, points }: Pick<TouchPoints, 'of' | 'by' | 'points'>,
  places: Float64Array,
  from: Float64Array,
): void {
  for (let o = 0; o < 3 * points; o += 3) {
    const i = 3 * of[o]!,
      j = 3 * of[o + 1]!,
      k = 3 * of[o + 2]!;
    const u = by[o]!,
      v = by[o + 1]!,
      w = by[o + 2]!;
    for (let a = 0; a < 3; a++)
      out[o + a] = u * places[i + a]! + v * places[j + a]! + w * places[k + a]! - from[o + a]!;
  }
}
