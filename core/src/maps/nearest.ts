/** Places that a share is blended from. */
const NEAREST = 4;

/** Places (3 numbers each) in a box of size 1 about them: two that differ in size alone become one. */
function unitBox(places: Float64Array): Float64Array {
  const [lo, hi] = [
    [0, 1, 2].map((a) => places.reduce((m, x, k) => (k % 3 === a && x < m ? x : m), Infinity)),
    [0, 1, 2].map((a) => places.reduce((m, x, k) => (k % 3 === a && x > m ? x : m), -Infinity)),
  ];
  const size = Math.max(...hi.map((h, a) => h - lo[a]!)) || 1;
  return places.map((x, k) => (x - lo[k % 3]!) / size);
}

/** Cells of a grid over a box of size 1, and the points in each. */
function gridOf(places: Float64Array): { side: number; cells: Map<number, number[]> } {
  const side = Math.max(1, Math.min(64, Math.round(Math.sqrt(places.length / 3) / 2)));
  const cells = new Map<number, number[]>();
  for (let p = 0; p < places.length / 3; p++) {
    const cell = cellAt(side, places, 3 * p);
    const list = cells.get(cell);
    if (list) list.push(p);
    else cells.set(cell, [p]);
  }
  return { side, cells };
}

const along = (side: number, x: number): number => Math.min(side - 1, Math.max(0, Math.floor(x * side)));
const cellAt = (side: number, places: Float64Array, o: number): number =>
  along(side, places[o]!) + side * (along(side, places[o + 1]!) + side * along(side, places[o + 2]!));

/**
 * Shares of one set of places (3 numbers each) for another: each takes them of the nearest four, the nearer the more.
 * Both are laid over each other by the boxes about them.
 */
export function carryShares(shares: Float64Array, from: Float64Array, to: Float64Array): Float64Array {
  const [old, now] = [unitBox(from), unitBox(to)];
  const { side, cells } = gridOf(old);
  return Float64Array.from({ length: now.length / 3 }, (_, p) => {
    const found = nearestFew(old, cells, side, now, 3 * p);
    let [sum, weight] = [0, 0];
    for (const [d2, q] of found) {
      const w = 1 / (d2 + 1e-12);
      sum += w * shares[q]!;
      weight += w;
    }
    return weight > 0 ? sum / weight : 1;
  });
}

/** The nearest few of the old places: cells are looked through in rings until what is farther cannot be nearer. */
function nearestFew(
  old: Float64Array,
  cells: ReadonlyMap<number, readonly number[]>,
  side: number,
  now: Float64Array,
  o: number,
): [number, number][] {
  const best: [number, number][] = [];
  const [cx, cy, cz] = [0, 1, 2].map((a) => along(side, now[o + a]!)) as [number, number, number];
  for (let ring = 0; ring <= side; ring++) {
    if (best.length === NEAREST && best[NEAREST - 1]![0] <= ((ring - 1) / side) ** 2) break;
    for (let x = cx - ring; x <= cx + ring; x++)
      for (let y = cy - ring; y <= cy + ring; y++)
        for (let z = cz - ring; z <= cz + ring; z++) {
          if (Math.max(Math.abs(x - cx), Math.abs(y - cy), Math.abs(z - cz)) !== ring) continue;
          if (x < 0 || y < 0 || z < 0 || x >= side || y >= side || z >= side) continue;
          for (const q of cells.get(x + side * (y + side * z)) ?? []) {
            const d2 =
              (old[3 * q]! - now[o]!) ** 2 +
              (old[3 * q + 1]! - now[o + 1]!) ** 2 +
              (old[3 * q + 2]! - now[o + 2]!) ** 2;
            if (best.length === NEAREST && d2 >= best[NEAREST - 1]![0]) continue;
            if (best.length === NEAREST) best.pop();
            best.push([d2, q]);
            best.sort((a, b) => a[0] - b[0] || a[1] - b[1]);
          }
        }
  }
  return best;
}
