import type { Floats, Index } from '../numbers';

/** Golden section (√5 − 1) / 2, and how often it is cut: to 1e-5 of a segment. */
const GOLDEN: number = 0.6180339887498949;
const SECTIONS: Index = 24;

/** Signed distance of a place to a box with half edges p, q, r, about the origin. */
function boxGap(p: number, q: number, r: number, x: number, y: number, z: number): number {
  const qx = Math.abs(x) - p,
    qy = Math.abs(y) - q,
    qz = Math.abs(z) - r;
  if (qx <= 0 && qy <= 0 && qz <= 0) return Math.max(qx, Math.max(qy, qz));
  const ox = qx > 0 ? qx : 0,
    oy = qy > 0 ? qy : 0,
    oz = qz > 0 ? qz : 0;
  return Math.sqrt(ox * ox + oy * oy + oz * oz);
}

/** The same with the normal: 4 numbers at 1 of `out`. */
function boxDistance(out: Floats, p: number, q: number, r: number, x: number, y: number, z: number): void {
  const qx = Math.abs(x) - p,
    qy = Math.abs(y) - q,
    qz = Math.abs(z) - r;
  const sx: number = x < 0 ? -1 : 1,
    sy: number = y < 0 ? -1 : 1,
    sz: number = z < 0 ? -1 : 1;
  if (qx <= 0 && qy <= 0 && qz <= 0) {
    const face = qx >= qy && qx >= qz ? 0 : qy >= qz ? 1 : 2;
    out[1] = face === 0 ? qx : face === 1 ? qy : qz;
    out[2] = face === 0 ? sx : 0;
    out[3] = face === 1 ? sy : 0;
    out[4] = face === 2 ? sz : 0;
    return;
  }
  const ox = qx > 0 ? qx : 0,
    oy = qy > 0 ? qy : 0,
    oz = qz > 0 ? qz : 0;
  const l = Math.sqrt(ox * ox + oy * oy + oz * oz);
  out[1] = l;
  out[2] = (sx * ox) / l;
  out[3] = (sy * oy) / l;
  out[4] = (sz * oz) / l;
}

/** Golden section: the distance of a segment to a box is convex along it, so this finds the nearest place. */
function alongBox(
  p: number,
  q: number,
  r: number,
  ax: number,
  ay: number,
  az: number,
  dx: number,
  dy: number,
  dz: number,
): number {
  let lo: number = 0;
  let hi: number = 1;
  let s = hi - GOLDEN * (hi - lo);
  let t = lo + GOLDEN * (hi - lo);
  let fs = boxGap(p, q, r, ax + s * dx, ay + s * dy, az + s * dz);
  let ft = boxGap(p, q, r, ax + t * dx, ay + t * dy, az + t * dz);
  for (let k = 0; k < SECTIONS; k++) {
    if (fs <= ft) {
      hi = t;
      t = s;
      ft = fs;
      s = hi - GOLDEN * (hi - lo);
      fs = boxGap(p, q, r, ax + s * dx, ay + s * dy, az + s * dz);
    } else {
      lo = s;
      s = t;
      fs = ft;
      t = lo + GOLDEN * (hi - lo);
      ft = boxGap(p, q, r, ax + t * dx, ay + t * dy, az + t * dz);
    }
  }
  return (lo + hi) / 2;
}

/** Away from the axis point c to p, or any way across `up` when they coincide. */
function away(out: Floats, x: number, y: number, z: number, radius: number): void {
  const l = Math.sqrt(x * x + y * y + z * z);
  out[1] = l - radius;
  if (l > 1e-12) {
    out[2] = x / l;
    out[3] = y / l;
    out[4] = z / l;
  } else {
    out[2] = 1;
    out[3] = 0;
    out[4] = 0;
  }
}

/**
 * The place of segment a–b (6 numbers) nearest to a shape of a kind ({@link SHAPE}; not a mesh) with sizes p, q, r: the
 * share along the segment, the signed distance, and the unit normal from the shape to the segment. For ground it is the
 * end b (the link before has its end at a).
 */
export function nearestTo(out: Floats, kind: Index, p: number, q: number, r: number, segment: Floats): void {
  const ax = segment[0]!,
    ay = segment[1]!,
    az = segment[2]!,
    by = segment[4]!;
  if (kind === 0) {
    out[0] = 1;
    out[1] = by;
    out[2] = 0;
    out[3] = 1;
    out[4] = 0;
    return;
  }
  const dx = segment[3]! - ax,
    dy = by - ay,
    dz = segment[5]! - az;
  if (kind === 3) {
    const t = alongBox(p, q, r, ax, ay, az, dx, dy, dz);
    out[0] = t;
    boxDistance(out, p, q, r, ax + t * dx, ay + t * dy, az + t * dz);
    return;
  }
  const dd = dx * dx + dy * dy + dz * dz;
  // Nearest places of the segment and the axis from (0, −q, 0) to (0, q, 0) (Ericson, Real-Time Collision Detection).
  const e = kind === 2 ? 2 * q : 0;
  let t: number = 0.5;
  let axis: number = 0;
  if (e <= 0) {
    t = dd > 0 ? Math.min(1, Math.max(0, -(ax * dx + ay * dy + az * dz) / dd)) : 0;
  } else {
    const ry = ay + q;
    const b = dy * e;
    const c = ax * dx + ry * dy + az * dz;
    const ff = ry * e;
    const denominator = dd * e * e - b * b;
    if (denominator > 1e-12 * dd * e * e) t = Math.min(1, Math.max(0, (b * ff - c * e * e) / denominator));
    axis = (b * t + ff) / (e * e);
    if (axis < 0 || axis > 1) {
      axis = axis < 0 ? 0 : 1;
      t = dd > 0 ? Math.min(1, Math.max(0, (axis * b - c) / dd)) : 0;
    }
    axis = (axis - 0.5) * e;
  }
  out[0] = t;
  away(out, ax + t * dx, ay + t * dy - axis, az + t * dz, p);
}
