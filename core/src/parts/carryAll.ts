import { quatRotate } from '../math/index';

/** Carries places (m) and speeds, 3 numbers each, by a rigid travel: place and turn, 7 numbers. */
export function carryAll(
  places: readonly Float64Array[],
  speeds: readonly Float64Array[],
  by: Float64Array,
): void {
  for (const list of places)
    for (let o = 0; o < list.length; o += 3) {
      quatRotate(list, o, by, 3, list, o);
      for (let a = 0; a < 3; a++) list[o + a]! += by[a]!;
    }
  for (const list of speeds) for (let o = 0; o < list.length; o += 3) quatRotate(list, o, by, 3, list, o);
}
