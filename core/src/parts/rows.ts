import { blendRows, matRotation } from '../math/index';

/** Row `row` of rows of `width` numbers, on the way to the next by `share`, as the solver places its source. */
export function rowAt(
  out: Float64Array,
  rows: Float64Array,
  width: number,
  row: number,
  share: number,
): void {
  blendRows(out, rows, width, rows.length / width - 1, row, share);
}

/** The same of some points alone, of rows with 3 numbers a point: to the same bits. */
export function pointsAt(
  out: Float64Array,
  rows: Float64Array,
  width: number,
  row: number,
  share: number,
  points: Int32Array,
): void {
  const last = rows.length / width - 1;
  const t = share,
    t2 = t * t,
    t3 = t2 * t;
  const wa = (-t3 + 2 * t2 - t) / 2,
    wb = (3 * t3 - 5 * t2 + 2) / 2,
    wc = (-3 * t3 + 4 * t2 + t) / 2,
    wd = (t3 - t2) / 2;
  const a = Math.max(0, row - 1) * width,
    b = row * width,
    c = Math.min(last, row + 1) * width,
    d = Math.min(last, row + 2) * width;
  for (let i = 0; i < points.length; i++) {
    const from = 3 * points[i]!;
    for (let k = from; k < from + 3; k++)
      out[k] = wa * rows[a + k]! + wb * rows[b + k]! + wc * rows[c + k]! + wd * rows[d + k]!;
  }
}

/** Makes the quaternion at `at` the nearer of its two signs to the one at `beside`. */
export function keepSign(q: Float64Array, at: number, beside: number): void {
  let dot = 0;
  for (let a = 0; a < 4; a++) dot += q[at + a]! * q[beside + a]!;
  if (dot < 0) for (let a = 0; a < 4; a++) q[at + a] = -q[at + a]!;
}

/** Place and turn (7 numbers) of a node as row k, from world matrices. */
export function writePlacement(placed: Float64Array, k: number, world: Float64Array, node: number): void {
  for (let a = 0; a < 3; a++) placed[7 * k + a] = world[16 * node + 12 + a]!;
  matRotation(placed, 7 * k + 3, world, 16 * node);
  if (k > 0) keepSign(placed, 7 * k + 3, 7 * (k - 1) + 3);
}
