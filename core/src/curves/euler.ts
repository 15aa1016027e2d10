import { atan2, cos, quatConjugate, quatMultiply, quatNormalise, sin } from '../math/index';

type Floats = Float64Array | number[];

const DEGREES = 180 / Math.PI;
/** So near to a right angle y is that x and z turn about the same axis; rad. */
const LOCK = 1e-4;

/**
 * Euler angles of a turn from a rest pose, degrees: about x, then about the turned y, then about the z turned by both
 * (intrinsic x-y′-z″). Of the angles that say the same, those nearest to `near`, so that a row of them has no jumps.
 */
export function eulerFrom(
  out: Floats,
  rest: ArrayLike<number>,
  q: ArrayLike<number>,
  i: number,
  near: ArrayLike<number>,
): void {
  quatConjugate(turn, 0, rest, 0);
  quatMultiply(turn, 0, turn, 0, q, i);
  const [x, y, z, w] = turn as unknown as [number, number, number, number];
  const across = Math.max(-1, Math.min(1, 2 * (x * z + y * w)));
  const level = Math.sqrt(1 - across * across);
  const ay = atan2(across, level);
  let ax: number;
  let az: number;
  if (level > LOCK) {
    ax = atan2(2 * (x * w - y * z), 1 - 2 * (x * x + y * y));
    az = atan2(2 * (z * w - x * y), 1 - 2 * (y * y + z * z));
  } else {
    // Only their sum or difference counts: x stays where it was.
    ax = near[0]! / DEGREES;
    const both = atan2(2 * (x * y + z * w), 1 - 2 * (x * x + z * z));
    az = across > 0 ? both - ax : both + ax;
  }
  const [a, b, c] = [ax * DEGREES, ay * DEGREES, az * DEGREES];
  // The other way to say the same turns y past the right angle.
  const own = away(a, near[0]!) + away(b, near[1]!) + away(c, near[2]!);
  // The two are 360° apart in all, so that the second need not be looked at when the first is near.
  const other =
    own < 180 ? Infinity : away(a + 180, near[0]!) + away(180 - b, near[1]!) + away(c + 180, near[2]!);
  const swap = other < own - 1e-9;
  out[0] = nearest(swap ? a + 180 : a, near[0]!);
  out[1] = nearest(swap ? 180 - b : b, near[1]!);
  out[2] = nearest(swap ? c + 180 : c, near[2]!);
}

/** The angle that says the same as `a` and is nearest to `near`, degrees. */
const nearest = (a: number, near: number): number => a + 360 * Math.round((near - a) / 360);
const away = (a: number, near: number): number => Math.abs(nearest(a, near) - near);

/** The turn that Euler angles (degrees, as {@link eulerFrom} reads them) from a rest pose make. */
export function eulerTo(out: Floats, o: number, rest: ArrayLike<number>, angles: ArrayLike<number>): void {
  const [x, y, z] = [angles[0]! / 2 / DEGREES, angles[1]! / 2 / DEGREES, angles[2]! / 2 / DEGREES];
  const [sx, sy, sz] = [sin(x), sin(y), sin(z)];
  const [cx, cy, cz] = [cos(x), cos(y), cos(z)];
  turn[0] = sx * cy * cz + cx * sy * sz;
  turn[1] = cx * sy * cz - sx * cy * sz;
  turn[2] = cx * cy * sz + sx * sy * cz;
  turn[3] = cx * cy * cz - sx * sy * sz;
  quatMultiply(out, o, rest, 0, turn, 0);
  quatNormalise(out, o);
}

const turn = new Float64Array(4);
