import type { Floats, Index } from '../numbers';

/** a · b of 3 numbers each. */
export function dot3(a: Floats, i: Index, b: Floats, j: Index): number {
  return a[i]! * b[j]! + a[i + 1]! * b[j + 1]! + a[i + 2]! * b[j + 2]!;
}

/** A number of the point inboard of one: none for the first, whose root is at 0. */
export function inboard(list: Floats, at: Index, first: boolean): number {
  return first ? 0 : list[at - 3]!;
}

/** Makes 3 numbers one long. */
export function toUnit(a: Floats, i: Index): void {
  const by = 1 / Math.sqrt(dot3(a, i, a, i));
  a[i] = a[i]! * by;
  a[i + 1] = a[i + 1]! * by;
  a[i + 2] = a[i + 2]! * by;
}

/** The turn of a frame (9 numbers, row by row) on a vector. */
export function turnOut(out: Floats, o: Index, m: Floats, k: Index, a: Floats, i: Index): void {
  const x = a[i]!,
    y = a[i + 1]!,
    z = a[i + 2]!;
  out[o] = m[k]! * x + m[k + 1]! * y + m[k + 2]! * z;
  out[o + 1] = m[k + 3]! * x + m[k + 4]! * y + m[k + 5]! * z;
  out[o + 2] = m[k + 6]! * x + m[k + 7]! * y + m[k + 8]! * z;
}

/** The same the other way round. */
export function turnIn(out: Floats, o: Index, m: Floats, k: Index, x: number, y: number, z: number): void {
  out[o] = m[k]! * x + m[k + 3]! * y + m[k + 6]! * z;
  out[o + 1] = m[k + 1]! * x + m[k + 4]! * y + m[k + 7]! * z;
  out[o + 2] = m[k + 2]! * x + m[k + 5]! * y + m[k + 8]! * z;
}

/** Two unit vectors square to a unit vector and to each other (Duff and others 2017). */
export function basisOf(u: Floats, v: Floats, o: Index, d: Floats): void {
  const x = d[o]!,
    y = d[o + 1]!,
    z = d[o + 2]!;
  const sign: number = z < 0 ? -1 : 1;
  const a = -1 / (sign + z);
  const b = x * y * a;
  u[o] = 1 + sign * x * x * a;
  u[o + 1] = sign * b;
  u[o + 2] = -sign * x;
  v[o] = b;
  v[o + 1] = sign + y * y * a;
  v[o + 2] = -y;
}

/** Writes 3 numbers. */
export function put3(out: Floats, o: Index, x: number, y: number, z: number): void {
  out[o] = x;
  out[o + 1] = y;
  out[o + 2] = z;
}
