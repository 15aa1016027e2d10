/** Half the cross products of the triangles at each of the first points, a third each: normals times area, m². */
export function areaNormals(out: Float64Array, x: Float64Array, triangles: Int32Array): void {
  out.fill(0);
  for (let t = 0; t < triangles.length; t += 3) {
    const i = 3 * triangles[t]!;
    const j = 3 * triangles[t + 1]!;
    const k = 3 * triangles[t + 2]!;
    const ux = x[j]! - x[i]!;
    const uy = x[j + 1]! - x[i + 1]!;
    const uz = x[j + 2]! - x[i + 2]!;
    const vx = x[k]! - x[i]!;
    const vy = x[k + 1]! - x[i + 1]!;
    const vz = x[k + 2]! - x[i + 2]!;
    const nx = (uy * vz - uz * vy) / 6;
    const ny = (uz * vx - ux * vz) / 6;
    const nz = (ux * vy - uy * vx) / 6;
    for (const o of [i, j, k]) {
      if (o >= out.length) continue;
      out[o]! += nx;
      out[o + 1]! += ny;
      out[o + 2]! += nz;
    }
  }
}

/**
 * How far points are shown from their skin (3 numbers each, m): no farther than a reach, before which they are slowed
 * over the last share `soften` of it; and of that a share.
 */
export function limit(
  out: Float64Array,
  u: Float64Array,
  reach: number,
  soften: number,
  amount: number,
): void {
  const free = (1 - soften) * reach;
  const left = reach - free;
  for (let o = 0; o < out.length; o += 3) {
    const far = Math.sqrt(u[o]! * u[o]! + u[o + 1]! * u[o + 1]! + u[o + 2]! * u[o + 2]!);
    const over = far - free;
    // Slope 1 where it begins, and never as far as the reach.
    const share =
      over > 0 ? (amount * (free + (left > 0 ? (left * over) / (left + over) : 0))) / far : amount;
    for (let a = o; a < o + 3; a++) out[a] = share * u[a]!;
  }
}

/** Where the longest of some ways (3 numbers each) begins. */
export function farthest(ways: Float64Array): number {
  let most = 0;
  let where = 0;
  for (let o = 0; o < ways.length; o += 3) {
    const far = ways[o]! * ways[o]! + ways[o + 1]! * ways[o + 1]! + ways[o + 2]! * ways[o + 2]!;
    if (far <= most) continue;
    most = far;
    where = o;
  }
  return where;
}
