import type { Floats, Index } from '../numbers';

/**
 * A place of the world in the space of a placement (7 numbers: place, turn): from `list` at `j` to `out` at `o`, by the
 * placement at `i`.
 */
export function pointToBody(out: Floats, o: Index, placed: Floats, i: Index, list: Floats, j: Index): void {
  const x = -placed[i + 3]!,
    y = -placed[i + 4]!,
    z = -placed[i + 5]!,
    w = placed[i + 6]!;
  const vx = list[j]! - placed[i]!,
    vy = list[j + 1]! - placed[i + 1]!,
    vz = list[j + 2]! - placed[i + 2]!;
  const tx = 2 * (y * vz - z * vy),
    ty = 2 * (z * vx - x * vz),
    tz = 2 * (x * vy - y * vx);
  out[o] = vx + w * tx + y * tz - z * ty;
  out[o + 1] = vy + w * ty + z * tx - x * tz;
  out[o + 2] = vz + w * tz + x * ty - y * tx;
}

/** The same the other way: a place in the space of a placement, in the world. */
export function pointToWorld(out: Floats, o: Index, placed: Floats, i: Index, list: Floats, j: Index): void {
  const x = placed[i + 3]!,
    y = placed[i + 4]!,
    z = placed[i + 5]!,
    w = placed[i + 6]!;
  const vx = list[j]!,
    vy = list[j + 1]!,
    vz = list[j + 2]!;
  const tx = 2 * (y * vz - z * vy),
    ty = 2 * (z * vx - x * vz),
    tz = 2 * (x * vy - y * vx);
  out[o] = vx + w * tx + y * tz - z * ty + placed[i]!;
  out[o + 1] = vy + w * ty + z * tx - x * tz + placed[i + 1]!;
  out[o + 2] = vz + w * tz + x * ty - y * tx + placed[i + 2]!;
}
