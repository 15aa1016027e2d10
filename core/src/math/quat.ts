import { quatBetween, quatMultiply, quatRotate } from '../kernel/turn';
import { acos, atan2, cos, sin } from './trig';

export { quatBetween, quatMultiply, quatRotate };

/** Quaternions as (x, y, z, w) in flat arrays; every kernel takes offsets and writes into its first argument. */
type Floats = Float64Array | Float32Array | number[];

/** out = conjugate of a (its inverse when it is a unit). */
export function quatConjugate(out: Floats, o: number, a: ArrayLike<number>, i: number): void {
  out[o] = -a[i]!;
  out[o + 1] = -a[i + 1]!;
  out[o + 2] = -a[i + 2]!;
  out[o + 3] = a[i + 3]!;
}

/** Normalises in place; a zero quaternion becomes the identity. */
export function quatNormalise(q: Floats, o: number): void {
  const x = q[o]!,
    y = q[o + 1]!,
    z = q[o + 2]!,
    w = q[o + 3]!;
  const n = Math.sqrt(x * x + y * y + z * z + w * w);
  if (n > 1e-300) {
    q[o] = x / n;
    q[o + 1] = y / n;
    q[o + 2] = z / n;
    q[o + 3] = w / n;
  } else {
    q[o] = 0;
    q[o + 1] = 0;
    q[o + 2] = 0;
    q[o + 3] = 1;
  }
}

/** Spherical interpolation along the shorter arc; t in [0, 1]. out may be a or b. */
export function quatSlerp(
  out: Floats,
  o: number,
  a: ArrayLike<number>,
  i: number,
  b: ArrayLike<number>,
  j: number,
  t: number,
): void {
  let d = a[i]! * b[j]! + a[i + 1]! * b[j + 1]! + a[i + 2]! * b[j + 2]! + a[i + 3]! * b[j + 3]!;
  let sign = 1;
  if (d < 0) {
    d = -d;
    sign = -1;
  }
  let wa = 1 - t;
  let wb = t;
  if (d < 0.9995) {
    const angle = acos(d);
    const s = sin(angle);
    wa = sin((1 - t) * angle) / s;
    wb = sin(t * angle) / s;
  }
  wb *= sign;
  for (let k = 0; k < 4; k++) out[o + k] = wa * a[i + k]! + wb * b[j + k]!;
  quatNormalise(out, o);
}

/** Rotation of `angle` radians about the unit axis (x, y, z). */
export function quatFromAxis(out: Floats, o: number, x: number, y: number, z: number, angle: number): void {
  const s = sin(angle / 2);
  out[o] = x * s;
  out[o + 1] = y * s;
  out[o + 2] = z * s;
  out[o + 3] = cos(angle / 2);
}

/** Angle in radians, 0..π, between two unit quaternions seen as rotations. */
export function quatAngle(a: ArrayLike<number>, i: number, b: ArrayLike<number>, j: number): number {
  const d = Math.abs(a[i]! * b[j]! + a[i + 1]! * b[j + 1]! + a[i + 2]! * b[j + 2]! + a[i + 3]! * b[j + 3]!);
  return 2 * acos(d);
}

/** A turn `s` times over, along the shorter arc; `s` may be negative or above 1. out may be a. */
export function quatPower(out: Floats, o: number, a: ArrayLike<number>, i: number, s: number): void {
  const sign = a[i + 3]! < 0 ? -1 : 1;
  const [x, y, z, w] = [sign * a[i]!, sign * a[i + 1]!, sign * a[i + 2]!, sign * a[i + 3]!];
  const l = Math.sqrt(x * x + y * y + z * z);
  const half = s * atan2(l, w);
  const by = l > 1e-12 ? sin(half) / l : s;
  out[o] = by * x;
  out[o + 1] = by * y;
  out[o + 2] = by * z;
  out[o + 3] = cos(half);
  quatNormalise(out, o);
}
