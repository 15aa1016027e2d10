import { boxAbout, cellAt, fillCells, type Sheet } from '../../sheets/index';
import { makeLattice, type Lattice } from '../../solver/soft/index';
import { PATCHES, touchPoints, type Carried, type TouchPoints } from './touchPoints';

/** A mesh filled with cells. Lengths are m. */
export interface BodyCells {
  readonly lattice: Lattice;
  /** What the surface encloses, m³, and what the cells are filled with. */
  readonly volume: number;
  readonly filled: number;
  readonly points: Carried;
  readonly touch: TouchPoints;
}

/** Fills the sheet of a mesh with cells, so many along its longest side. */
export function makeCells(sheet: Sheet, cells: number, metresPerUnit: number, patches = PATCHES): BodyCells {
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
  const spread = touchPoints(sheet, rest, size, patches);
  return {
    ...{ lattice, volume, points: carry(rest) },
    filled: lattice.fill.reduce((s, f) => s + f * size ** 3, 0),
    touch: { ...spread.points, ...carry(spread.places) },
  };
}
