import { boxAbout, cellAt, fillCells, type Sheet } from '../../sheets/index';
import { faceOut, makeLattice, type Lattice } from '../../solver/soft/index';

/** Places that are carried by 8 nodes each: which, and how much of each. */
export interface Carried {
  readonly nodes: Int32Array;
  readonly shares: Float64Array;
}

/** Places of a surface that may touch something: points of the mesh first, then some on its larger triangles. */
export interface TouchPoints extends Carried {
  readonly points: number;
  /** m² */
  readonly area: Float64Array;
  /** Three points of the mesh and a share of each, 3 numbers a point. */
  readonly of: Int32Array;
  readonly by: Float64Array;
  /** Triangles between them. */
  readonly triangles: Uint32Array;
}

/** A mesh filled with cells. Lengths are m. */
export interface BodyCells {
  readonly lattice: Lattice;
  /** What the surface encloses, m³, and what the cells are filled with. */
  readonly volume: number;
  readonly filled: number;
  readonly points: Carried;
  readonly touch: TouchPoints;
}

/** A triangle is parted into at most so many along each side. */
const FINEST = 8;

/** Fills the sheet of a mesh with cells, so many along its longest side. */
export function makeCells(sheet: Sheet, cells: number, metresPerUnit: number): BodyCells {
  const rest = sheet.rest.map((x) => x * metresPerUnit);
  const { lo, hi } = boxAbout(rest);
  const size = Math.max(...hi.map((x, a) => x - lo[a]!)) / cells;
  const filled = fillCells(rest, sheet.triangles, size);
  const { counts, corner, fill, volume } = filled;
  const lattice = makeLattice(counts, size, corner, fill);
  const carry = (places: ArrayLike<number>): Carried => {
    const count = places.length / 3;
    const [nodes, shares] = [new Int32Array(8 * count), new Float64Array(8 * count)];
    for (let p = 0; p < count; p++) {
      const place = [places[3 * p]!, places[3 * p + 1]!, places[3 * p + 2]!] as const;
      const cell = cellAt(filled, ...place);
      const at = [cell % counts[0], Math.floor(cell / counts[0]) % counts[1]];
      at.push(Math.floor(cell / (counts[0] * counts[1])));
      const u = place.map((x, a) => (x - corner[a]!) / size - at[a]!);
      for (let c = 0; c < 8; c++) {
        const side = [c & 1, (c >> 1) & 1, c >> 2];
        nodes[8 * p + c] = lattice.at(at[0]! + side[0]!, at[1]! + side[1]!, at[2]! + side[2]!);
        shares[8 * p + c] = side.reduce((w, on, a) => w * (on ? u[a]! : 1 - u[a]!), 1);
      }
    }
    return { nodes, shares };
  };
  const spread = touchPoints(sheet, rest, size);
  turnOutward(spread.points.triangles, spread.places);
  return {
    ...{ lattice, volume, points: carry(rest) },
    filled: lattice.fill.reduce((s, f) => s + f * size ** 3, 0),
    touch: { ...spread.points, ...carry(spread.places) },
  };
}

/** Turns, in place, triangles round where they face inwards on the whole. */
function turnOutward(triangles: Uint32Array, places: readonly number[]): void {
  const normals = new Float64Array(places.length);
  faceOut(normals, Float64Array.from(places), triangles);
  if (normals.reduce((sum, n, o) => sum + n * places[o]!, 0) >= 0) return;
  for (let t = 0; t < triangles.length; t += 3)
    [triangles[t + 1], triangles[t + 2]] = [triangles[t + 2]!, triangles[t + 1]!];
}

/** Points of a sheet, and more on triangles with sides longer than a cell. */
function touchPoints(
  sheet: Sheet,
  rest: Float64Array,
  cell: number,
): { places: number[]; points: Omit<TouchPoints, keyof Carried> } {
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
    },
  };
}
