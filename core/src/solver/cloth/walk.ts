/** Triangles that are walked over at most in one go. */
const FARTHEST = 16;
/** Shares of a triangle's corners below this are on its border. */
const BORDER = 1e-5;

/** The triangle behind each side (from a corner to the next); the triangle itself where there is none. */
function besideOf(corners: Uint32Array, from: Int32Array, about: Int32Array): Int32Array {
  return Int32Array.from(corners, (a, k) => {
    const t = Math.floor(k / 3);
    const b = corners[3 * t + ((k + 1) % 3)]!;
    for (let q = from[a]!; q < from[a + 1]!; q++) {
      const c = 3 * about[q]!;
      if (c !== 3 * t && (corners[c] === b || corners[c + 1] === b || corners[c + 2] === b)) return about[q]!;
    }
    return t;
  });
}

/**
 * Finds the place of a surface nearest to a point by walking over its triangles from one that is near: over sides, and
 * round corners. All places are m. What was found last stays in `u`, `w` and `squared`.
 */
export class Walk {
  /** Shares of the second and third corner at the place found, and its distance squared, m². */
  u = 0;
  w = 0;
  squared = 0;
  private readonly beside: Int32Array;
  /** Triangles about each vertex: where its list begins, and all lists. */
  private readonly from: Int32Array;
  private readonly about: Int32Array;
  /** Sums of the normals of the triangles about each vertex, by area: fresh after {@link sumNormals}. */
  private readonly normals: Float64Array;

  /** `corners` are the vertices of the triangles, 3 each, of `vertices` in all. */
  constructor(
    private readonly corners: Uint32Array,
    vertices: number,
  ) {
    this.from = new Int32Array(vertices + 1);
    for (const v of corners) this.from[v + 1]!++;
    for (let v = 0; v < vertices; v++) this.from[v + 1]! += this.from[v]!;
    this.about = new Int32Array(corners.length);
    const filled = Int32Array.from(this.from);
    corners.forEach((v, k) => (this.about[filled[v]!++] = Math.floor(k / 3)));
    this.beside = besideOf(corners, this.from, this.about);
    this.normals = new Float64Array(3 * vertices);
  }

  /** Takes up the normals of the surface as it stands at `v`. */
  sumNormals(v: Float64Array): void {
    const { corners, normals } = this;
    normals.fill(0);
    const n = faceOf;
    for (let t = 0; t < corners.length; t += 3) {
      faceNormal(n, v, corners[t]!, corners[t + 1]!, corners[t + 2]!);
      for (let k = 0; k < 3; k++) {
        const o = 3 * corners[t + k]!;
        normals[o]! += n[0]!;
        normals[o + 1]! += n[1]!;
        normals[o + 2]! += n[2]!;
      }
    }
  }

  /** A coordinate of the place found on triangle t, with the surface at `v`. */
  placeOn(v: Float64Array, t: number, a: number): number {
    const { corners } = this;
    const p = v[3 * corners[3 * t]! + a]!;
    return (
      p + this.u * (v[3 * corners[3 * t + 1]! + a]! - p) + this.w * (v[3 * corners[3 * t + 2]! + a]! - p)
    );
  }

  /** Unit normal of triangle t into `out`; 0 when it has no area. */
  face(out: Float64Array, v: Float64Array, t: number): void {
    const { corners } = this;
    faceNormal(out, v, corners[3 * t]!, corners[3 * t + 1]!, corners[3 * t + 2]!);
    const l = Math.sqrt(out[0]! * out[0]! + out[1]! * out[1]! + out[2]! * out[2]!) || 1;
    out[0]! /= l;
    out[1]! /= l;
    out[2]! /= l;
  }

  /** Distance of a point from the place found on triangle t: negative behind it. */
  signed(v: Float64Array, t: number, x: number, y: number, z: number): number {
    const { corners, normals, u, w } = this;
    const n = faceOf;
    const first = 1 - u - w;
    if (u < BORDER || w < BORDER || first < BORDER) {
      const [p, q, r] = [3 * corners[3 * t]!, 3 * corners[3 * t + 1]!, 3 * corners[3 * t + 2]!];
      n[0] = first * normals[p]! + u * normals[q]! + w * normals[r]!;
      n[1] = first * normals[p + 1]! + u * normals[q + 1]! + w * normals[r + 1]!;
      n[2] = first * normals[p + 2]! + u * normals[q + 2]! + w * normals[r + 2]!;
    } else faceNormal(n, v, corners[3 * t]!, corners[3 * t + 1]!, corners[3 * t + 2]!);
    const dot =
      (x - this.placeOn(v, t, 0)) * n[0]! +
      (y - this.placeOn(v, t, 1)) * n[1]! +
      (z - this.placeOn(v, t, 2)) * n[2]!;
    return dot >= 0 ? Math.sqrt(this.squared) : -Math.sqrt(this.squared);
  }

  /** Walks from triangle t as near to a point as it comes. Returns the triangle it ends on. */
  go(v: Float64Array, x: number, y: number, z: number, t: number): number {
    const { beside, from, about, corners } = this;
    this.measure(v, x, y, z, t);
    for (let k = 0; k < FARTHEST; k++) {
      const first = 1 - this.u - this.w < BORDER;
      const second = this.u < BORDER;
      const third = this.w < BORDER;
      const on = Number(first) + Number(second) + Number(third);
      if (on === 0) return t;
      let next = t;
      if (on === 2) {
        const vertex = corners[3 * t + (first ? (second ? 2 : 1) : 0)]!;
        for (let q = from[vertex]!; q < from[vertex + 1]!; q++)
          if (about[q] !== t && this.nearer(v, x, y, z, about[q]!)) next = about[q]!;
      } else {
        const other = beside[3 * t + (third ? 0 : first ? 1 : 2)]!;
        if (other !== t && this.nearer(v, x, y, z, other)) next = other;
      }
      if (next === t) return t;
      t = next;
    }
    return t;
  }

  /** Takes up the place on triangle t when it is nearer than the one there is. */
  nearer(v: Float64Array, x: number, y: number, z: number, t: number): boolean {
    const { u, w, squared } = this;
    this.measure(v, x, y, z, t);
    if (this.squared < squared * (1 - 1e-9)) return true;
    this.u = u;
    this.w = w;
    this.squared = squared;
    return false;
  }

  /** The place on triangle t nearest to a point: Ericson, Real-Time Collision Detection. */
  private measure(v: Float64Array, x: number, y: number, z: number, t: number): void {
    const { corners } = this;
    const a = 3 * corners[3 * t]!;
    const b = 3 * corners[3 * t + 1]!;
    const c = 3 * corners[3 * t + 2]!;
    const ax = v[a]!;
    const ay = v[a + 1]!;
    const az = v[a + 2]!;
    const px = v[b]! - ax;
    const py = v[b + 1]! - ay;
    const pz = v[b + 2]! - az;
    const qx = v[c]! - ax;
    const qy = v[c + 1]! - ay;
    const qz = v[c + 2]! - az;
    const dx = x - ax;
    const dy = y - ay;
    const dz = z - az;
    const pp = px * px + py * py + pz * pz;
    const pq = px * qx + py * qy + pz * qz;
    const qq = qx * qx + qy * qy + qz * qz;
    const dp = dx * px + dy * py + dz * pz;
    const dq = dx * qx + dy * qy + dz * qz;
    const area = pp * qq - pq * pq;
    let u = area > 0 ? (dp * qq - dq * pq) / area : -1;
    let w = area > 0 ? (dq * pp - dp * pq) / area : -1;
    if (u < 0 || w < 0 || u + w > 1) {
      // The nearest of the three sides.
      const alongQ = unit(dq, qq);
      const alongP = unit(dp, pp);
      const across = unit(pp - pq + dq - dp, pp - 2 * pq + qq);
      const d2 = dx * dx + dy * dy + dz * dz;
      const onQ = d2 - 2 * alongQ * dq + alongQ * alongQ * qq;
      const onP = d2 - 2 * alongP * dp + alongP * alongP * pp;
      const rest = 1 - across;
      const onC =
        d2 - 2 * (rest * dp + across * dq) + rest * rest * pp + 2 * rest * across * pq + across * across * qq;
      u = onP <= onQ && onP <= onC ? alongP : onQ <= onC ? 0 : rest;
      w = onP <= onQ && onP <= onC ? 0 : onQ <= onC ? alongQ : across;
    }
    const ex = dx - u * px - w * qx;
    const ey = dy - u * py - w * qy;
    const ez = dz - u * pz - w * qz;
    this.u = u;
    this.w = w;
    this.squared = ex * ex + ey * ey + ez * ez;
  }
}

const faceOf = new Float64Array(3);
const unit = (a: number, b: number): number => (b > 0 ? Math.min(1, Math.max(0, a / b)) : 0);

/** (q − p) × (r − p) of three vertices: the normal of their triangle, as long as twice its area. */
function faceNormal(out: Float64Array, v: Float64Array, p: number, q: number, r: number): void {
  const a = 3 * p;
  const b = 3 * q;
  const c = 3 * r;
  const ux = v[b]! - v[a]!;
  const uy = v[b + 1]! - v[a + 1]!;
  const uz = v[b + 2]! - v[a + 2]!;
  const wx = v[c]! - v[a]!;
  const wy = v[c + 1]! - v[a + 1]!;
  const wz = v[c + 2]! - v[a + 2]!;
  out[0] = uy * wz - uz * wy;
  out[1] = uz * wx - ux * wz;
  out[2] = ux * wy - uy * wx;
}
