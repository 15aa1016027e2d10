/** How finely each cell is looked through, along each side across the columns. */
const FINE = 8;
/** Cells that hold a point of the surface are filled to this share at least. */
const LEAST = 0.1;

/** A box of cells round a surface, and how much of each is inside of it. Lengths are those of the places. */
export interface FilledCells {
  readonly counts: readonly [number, number, number];
  readonly size: number;
  readonly corner: readonly [number, number, number];
  /** 0..1, x counting up first. */
  readonly fill: Float64Array;
  /** What is inside of the surface. */
  readonly volume: number;
}

/** Lowest and highest corner of some places. */
export function boxAbout(places: ArrayLike<number>): { lo: number[]; hi: number[] } {
  const [lo, hi] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  for (let o = 0; o < places.length; o++) {
    lo[o % 3] = Math.min(lo[o % 3]!, places[o]!);
    hi[o % 3] = Math.max(hi[o % 3]!, places[o]!);
  }
  return { lo, hi };
}

/**
 * Fills cubes of a size with what a surface of triangles (3 points each) encloses: along columns, by how often the
 * surface winds round each place, so that pieces inside or across each other count once. A surface that is open is
 * looked through along all three axes, between the first and the last crossing of each column. Cells at points of the
 * surface are never empty.
 */
export function fillCells(places: Float64Array, triangles: ArrayLike<number>, size: number): FilledCells {
  const { lo, hi } = boxAbout(places);
  const counts = [0, 1, 2].map((a) => Math.max(1, Math.ceil((hi[a]! - lo[a]!) / size - 1e-6))) as [
    ...[number, number, number],
  ];
  const corner = [0, 1, 2].map((a) => (lo[a]! + hi[a]! - counts[a]! * size) / 2) as [number, number, number];
  const fill = new Float64Array(counts[0] * counts[1] * counts[2]);
  let volume = 0;
  for (let axis = 0; axis < 3; axis++) {
    const found = fillAlong(axis, places, triangles, { counts, size, corner });
    found.fill.forEach((f, c) => (fill[c] = Math.max(fill[c]!, f)));
    volume = Math.max(volume, found.volume);
    if (found.closed) break;
  }
  const cells = { counts, size, corner, fill, volume };
  for (let o = 0; o < places.length; o += 3) {
    const cell = cellAt(cells, places[o]!, places[o + 1]!, places[o + 2]!);
    fill[cell] = Math.max(fill[cell]!, LEAST);
  }
  fill.forEach((f, c) => (fill[c] = f > 0 ? Math.min(1, Math.max(f, LEAST)) : 0));
  return cells;
}

/** The same along one axis; whether every column goes out as often as in. */
function fillAlong(
  axis: number,
  places: Float64Array,
  triangles: ArrayLike<number>,
  { counts, size, corner }: Pick<FilledCells, 'counts' | 'size' | 'corner'>,
): Pick<FilledCells, 'fill' | 'volume'> & { closed: boolean } {
  // The same places with this axis first, in the same hand.
  const turned = [0, 1, 2].map((a) => (axis + a) % 3) as [number, number, number];
  const at = places.map((_, o) => places[o - (o % 3) + turned[o % 3]!]!);
  const [many, from] = [turned.map((a) => counts[a]!), turned.map((a) => corner[a]!)];
  const stride = turned.map((a) => [1, counts[0], counts[0] * counts[1]][a]!);
  const step = size / FINE;
  const fill = new Float64Array(counts[0] * counts[1] * counts[2]);
  let volume = 0;
  let closed = true;
  crossings(at, triangles, from, many, step).forEach((crossed, column) => {
    const [j, k] = [column % (FINE * many[1]!), Math.floor(column / (FINE * many[1]!))];
    const row = Math.floor(k / FINE) * stride[2]! + Math.floor(j / FINE) * stride[1]!;
    if (crossed.reduce((sum, [, way]) => sum + way, 0) !== 0) closed = false;
    for (const [a, b] of insideOf(crossed)) {
      volume += (b - a) * step * step;
      for (let i = 0; i < many[0]!; i++) {
        const within = Math.min(b, from[0]! + (i + 1) * size) - Math.max(a, from[0]! + i * size);
        if (within > 0) fill[row + i * stride[0]!]! += within / size / FINE ** 2;
      }
    }
  });
  return { fill, volume, closed };
}

/** The cell that holds a place, or the one nearest to it. */
export function cellAt(
  { counts, corner, size }: Pick<FilledCells, 'counts' | 'corner' | 'size'>,
  ...place: [number, number, number]
): number {
  const [i, j, k] = place.map((x, a) =>
    Math.min(counts[a]! - 1, Math.max(0, Math.floor((x - corner[a]!) / size))),
  ) as [number, number, number];
  return (k * counts[1] + j) * counts[0] + i;
}

/** By column along the first axis: where the surface crosses it, and which way (1 in, −1 out). */
function crossings(
  places: Float64Array,
  triangles: ArrayLike<number>,
  corner: readonly number[],
  counts: readonly number[],
  step: number,
): [number, number][][] {
  const [wide, high] = [FINE * counts[1]!, FINE * counts[2]!];
  const out = Array.from({ length: wide * high }, (): [number, number][] => []);
  for (let t = 0; t + 2 < triangles.length; t += 3) {
    const [a, b, c] = [3 * triangles[t]!, 3 * triangles[t + 1]!, 3 * triangles[t + 2]!];
    const [ay, az] = [places[a + 1]!, places[a + 2]!];
    const [by, bz] = [places[b + 1]! - ay, places[b + 2]! - az];
    const [cy, cz] = [places[c + 1]! - ay, places[c + 2]! - az];
    const area = by * cz - cy * bz;
    if (area === 0) continue;
    const span = (first: number, others: readonly number[], from: number, most: number) => [
      Math.max(0, Math.ceil((first + Math.min(0, ...others) - from) / step - 0.5)),
      Math.min(most - 1, Math.floor((first + Math.max(0, ...others) - from) / step - 0.5)),
    ];
    const [j0, j1] = span(ay, [by, cy], corner[1]!, wide) as [number, number];
    const [k0, k1] = span(az, [bz, cz], corner[2]!, high) as [number, number];
    for (let k = k0; k <= k1; k++)
      for (let j = j0; j <= j1; j++) {
        // A little off the middle, so that edges of even meshes are not met exactly.
        const y = corner[1]! + (j + 0.5 + 1.3e-5) * step - ay;
        const z = corner[2]! + (k + 0.5 + 1.7e-5) * step - az;
        const [u, v] = [(y * cz - cy * z) / area, (by * z - y * bz) / area];
        if (u < 0 || v < 0 || u + v > 1) continue;
        const x = places[a]! + u * (places[b]! - places[a]!) + v * (places[c]! - places[a]!);
        // Its normal's x has the sign of the area: against the column it leads in.
        out[k * wide + j]!.push([x, area < 0 ? 1 : -1]);
      }
  }
  return out;
}

/** The stretches of a column that the surface winds round. */
function insideOf(crossed: [number, number][]): [number, number][] {
  crossed.sort((p, q) => p[0] - q[0]);
  const whole = crossed.reduce((sum, [, way]) => sum + way, 0);
  if (whole !== 0) return crossed.length > 1 ? [[crossed[0]![0], crossed.at(-1)![0]]] : [];
  const out: [number, number][] = [];
  let wound = 0;
  let from = 0;
  for (const [x, way] of crossed) {
    const before = wound;
    wound += way;
    if (before === 0) from = x;
    if (wound === 0) out.push([from, x]);
  }
  return out;
}
