/** Triangles that places are scattered over, and sums of their areas up to each. */
export interface Scatter {
  readonly triangles: readonly (readonly [number, number, number])[];
  readonly sums: readonly number[];
  readonly whole: number;
}

/** Triangles of a mesh by area, times how much of each is meant. */
export function even(
  places: Float64Array,
  indices: ArrayLike<number>,
  share: (corners: readonly [number, number, number]) => number,
): Scatter {
  const triangles: [number, number, number][] = [];
  const sums: number[] = [];
  let whole = 0;
  for (let t = 0; t + 2 < indices.length; t += 3) {
    const corners = [indices[t]!, indices[t + 1]!, indices[t + 2]!] as [number, number, number];
    const [a, b, c] = corners;
    const side = (p: number) => [0, 1, 2].map((k) => places[3 * p + k]! - places[3 * a + k]!);
    const [u, v] = [side(b), side(c)] as [number[], number[]];
    const n = [0, 1, 2].map((k) => u[(k + 1) % 3]! * v[(k + 2) % 3]! - u[(k + 2) % 3]! * v[(k + 1) % 3]!);
    const size = (Math.sqrt(n.reduce((s, x) => s + x * x, 0)) / 2) * share(corners);
    if (!(size > 0)) continue;
    triangles.push(corners);
    sums.push((whole += size));
  }
  return { triangles, sums, whole };
}

/** A place on a mesh: the corners of its triangle, their shares, and where it is. */
export interface Placed {
  readonly corners: readonly [number, number, number];
  readonly shares: readonly [number, number, number];
  readonly at: [number, number, number];
}

/** A place on some triangles, even by area. */
export function placedOn(
  places: Float64Array,
  { triangles, sums, whole }: Scatter,
  next: () => number,
): Placed {
  const to = next() * whole;
  let [lo, hi] = [0, sums.length - 1];
  while (lo < hi) {
    const mid = (lo + hi) >> 1;
    if (sums[mid]! > to) hi = mid;
    else lo = mid + 1;
  }
  const r = Math.sqrt(next());
  const s = next();
  const shares = [1 - r, r * (1 - s), r * s] as const;
  const corners = triangles[lo]!;
  const at = [0, 1, 2].map((a) => shares.reduce((x, w, k) => x + w * places[3 * corners[k]! + a]!, 0));
  return { corners, shares, at: at as [number, number, number] };
}
