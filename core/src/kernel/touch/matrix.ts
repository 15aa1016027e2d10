import type { Floats } from '../numbers';

/** The turn of a placement as a matrix, column by column, and its place. */
export function matrixOf(out: Floats, placed: Floats): void {
  const x = placed[3]!,
    y = placed[4]!,
    z = placed[5]!,
    w = placed[6]!;
  out[0] = 1 - 2 * (y * y + z * z);
  out[1] = 2 * (x * y + w * z);
  out[2] = 2 * (x * z - w * y);
  out[3] = 2 * (x * y - w * z);
  out[4] = 1 - 2 * (x * x + z * z);
  out[5] = 2 * (y * z + w * x);
  out[6] = 2 * (x * z + w * y);
  out[7] = 2 * (y * z - w * x);
  out[8] = 1 - 2 * (x * x + y * y);
  for (let a = 0; a < 3; a++) out[9 + a] = placed[a]!;
}
