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
  let best = Infinity;
  // The other way to say the same turns y past the right angle.
  for (const [ex, ey, ez] of [
    [ax, ay, az],
    [ax + Math.PI, Math.PI - ay, az + Math.PI],
  ] as const) {
    const a = [ex, ey, ez].map((e, k) => {
      const d = e * DEGREES;
      return d + 360 * Math.round((near[k]! - d) / 360);
    });
    const off = a.reduce((s, e, k) => s + Math.abs(e - near[k]!), 0);
    if (off < best - 1e-9) {
      best = off;
      for (let k = 0; k < 3; k++) out[k] = a[k]!;
    }
  }
}

/** The turn that Euler angles (degrees, as {@link eulerFrom} reads them) from a rest pose make. */
export function eulerTo(out: Floats, o: number, rest: ArrayLike<number>, angles: ArrayLike<number>): void {
  const [sx, sy, sz] = [0, 1, 2].map((k) => sin(angles[k]! / 2 / DEGREES)) as [number, number, number];
  const [cx, cy, cz] = [0, 1, 2].map((k) => cos(angles[k]! / 2 / DEGREES)) as [number, number, number];
  turn[0] = sx * cy * cz + cx * sy * sz;
  turn[1] = cx * sy * cz - sx * cy * sz;
  turn[2] = cx * cy * sz + sx * sy * cz;
  turn[3] = cx * cy * cz - sx * sy * sz;
  quatMultiply(out, o, rest, 0, turn, 0);
  quatNormalise(out, o);
}

const turn = new Float64Array(4);
