import type { Index, Numbers, Writable } from './numbers';

/** out = a · b (apply b first). out may be a or b. */
export function quatMultiply(out: Writable, o: Index, a: Numbers, i: Index, b: Numbers, j: Index): void {
  const ax = a[i]!,
    ay = a[i + 1]!,
    az = a[i + 2]!,
    aw = a[i + 3]!;
  const bx = b[j]!,
    by = b[j + 1]!,
    bz = b[j + 2]!,
    bw = b[j + 3]!;
  out[o] = aw * bx + ax * bw + ay * bz - az * by;
  out[o + 1] = aw * by - ax * bz + ay * bw + az * bx;
  out[o + 2] = aw * bz + ax * by - ay * bx + az * bw;
  out[o + 3] = aw * bw - ax * bx - ay * by - az * bz;
}

/** out = q v q⁻¹ for a unit q. out may be v. */
export function quatRotate(out: Writable, o: Index, q: Numbers, i: Index, v: Numbers, j: Index): void {
  const x = q[i]!,
    y = q[i + 1]!,
    z = q[i + 2]!,
    w = q[i + 3]!;
  const vx = v[j]!,
    vy = v[j + 1]!,
    vz = v[j + 2]!;
  const tx = 2 * (y * vz - z * vy),
    ty = 2 * (z * vx - x * vz),
    tz = 2 * (x * vy - y * vx);
  out[o] = vx + w * tx + y * tz - z * ty;
  out[o + 1] = vy + w * ty + z * tx - x * tz;
  out[o + 2] = vz + w * tz + x * ty - y * tx;
}

/**
 * The smallest rotation that takes unit vector a to unit vector b. When they are opposite the turn is half a
 * circle about (fx, fy, fz) made perpendicular to a, so that the caller can keep it continuous.
 */
export function quatBetween(
  out: Writable,
  o: Index,
  ax: number,
  ay: number,
  az: number,
  bx: number,
  by: number,
  bz: number,
  fx: number = 0,
  fy: number = 0,
  fz: number = 0,
): void {
  const w = 1 + ax * bx + ay * by + az * bz;
  if (w > 1e-9) {
    const x = ay * bz - az * by,
      y = az * bx - ax * bz,
      z = ax * by - ay * bx;
    const n = Math.sqrt(x * x + y * y + z * z + w * w);
    out[o] = x / n;
    out[o + 1] = y / n;
    out[o + 2] = z / n;
    out[o + 3] = w / n;
    return;
  }
  const d = fx * ax + fy * ay + fz * az;
  let px = fx - d * ax,
    py = fy - d * ay,
    pz = fz - d * az;
  let n = Math.sqrt(px * px + py * py + pz * pz);
  if (n < 1e-6) {
    // No useful hint: cross with the axis a is least along.
    const useX = Math.abs(ax) <= Math.abs(ay) && Math.abs(ax) <= Math.abs(az);
    const useY = !useX && Math.abs(ay) <= Math.abs(az);
    const ux = useX ? 1 : 0,
      uy = useY ? 1 : 0,
      uz = useX || useY ? 0 : 1;
    px = ay * uz - az * uy;
    py = az * ux - ax * uz;
    pz = ax * uy - ay * ux;
    n = Math.sqrt(px * px + py * py + pz * pz);
  }
  out[o] = px / n;
  out[o + 1] = py / n;
  out[o + 2] = pz / n;
  out[o + 3] = 0;
}
