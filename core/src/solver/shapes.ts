import type { Surface } from './surface';

/**
 * Distance from a segment to a shape that stands about its own origin: the geometry of contact. Distances are signed:
 * negative inside. All in m, in the shape's own space.
 */
export type Shape =
  | { readonly kind: 'sphere'; readonly radius: number }
  | { readonly kind: 'capsule'; readonly radius: number; readonly half: number }
  | { readonly kind: 'box'; readonly half: readonly [number, number, number] }
  | { readonly kind: 'ground' }
  | { readonly kind: 'mesh'; readonly surface: Surface };

/** Result of {@link nearestOnSegment}: share along the segment, distance, unit normal from the shape to the segment. */
export const NEAREST = { along: 0, distance: 1, normal: 2 } as const;

/** Radius about the shape's origin that holds all of it; Infinity for ground. */
export function boundOf(shape: Shape): number {
  if (shape.kind === 'sphere') return shape.radius;
  if (shape.kind === 'capsule') return shape.radius + shape.half;
  if (shape.kind === 'box') {
    const [x, y, z] = shape.half;
    return Math.sqrt(x * x + y * y + z * z);
  }
  return shape.kind === 'mesh' ? shape.surface.bound() : Infinity;
}

const point = new Float64Array(4);

/** Signed distance and normal (4 numbers at `out`) of a place to a box with half edges h, about the origin. */
function boxDistance(
  out: Float64Array,
  h: readonly [number, number, number],
  x: number,
  y: number,
  z: number,
): void {
  const qx = Math.abs(x) - h[0],
    qy = Math.abs(y) - h[1],
    qz = Math.abs(z) - h[2];
  const sx = x < 0 ? -1 : 1,
    sy = y < 0 ? -1 : 1,
    sz = z < 0 ? -1 : 1;
  if (qx <= 0 && qy <= 0 && qz <= 0) {
    const face = qx >= qy && qx >= qz ? 0 : qy >= qz ? 1 : 2;
    out[0] = face === 0 ? qx : face === 1 ? qy : qz;
    out[1] = face === 0 ? sx : 0;
    out[2] = face === 1 ? sy : 0;
    out[3] = face === 2 ? sz : 0;
    return;
  }
  const ox = qx > 0 ? qx : 0,
    oy = qy > 0 ? qy : 0,
    oz = qz > 0 ? qz : 0;
  const l = Math.sqrt(ox * ox + oy * oy + oz * oz);
  out[0] = l;
  out[1] = (sx * ox) / l;
  out[2] = (sy * oy) / l;
  out[3] = (sz * oz) / l;
}

/** Golden section: the distance of a segment to a box is convex along it, so this finds the nearest place. */
const GOLDEN = 0.6180339887498949;
const SECTIONS = 24;

function alongBox(
  h: readonly [number, number, number],
  ax: number,
  ay: number,
  az: number,
  dx: number,
  dy: number,
  dz: number,
): number {
  let lo = 0;
  let hi = 1;
  const at = (t: number) => {
    boxDistance(point, h, ax + t * dx, ay + t * dy, az + t * dz);
    return point[0]!;
  };
  let p = hi - GOLDEN * (hi - lo);
  let q = lo + GOLDEN * (hi - lo);
  let fp = at(p);
  let fq = at(q);
  for (let k = 0; k < SECTIONS; k++) {
    if (fp <= fq) {
      hi = q;
      q = p;
      fq = fp;
      p = hi - GOLDEN * (hi - lo);
      fp = at(p);
    } else {
      lo = p;
      p = q;
      fp = fq;
      q = lo + GOLDEN * (hi - lo);
      fq = at(q);
    }
  }
  return (lo + hi) / 2;
}

/** Away from the axis point c to p, or any way across `up` when they coincide. */
function away(out: Float64Array, x: number, y: number, z: number, radius: number): void {
  const l = Math.sqrt(x * x + y * y + z * z);
  out[NEAREST.distance] = l - radius;
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
 * The place of segment a–b (6 numbers) nearest to the shape; see {@link NEAREST}. For ground it is the end b (the link before has its
 * end at a), for a mesh the best of three places.
 */
export function nearestOnSegment(out: Float64Array, shape: Shape, segment: Float64Array): void {
  const ax = segment[0]!,
    ay = segment[1]!,
    az = segment[2]!,
    by = segment[4]!;
  const dx = segment[3]! - ax,
    dy = by - ay,
    dz = segment[5]! - az;
  const dd = dx * dx + dy * dy + dz * dz;
  if (shape.kind === 'ground') {
    out[0] = 1;
    out[1] = by;
    out[2] = 0;
    out[3] = 1;
    out[4] = 0;
    return;
  }
  if (shape.kind === 'sphere') {
    const t = dd > 0 ? Math.min(1, Math.max(0, -(ax * dx + ay * dy + az * dz) / dd)) : 0;
    out[0] = t;
    away(out, ax + t * dx, ay + t * dy, az + t * dz, shape.radius);
    return;
  }
  if (shape.kind === 'capsule') {
    // Nearest places of the segment and the axis from (0, −half, 0) to (0, half, 0) (Ericson, Real-Time Collision Detection).
    const e = 2 * shape.half;
    let t: number;
    let axis: number;
    if (e <= 0) {
      t = dd > 0 ? Math.min(1, Math.max(0, -(ax * dx + ay * dy + az * dz) / dd)) : 0;
      axis = 0;
    } else {
      const ry = ay + shape.half;
      const b = dy * e;
      const c = ax * dx + ry * dy + az * dz;
      const ff = ry * e;
      const denominator = dd * e * e - b * b;
      t =
        denominator > 1e-12 * dd * e * e ? Math.min(1, Math.max(0, (b * ff - c * e * e) / denominator)) : 0.5;
      axis = (b * t + ff) / (e * e);
      if (axis < 0 || axis > 1) {
        axis = axis < 0 ? 0 : 1;
        t = dd > 0 ? Math.min(1, Math.max(0, (axis * b - c) / dd)) : 0;
      }
      axis = (axis - 0.5) * e;
    }
    out[0] = t;
    away(out, ax + t * dx, ay + t * dy - axis, az + t * dz, shape.radius);
    return;
  }
  if (shape.kind === 'mesh') {
    // Three places along the link: where it ends, and two between.
    let best = Infinity;
    for (let k = 1; k <= 3; k++) {
      const t = k / 3;
      shape.surface.nearest(point, ax + t * dx, ay + t * dy, az + t * dz);
      if (point[0]! >= best) continue;
      best = point[0]!;
      out[0] = t;
      out[1] = best;
      out[2] = point[1]!;
      out[3] = point[2]!;
      out[4] = point[3]!;
    }
    return;
  }
  const t = alongBox(shape.half, ax, ay, az, dx, dy, dz);
  boxDistance(point, shape.half, ax + t * dx, ay + t * dy, az + t * dz);
  out[0] = t;
  out[1] = point[0]!;
  out[2] = point[1]!;
  out[3] = point[2]!;
  out[4] = point[3]!;
}
