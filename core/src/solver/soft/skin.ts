/** Places of a body's surface that may touch something, each carried by 8 of its nodes. */
export interface BodySkin {
  readonly points: number;
  /** 8 a point. */
  readonly nodes: Int32Array;
  readonly shares: Float64Array;
  /** m², one a point. */
  readonly area: Float64Array;
  /** How far each is from where its nodes carry it, m, 3 a point: to be filled in before a step. */
  readonly off: Float64Array;
  /** Triangles between the points, facing outwards. */
  readonly triangles: Uint32Array;
}

/** Places of a skin, 3 numbers a point, where the nodes are at `x`. */
export function carryPoints(
  out: Float64Array,
  { nodes, shares, points, off }: Omit<BodySkin, 'area' | 'triangles'>,
  x: Float64Array,
): void {
  for (let p = 0, k = 0; p < 3 * points; p += 3, k += 8) {
    let a = off[p]!,
      b = off[p + 1]!,
      c = off[p + 2]!;
    for (let e = k; e < k + 8; e++) {
      const w = shares[e]!;
      const o = 3 * nodes[e]!;
      a += w * x[o]!;
      b += w * x[o + 1]!;
      c += w * x[o + 2]!;
    }
    out[p] = a;
    out[p + 1] = b;
    out[p + 2] = c;
  }
}

/** Lowest and highest corner of the box about some places. */
export function boxOf(out: Float64Array, places: Float64Array): void {
  out.fill(Infinity, 0, 3);
  out.fill(-Infinity, 3);
  for (let o = 0; o < places.length; o += 3)
    for (let a = 0; a < 3; a++) {
      const x = places[o + a]!;
      if (x < out[a]!) out[a] = x;
      if (x > out[3 + a]!) out[3 + a] = x;
    }
}
