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
