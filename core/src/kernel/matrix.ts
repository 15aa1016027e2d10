import type { Index, Numbers, Writable } from './numbers';

/** 4×4 matrices, column-major as in glTF 2.0, in flat arrays with offsets. */

/** out = translation · rotation · scale, from t (3), q (4, unit) and s (3). */
export function matCompose(
  out: Writable,
  o: Index,
  t: Numbers,
  ti: Index,
  q: Numbers,
  qi: Index,
  s: Numbers,
  si: Index,
): void {
  const x = q[qi]!,
    y = q[qi + 1]!,
    z = q[qi + 2]!,
    w = q[qi + 3]!;
  const sx = s[si]!,
    sy = s[si + 1]!,
    sz = s[si + 2]!;
  out[o] = (1 - 2 * (y * y + z * z)) * sx;
  out[o + 1] = 2 * (x * y + z * w) * sx;
  out[o + 2] = 2 * (x * z - y * w) * sx;
  out[o + 3] = 0;
  out[o + 4] = 2 * (x * y - z * w) * sy;
  out[o + 5] = (1 - 2 * (x * x + z * z)) * sy;
  out[o + 6] = 2 * (y * z + x * w) * sy;
  out[o + 7] = 0;
  out[o + 8] = 2 * (x * z + y * w) * sz;
  out[o + 9] = 2 * (y * z - x * w) * sz;
  out[o + 10] = (1 - 2 * (x * x + y * y)) * sz;
  out[o + 11] = 0;
  out[o + 12] = t[ti]!;
  out[o + 13] = t[ti + 1]!;
  out[o + 14] = t[ti + 2]!;
  out[o + 15] = 1;
}

/** out = a · b for affine matrices (last row 0 0 0 1). out may be a, not b. */
export function matMultiply(out: Writable, o: Index, a: Numbers, i: Index, b: Numbers, j: Index): void {
  // Read first, so that a may be written over.
  const a0 = a[i]!,
    a1 = a[i + 1]!,
    a2 = a[i + 2]!,
    a4 = a[i + 4]!,
    a5 = a[i + 5]!,
    a6 = a[i + 6]!,
    a8 = a[i + 8]!,
    a9 = a[i + 9]!,
    a10 = a[i + 10]!,
    a12 = a[i + 12]!,
    a13 = a[i + 13]!,
    a14 = a[i + 14]!;
  for (let c = 0; c < 4; c++) {
    const k = o + 4 * c;
    const b0 = b[j + 4 * c]!,
      b1 = b[j + 4 * c + 1]!,
      b2 = b[j + 4 * c + 2]!,
      b3 = c === 3 ? 1 : 0;
    out[k] = a0 * b0 + a4 * b1 + a8 * b2 + a12 * b3;
    out[k + 1] = a1 * b0 + a5 * b1 + a9 * b2 + a13 * b3;
    out[k + 2] = a2 * b0 + a6 * b1 + a10 * b2 + a14 * b3;
    out[k + 3] = b3;
  }
}
