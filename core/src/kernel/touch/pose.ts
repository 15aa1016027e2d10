import { matrixOf } from './matrix';
import type { Floats, Index } from '../numbers';

/**
 * Puts `count` places (3 numbers each) of a body's own space where its placement has them in the world. `by` is room
 * for 12 numbers. wasm/pose.as does these two numbers at a time, to the same bits.
 */
export function placeAll(out: Floats, placed: Floats, list: Floats, count: Index, by: Floats): void {
  matrixOf(by, placed);
  for (let o = 0; o < 3 * count; o += 3) {
    const x = list[o]!,
      y = list[o + 1]!,
      z = list[o + 2]!;
    out[o] = by[0]! * x + by[3]! * y + by[6]! * z + by[9]!;
    out[o + 1] = by[1]! * x + by[4]! * y + by[7]! * z + by[10]!;
    out[o + 2] = by[2]! * x + by[5]! * y + by[8]! * z + by[11]!;
  }
}

/** Numbers on the way from a to b. */
export function blendAll(out: Floats, a: Floats, b: Floats, share: number, count: Index): void {
  for (let k = 0; k < count; k++) out[k] = a[k]! + share * (b[k]! - a[k]!);
}
