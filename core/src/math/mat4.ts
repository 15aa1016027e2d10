import { matCompose, matMultiply } from '../kernel/matrix';
import { quatNormalise } from './quat';

export { matCompose, matMultiply };

/** 4×4 matrices, column-major as in glTF 2.0, in flat arrays with offsets. */
type Floats = Float64Array | Float32Array | number[];

/** Determinant of the upper-left 3×3. */
export function matDeterminant3(m: ArrayLike<number>, i: number): number {
  return (
    m[i]! * (m[i + 5]! * m[i + 10]! - m[i + 9]! * m[i + 6]!) -
    m[i + 4]! * (m[i + 1]! * m[i + 10]! - m[i + 9]! * m[i + 2]!) +
    m[i + 8]! * (m[i + 1]! * m[i + 6]! - m[i + 5]! * m[i + 2]!)
  );
}

/** out = inverse of the affine matrix m; false (and out untouched) when it is singular. */
export function matInvert(out: Floats, o: number, m: ArrayLike<number>, i: number): boolean {
  const det = matDeterminant3(m, i);
  if (!(Math.abs(det) > 1e-30) || !Number.isFinite(det)) return false;
  const d = 1 / det;
  const a = m[i]!,
    b = m[i + 4]!,
    c = m[i + 8]!,
    e = m[i + 1]!,
    f = m[i + 5]!,
    g = m[i + 9]!,
    h = m[i + 2]!,
    k = m[i + 6]!,
    l = m[i + 10]!;
  const tx = m[i + 12]!,
    ty = m[i + 13]!,
    tz = m[i + 14]!;
  const r00 = (f * l - g * k) * d,
    r01 = (c * k - b * l) * d,
    r02 = (b * g - c * f) * d;
  const r10 = (g * h - e * l) * d,
    r11 = (a * l - c * h) * d,
    r12 = (c * e - a * g) * d;
  const r20 = (e * k - f * h) * d,
    r21 = (b * h - a * k) * d,
    r22 = (a * f - b * e) * d;
  out[o] = r00;
  out[o + 1] = r10;
  out[o + 2] = r20;
  out[o + 3] = 0;
  out[o + 4] = r01;
  out[o + 5] = r11;
  out[o + 6] = r21;
  out[o + 7] = 0;
  out[o + 8] = r02;
  out[o + 9] = r12;
  out[o + 10] = r22;
  out[o + 11] = 0;
  out[o + 12] = -(r00 * tx + r01 * ty + r02 * tz);
  out[o + 13] = -(r10 * tx + r11 * ty + r12 * tz);
  out[o + 14] = -(r20 * tx + r21 * ty + r22 * tz);
  out[o + 15] = 1;
  return true;
}

/**
 * Rotation of a 3×3 given by its three columns (need not be exactly orthonormal), as a unit quaternion. Shepperd's
 * method.
 */
function quatFromColumns(out: Floats, o: number, c: readonly number[]): void {
  const [m00, m10, m20, m01, m11, m21, m02, m12, m22] = c as [
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  const trace = m00 + m11 + m22;
  if (trace > 0) {
    const s = 2 * Math.sqrt(trace + 1);
    out[o] = (m21 - m12) / s;
    out[o + 1] = (m02 - m20) / s;
    out[o + 2] = (m10 - m01) / s;
    out[o + 3] = s / 4;
  } else if (m00 > m11 && m00 > m22) {
    const s = 2 * Math.sqrt(1 + m00 - m11 - m22);
    out[o] = s / 4;
    out[o + 1] = (m01 + m10) / s;
    out[o + 2] = (m02 + m20) / s;
    out[o + 3] = (m21 - m12) / s;
  } else if (m11 > m22) {
    const s = 2 * Math.sqrt(1 + m11 - m00 - m22);
    out[o] = (m01 + m10) / s;
    out[o + 1] = s / 4;
    out[o + 2] = (m12 + m21) / s;
    out[o + 3] = (m02 - m20) / s;
  } else {
    const s = 2 * Math.sqrt(1 + m22 - m00 - m11);
    out[o] = (m02 + m20) / s;
    out[o + 1] = (m12 + m21) / s;
    out[o + 2] = s / 4;
    out[o + 3] = (m10 - m01) / s;
  }
  quatNormalise(out, o);
}

/**
 * Splits an affine matrix into translation, rotation and scale (a mirrored matrix gets a negative x scale).
 * Returns the largest cosine between two columns: above about 1e-4 the matrix shears and the split is not exact.
 */
export function matDecompose(m: ArrayLike<number>, i: number, t: Floats, q: Floats, s: Floats): number {
  const len = (k: number) =>
    Math.sqrt(m[i + k]! * m[i + k]! + m[i + k + 1]! * m[i + k + 1]! + m[i + k + 2]! * m[i + k + 2]!);
  let sx = len(0);
  const sy = len(4);
  const sz = len(8);
  if (matDeterminant3(m, i) < 0) sx = -sx;
  const cols: number[] = [];
  for (const [k, l] of [
    [0, sx],
    [4, sy],
    [8, sz],
  ] as const) {
    for (let r = 0; r < 3; r++) cols.push(l === 0 ? (r === k / 4 ? 1 : 0) : m[i + k + r]! / l);
  }
  const dot = (a: number, b: number) =>
    Math.abs(cols[a]! * cols[b]! + cols[a + 1]! * cols[b + 1]! + cols[a + 2]! * cols[b + 2]!);
  quatFromColumns(q, 0, cols);
  for (let r = 0; r < 3; r++) t[r] = m[i + 12 + r]!;
  s[0] = sx;
  s[1] = sy;
  s[2] = sz;
  return Math.max(dot(0, 3), dot(0, 6), dot(3, 6));
}

/** Rotation part of an affine matrix after removing scale, as a unit quaternion (shear is ignored). */
export function matRotation(out: Floats, o: number, m: ArrayLike<number>, i: number): void {
  const t = [0, 0, 0],
    s = [1, 1, 1],
    q = [0, 0, 0, 1];
  matDecompose(m, i, t, q, s);
  for (let k = 0; k < 4; k++) out[o + k] = q[k]!;
}
