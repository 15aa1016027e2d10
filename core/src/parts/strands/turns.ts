/**
 * A frame on a triangle, 9 numbers: along its first side, square to it in its plane, and its normal, row by row. False
 * where the triangle has no area.
 */
export function triangleFrame(
  out: Float64Array,
  at: number,
  places: ArrayLike<number>,
  [a, b, c]: readonly number[],
): boolean {
  const side = (p: number) => [0, 1, 2].map((k) => places[3 * p + k]! - places[3 * a! + k]!) as V;
  const u = unitOf(side(b!));
  const n = unitOf(cross(side(b!), side(c!)));
  if (!u || !n) return false;
  const w = cross(n, u);
  for (let k = 0; k < 3; k++) {
    out[at + k] = u[k]!;
    out[at + 3 + k] = w[k]!;
    out[at + 6 + k] = n[k]!;
  }
  return true;
}

type V = [number, number, number];
const cross = (a: V, b: V): V => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
function unitOf(v: V): V | null {
  const size = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
  return size > 1e-18 ? [v[0] / size, v[1] / size, v[2] / size] : null;
}

/** The turn (x y z w) that takes a frame at rest to one now; both have an axis a row. */
export function turnBetween(
  out: Float64Array,
  o: number,
  rest: Float64Array,
  r: number,
  now: Float64Array,
): void {
  const m = (i: number, j: number) =>
    now[i]! * rest[r + j]! + now[3 + i]! * rest[r + 3 + j]! + now[6 + i]! * rest[r + 6 + j]!;
  const [xx, yy, zz] = [m(0, 0), m(1, 1), m(2, 2)];
  // The largest of the four is found first (Shepperd 1978).
  const four = [1 + xx - yy - zz, 1 - xx + yy - zz, 1 - xx - yy + zz, 1 + xx + yy + zz];
  const k = four.indexOf(Math.max(...four));
  const d = Math.sqrt(four[k]!) / 2;
  const s = 1 / (4 * d);
  const [yz, zx, xy] = [
    [m(2, 1), m(1, 2)],
    [m(0, 2), m(2, 0)],
    [m(1, 0), m(0, 1)],
  ] as [[number, number], [number, number], [number, number]];
  const plus = [yz[0] + yz[1], zx[0] + zx[1], xy[0] + xy[1]] as const;
  const minus = [yz[0] - yz[1], zx[0] - zx[1], xy[0] - xy[1]] as const;
  const q =
    k === 3
      ? [minus[0] * s, minus[1] * s, minus[2] * s, d]
      : k === 0
        ? [d, plus[2] * s, plus[1] * s, minus[0] * s]
        : k === 1
          ? [plus[2] * s, d, plus[0] * s, minus[1] * s]
          : [plus[1] * s, plus[0] * s, d, minus[2] * s];
  out.set(q, o);
}

/**
 * A line drawn on a mesh whose vertices stand at `now`, from one of its triangles on, as it is where they stand at
 * `rest`; places, m. Null where the triangle has no area.
 */
export function lineToRest(
  line: Float64Array,
  corners: readonly [number, number, number],
  now: ArrayLike<number>,
  rest: ArrayLike<number>,
): Float64Array | null {
  const [from, to] = [new Float64Array(9), new Float64Array(9)];
  if (!triangleFrame(from, 0, now, corners) || !triangleFrame(to, 0, rest, corners)) return null;
  const out = new Float64Array(line.length);
  for (let i = 0; i < line.length; i += 3) {
    const d = [0, 1, 2].map((a) => line[i + a]! - now[3 * corners[0] + a]!);
    const own = [0, 1, 2].map((r) => d.reduce((s, x, a) => s + x * from[3 * r + a]!, 0));
    for (let a = 0; a < 3; a++)
      out[i + a] = rest[3 * corners[0] + a]! + own.reduce((s, x, r) => s + x * to[3 * r + a]!, 0);
  }
  return out;
}
