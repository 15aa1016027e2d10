import { distanceToBox, fitTree, plantTree, type Tree } from './tree';

/** A triangle surface that may change its shape: where it is nearest to a place, and on which side the place lies. */
export interface Surface {
  /** Places of its vertices, m, 3 numbers each; call `refit` after changing them. */
  readonly vertices: Float64Array;
  /** Where they stood at the start of the step. */
  readonly earlier: Float64Array;
  /** Vertices of its triangles, 3 each; those at one place are one. */
  readonly corners: Uint32Array;
  /** Radius about the origin that holds it all, m; fresh after `refit`. */
  bound(): number;
  refit(): void;
  /** Writes signed distance (negative inside) and the unit normal to the place (x, y, z) at `out`. */
  nearest(out: Float64Array, x: number, y: number, z: number): void;
  /** The corners of the triangle nearest to a place, and how much of each the nearest place on it is. */
  foot(x: number, y: number, z: number): { corners: Uint32Array; shares: Float64Array } | null;
}

/** a / b, or 0 for a triangle without an area or a side without a length. */
const share = (a: number, b: number): number => (b !== 0 ? a / b : 0);

/** For each vertex the first that stands at the same place: they are one for the normals. */
function firstAtPlace(vertices: Float64Array): Uint32Array {
  const same = new Uint32Array(vertices.length / 3);
  const seen = new Map<string, number>();
  for (let v = 0; v < same.length; v++) {
    const key = `${Math.fround(vertices[3 * v]!)} ${Math.fround(vertices[3 * v + 1]!)} ${Math.fround(vertices[3 * v + 2]!)}`;
    const first = seen.get(key) ?? v;
    seen.set(key, first);
    same[v] = first;
  }
  return same;
}

class TreeSurface implements Surface {
  readonly earlier: Float64Array;
  readonly corners: Uint32Array;
  private readonly normals: Float64Array;
  private readonly same: Uint32Array;
  private planted: Tree | null = null;
  /** Where its vertices stood at first. */
  private readonly rest: Float64Array;
  private radius = 0;
  private stale = true;
  private readonly stack = new Int32Array(128);
  /** Weights of the three corners at the nearest place of the triangle last looked at. */
  private readonly weights = new Float64Array(3);

  constructor(
    readonly vertices: Float64Array,
    private readonly indices: Uint32Array,
  ) {
    this.normals = new Float64Array(vertices.length);
    this.same = firstAtPlace(vertices);
    this.earlier = Float64Array.from(vertices);
    this.corners = indices.map((v) => this.same[v]!);
    this.rest = Float64Array.from(vertices);
    this.refit();
  }

  /** Planted when something first asks: most surfaces are never asked. */
  private get tree(): Tree {
    return (this.planted ??= plantTree(this.rest, this.indices));
  }

  bound(): number {
    return this.radius;
  }

  refit(): void {
    const { vertices } = this;
    let radius = 0;
    for (let v = 0; v < vertices.length; v += 3) {
      const x = vertices[v]!,
        y = vertices[v + 1]!,
        z = vertices[v + 2]!;
      const far = x * x + y * y + z * z;
      if (far > radius) radius = far;
    }
    this.radius = Math.sqrt(radius);
    this.stale = true;
  }

  /** Normals and boxes are made when something first asks where it is nearest. */
  private freshen(): void {
    if (!this.stale) return;
    this.stale = false;
    this.sumNormals();
    fitTree(this.tree, this.vertices, this.indices);
  }

  private sumNormals(): void {
    const { vertices, indices, normals, same } = this;
    normals.fill(0);
    for (let t = 0; t < indices.length; t += 3) {
      const a = 3 * indices[t]!,
        b = 3 * indices[t + 1]!,
        c = 3 * indices[t + 2]!;
      const ux = vertices[b]! - vertices[a]!,
        uy = vertices[b + 1]! - vertices[a + 1]!,
        uz = vertices[b + 2]! - vertices[a + 2]!;
      const wx = vertices[c]! - vertices[a]!,
        wy = vertices[c + 1]! - vertices[a + 1]!,
        wz = vertices[c + 2]! - vertices[a + 2]!;
      const nx = uy * wz - uz * wy,
        ny = uz * wx - ux * wz,
        nz = ux * wy - uy * wx;
      for (let k = 0; k < 3; k++) {
        const v = 3 * same[indices[t + k]!]!;
        normals[v]! += nx;
        normals[v + 1]! += ny;
        normals[v + 2]! += nz;
      }
    }
  }

  /** Squared distance of a place to a triangle; its nearest place goes to `weights`. */
  private toTriangle(t: number, x: number, y: number, z: number): number {
    const { vertices, indices, weights } = this;
    const a = 3 * indices[3 * t]!,
      b = 3 * indices[3 * t + 1]!,
      c = 3 * indices[3 * t + 2]!;
    const abx = vertices[b]! - vertices[a]!,
      aby = vertices[b + 1]! - vertices[a + 1]!,
      abz = vertices[b + 2]! - vertices[a + 2]!;
    const acx = vertices[c]! - vertices[a]!,
      acy = vertices[c + 1]! - vertices[a + 1]!,
      acz = vertices[c + 2]! - vertices[a + 2]!;
    const apx = x - vertices[a]!,
      apy = y - vertices[a + 1]!,
      apz = z - vertices[a + 2]!;
    const d1 = abx * apx + aby * apy + abz * apz;
    const d2 = acx * apx + acy * apy + acz * apz;
    const ab = abx * abx + aby * aby + abz * abz;
    const ac = acx * acx + acy * acy + acz * acz;
    const cross = abx * acx + aby * acy + abz * acz;
    const d3 = d1 - ab;
    const d4 = d2 - cross;
    const d5 = d1 - cross;
    const d6 = d2 - ac;
    let v = 0;
    let w = 0;
    const va = d3 * d6 - d5 * d4;
    const vb = d5 * d2 - d1 * d6;
    const vc = d1 * d4 - d3 * d2;
    if (d1 <= 0 && d2 <= 0) v = w = 0;
    else if (d3 >= 0 && d4 <= d3) v = 1;
    else if (d6 >= 0 && d5 <= d6) w = 1;
    else if (vc <= 0 && d1 >= 0 && d3 <= 0) v = share(d1, d1 - d3);
    else if (vb <= 0 && d2 >= 0 && d6 <= 0) w = share(d2, d2 - d6);
    else if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
      w = share(d4 - d3, d4 - d3 + (d5 - d6));
      v = 1 - w;
    } else {
      const sum = va + vb + vc;
      v = share(vb, sum);
      w = share(vc, sum);
    }
    weights[0] = 1 - v - w;
    weights[1] = v;
    weights[2] = w;
    const ex = apx - v * abx - w * acx,
      ey = apy - v * aby - w * acy,
      ez = apz - v * abz - w * acz;
    return ex * ex + ey * ey + ez * ez;
  }

  nearest(out: Float64Array, x: number, y: number, z: number): void {
    this.freshen();
    const found = this.nearestTriangle(x, y, z);
    if (found >= 0) this.writePlace(out, found, x, y, z);
    else {
      out[0] = Infinity;
      out[1] = 0;
      out[2] = 1;
      out[3] = 0;
    }
  }

  foot(x: number, y: number, z: number): { corners: Uint32Array; shares: Float64Array } | null {
    this.freshen();
    const found = this.nearestTriangle(x, y, z);
    if (found < 0) return null;
    this.toTriangle(found, x, y, z);
    return { corners: this.indices.subarray(3 * found, 3 * found + 3), shares: this.weights };
  }

  /** The triangle nearest to a place; −1 when there is none. */
  private nearestTriangle(x: number, y: number, z: number): number {
    const { stack } = this;
    const { order, firsts, counts, box } = this.tree;
    let best = Infinity;
    let found = -1;
    let top = 0;
    if (firsts.length > 0) stack[top++] = 0;
    while (top > 0) {
      const n = stack[--top]!;
      if (distanceToBox(box, n, x, y, z) >= best) continue;
      if (counts[n]! > 0) {
        for (let k = firsts[n]!; k < firsts[n]! + counts[n]!; k++) {
          const d = this.toTriangle(order[k]!, x, y, z);
          if (d >= best) continue;
          best = d;
          found = order[k]!;
        }
        continue;
      }
      // The nearer child last, so that it is looked at first.
      const [p, q] = [n + 1, firsts[n]!];
      const first = distanceToBox(box, p, x, y, z) <= distanceToBox(box, q, x, y, z);
      stack[top++] = first ? q : p;
      stack[top++] = first ? p : q;
    }
    return found;
  }

  /** Signed distance and normal of a place, from the triangle nearest to it. */
  private writePlace(out: Float64Array, found: number, x: number, y: number, z: number): void {
    const { vertices, indices, normals, same, weights } = this;
    this.toTriangle(found, x, y, z);
    let px = 0,
      py = 0,
      pz = 0,
      nx = 0,
      ny = 0,
      nz = 0;
    for (let e = 0; e < 3; e++) {
      const i = indices[3 * found + e]!;
      const w = weights[e]!;
      px += w * vertices[3 * i]!;
      py += w * vertices[3 * i + 1]!;
      pz += w * vertices[3 * i + 2]!;
      const s = 3 * same[i]!;
      nx += w * normals[s]!;
      ny += w * normals[s + 1]!;
      nz += w * normals[s + 2]!;
    }
    const dx = x - px,
      dy = y - py,
      dz = z - pz;
    const l = Math.sqrt(dx * dx + dy * dy + dz * dz);
    const nl = Math.sqrt(nx * nx + ny * ny + nz * nz) || 1;
    const outside = dx * nx + dy * ny + dz * nz >= 0;
    const sign = outside ? 1 : -1;
    out[0] = sign * l;
    // On the surface itself its own normal; away from it the way to the place.
    const far = l > 1e-9;
    out[1] = far ? (sign * dx) / l : nx / nl;
    out[2] = far ? (sign * dy) / l : ny / nl;
    out[3] = far ? (sign * dz) / l : nz / nl;
  }
}

/**
 * Builds a surface from triangles (indices of vertices, counter-clockwise seen from outside) whose vertices stand at
 * `vertices`. Nearest triangle by a tree of boxes, split once at medians and refitted when vertices move; the side by
 * the normal of the surface at the nearest place, which is blended from its vertices' (those at one place share it), so
 * that it is right at edges and corners of what is closed and smooth. Nearest place on a triangle: Ericson, Real-Time
 * Collision Detection.
 */
export const makeSurface = (vertices: Float64Array, indices: Uint32Array): Surface =>
  new TreeSurface(vertices, indices);
