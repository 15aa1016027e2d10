/** Cubic cells, each filled to a share, and the nodes at their corners. Lengths are m. */
export interface Lattice {
  /** Edge of a cell. */
  readonly size: number;
  readonly cells: number;
  readonly nodes: number;
  /** 8 nodes a cell: x, then y, then z counts up. */
  readonly corners: Int32Array;
  /** How much of each cell is filled, 0 < fill ≤ 1. */
  readonly fill: Float64Array;
  /** Places of the nodes at rest, 3 numbers each. */
  readonly rest: Float64Array;
  /** The node at a place of the grid, x and then y and then z counting up; −1 for none. */
  readonly at: (i: number, j: number, k: number) => number;
}

/**
 * The lattice of a grid of cells: `fill` holds how much of each is filled, x counting up first; those of 0 are left
 * out. `corner` is where the grid begins, m. Nodes stand in rows along x.
 */
export function makeLattice(
  counts: readonly [number, number, number],
  size: number,
  corner: readonly [number, number, number],
  fill: ArrayLike<number>,
): Lattice {
  const [nx, ny, nz] = counts;
  const [X, Y] = [nx + 1, ny + 1];
  const numbers = new Int32Array(X * Y * (nz + 1)).fill(-1);
  const filled: number[] = [];
  for (let cell = 0; cell < nx * ny * nz; cell++) {
    if (!(fill[cell]! > 0)) continue;
    filled.push(cell);
    for (const n of cornersOf(cell, nx, ny)) numbers[n] = 0;
  }
  let nodes = 0;
  const rest: number[] = [];
  numbers.forEach((used, n) => {
    if (used < 0) return;
    numbers[n] = nodes++;
    const at = [n % X, Math.floor(n / X) % Y, Math.floor(n / (X * Y))];
    rest.push(...at.map((i, a) => corner[a]! + i * size));
  });
  return {
    ...{ size, cells: filled.length, nodes },
    corners: Int32Array.from(filled.flatMap((cell) => cornersOf(cell, nx, ny).map((n) => numbers[n]!))),
    fill: Float64Array.from(filled, (cell) => fill[cell]!),
    rest: Float64Array.from(rest),
    at: (i, j, k) => numbers[(k * Y + j) * X + i] ?? -1,
  };
}

/** The grid nodes at the corners of a cell. */
function cornersOf(cell: number, nx: number, ny: number): number[] {
  const [i, j, k] = [cell % nx, Math.floor(cell / nx) % ny, Math.floor(cell / (nx * ny))];
  return Array.from(
    { length: 8 },
    (_, c) => ((k + (c >> 2)) * (ny + 1) + j + ((c >> 1) & 1)) * (nx + 1) + i + (c & 1),
  );
}
