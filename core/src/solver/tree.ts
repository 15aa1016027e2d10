/** Triangles in a leaf at most. */
const LEAF = 6;

/** A tree of boxes over triangles. */
export interface Tree {
  /** Triangles, in the order of the leaves. */
  readonly order: Uint32Array;
  /** For each node its first triangle and how many, or its second child and 0 (the first child follows its parent). */
  readonly firsts: readonly number[];
  readonly counts: readonly number[];
  /** Least and largest corner of each node, 6 numbers; fresh after {@link fitTree}. */
  readonly box: Float64Array;
}

/** Splits triangles at medians of their middles, along the longest side, down to leaves of a few. */
export function plantTree(vertices: Float64Array, indices: Uint32Array): Tree {
  const count = indices.length / 3;
  const order = Uint32Array.from({ length: count }, (_, t) => t);
  const firsts: number[] = [];
  const counts: number[] = [];
  const middles = [0, 1, 2].map((a) =>
    Float64Array.from(
      { length: count },
      (_, t) =>
        vertices[3 * indices[3 * t]! + a]! +
        vertices[3 * indices[3 * t + 1]! + a]! +
        vertices[3 * indices[3 * t + 2]! + a]!,
    ),
  );
  const build = (from: number, to: number): void => {
    const node = firsts.length;
    firsts.push(from);
    counts.push(to - from);
    if (to - from <= LEAF) return;
    const lo = [Infinity, Infinity, Infinity];
    const hi = [-Infinity, -Infinity, -Infinity];
    for (let a = 0; a < 3; a++)
      for (let k = from; k < to; k++) {
        const m = middles[a]![order[k]!]!;
        lo[a] = Math.min(lo[a]!, m);
        hi[a] = Math.max(hi[a]!, m);
      }
    const axis = [0, 1, 2].reduce((best, a) => (hi[a]! - lo[a]! > hi[best]! - lo[best]! ? a : best), 0);
    const along = middles[axis]!;
    order.subarray(from, to).sort((p, q) => along[p]! - along[q]! || p - q);
    const half = (from + to) >> 1;
    counts[node] = 0;
    build(from, half);
    firsts[node] = firsts.length;
    build(half, to);
  };
  if (count > 0) build(0, count);
  return { order, firsts, counts, box: new Float64Array(6 * firsts.length) };
}

/**
 * Fits the boxes to triangles (vertices of each) whose vertices stand at `vertices`, 3 numbers each; when they go from
 * there to `onward`, the boxes hold them on the way.
 */
export function fitTree(
  tree: Tree,
  vertices: Float64Array,
  indices: Uint32Array,
  onward: Float64Array = vertices,
): void {
  const { order, firsts, counts, box } = tree;
  // Children stand after their parents, so from the last to the first.
  for (let n = firsts.length - 1; n >= 0; n--) {
    for (let a = 0; a < 3; a++) {
      let lo = Infinity;
      let hi = -Infinity;
      if (counts[n]! > 0) {
        for (let k = firsts[n]!; k < firsts[n]! + counts[n]!; k++)
          for (let e = 0; e < 3; e++) {
            const i = 3 * indices[3 * order[k]! + e]! + a;
            const x = vertices[i]!;
            const y = onward[i]!;
            if (x < lo) lo = x;
            if (x > hi) hi = x;
            if (y < lo) lo = y;
            if (y > hi) hi = y;
          }
      } else {
        const [p, q] = [6 * (n + 1), 6 * firsts[n]!];
        lo = Math.min(box[p + a]!, box[q + a]!);
        hi = Math.max(box[p + 3 + a]!, box[q + 3 + a]!);
      }
      box[6 * n + a] = lo;
      box[6 * n + 3 + a] = hi;
    }
  }
}

/** Squared distance of a place to the box of node n, m². */
export function distanceToBox(box: Float64Array, n: number, x: number, y: number, z: number): number {
  const o = 6 * n;
  const dx = Math.max(box[o]! - x, 0, x - box[o + 3]!),
    dy = Math.max(box[o + 1]! - y, 0, y - box[o + 4]!),
    dz = Math.max(box[o + 2]! - z, 0, z - box[o + 5]!);
  return dx * dx + dy * dy + dz * dz;
}
