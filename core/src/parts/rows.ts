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
