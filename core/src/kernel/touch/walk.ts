import { int } from '../numbers';
import { SheetBody } from './fields';
import type { Floats, Index } from '../numbers';

/** Triangles that are walked over at most in one go. */
const FARTHEST: Index = 16;
/** Shares of a triangle's corners below this are on its border. */
const BORDER: number = 1e-5;

/** a / b, or 0 for a triangle without an area or a side without a length. */
function share(a: number, b: number): number {
  return b !== 0 ? a / b : 0;
}

/**
 * The place of triangle t nearest to a point (Ericson, Real-Time Collision Detection), with the vertices at `v`: its
 * shares and its distance squared stay in the body.
 */
export function measure(body: SheetBody, v: Floats, x: number, y: number, z: number, t: Index): void {
  const { corners } = body;
  const a = 3 * corners[3 * t]!,
    b = 3 * corners[3 * t + 1]!,
    c = 3 * corners[3 * t + 2]!;
  const ax = v[a]!,
    ay = v[a + 1]!,
    az = v[a + 2]!;
  const px = v[b]! - ax,
    py = v[b + 1]! - ay,
    pz = v[b + 2]! - az;
  const qx = v[c]! - ax,
    qy = v[c + 1]! - ay,
    qz = v[c + 2]! - az;
  const dx = x - ax,
    dy = y - ay,
    dz = z - az;
  const d1 = px * dx + py * dy + pz * dz,
    d2 = qx * dx + qy * dy + qz * dz;
  const pq = px * qx + py * qy + pz * qz;
  const d3 = d1 - (px * px + py * py + pz * pz),
    d4 = d2 - pq,
    d5 = d1 - pq,
    d6 = d2 - (qx * qx + qy * qy + qz * qz);
  const va = d3 * d6 - d5 * d4,
    vb = d5 * d2 - d1 * d6,
    vc = d1 * d4 - d3 * d2;
  let u: number = 0,
    w: number = 0;
  if (d1 <= 0 && d2 <= 0) u = 0;
  else if (d3 >= 0 && d4 <= d3) u = 1;
  else if (d6 >= 0 && d5 <= d6) w = 1;
  else if (vc <= 0 && d1 >= 0 && d3 <= 0) u = share(d1, d1 - d3);
  else if (vb <= 0 && d2 >= 0 && d6 <= 0) w = share(d2, d2 - d6);
  else if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
    w = share(d4 - d3, d4 - d3 + (d5 - d6));
    u = 1 - w;
  } else {
    const over = share(1, va + vb + vc);
    u = vb * over;
    w = vc * over;
  }
  const ex = dx - u * px - w * qx,
    ey = dy - u * py - w * qy,
    ez = dz - u * pz - w * qz;
  body.second = u;
  body.third = w;
  body.squared = ex * ex + ey * ey + ez * ez;
}

/** Takes up the place on triangle t when it is nearer than the one there is. */
export function nearer(body: SheetBody, v: Floats, x: number, y: number, z: number, t: Index): boolean {
  const { second, third, squared } = body;
  measure(body, v, x, y, z, t);
  if (body.squared < squared * (1 - 1e-9)) return true;
  body.second = second;
  body.third = third;
  body.squared = squared;
  return false;
}

/** Walks from triangle t as near to a point as it comes: over sides, and round corners. Returns where it ends. */
export function walkTo(body: SheetBody, v: Floats, x: number, y: number, z: number, t: Index): Index {
  measure(body, v, x, y, z, t);
  for (let k = 0; k < FARTHEST; k++) {
    const next = stepOn(body, v, x, y, z, t);
    if (next === t) return t;
    t = next;
  }
  return t;
}

/** One step of the walk; the triangle itself when none beside it is nearer. */
function stepOn(body: SheetBody, v: Floats, x: number, y: number, z: number, t: Index): Index {
  const { corners, about, aboutFrom } = body;
  const first = 1 - body.second - body.third < BORDER,
    second = body.second < BORDER,
    third = body.third < BORDER;
  if (!first && !second && !third) return t;
  let next = t;
  if ((first && second) || (first && third) || (second && third)) {
    const corner: Index = first ? (second ? 2 : 1) : 0;
    const vertex = corners[3 * t + corner]!;
    const end = aboutFrom[vertex + 1]!;
    for (let q = aboutFrom[vertex]!; q < end; q++) {
      const other = about[q]!;
      if (other !== t && nearer(body, v, x, y, z, other)) next = other;
    }
    return next;
  }
  const side: Index = third ? 0 : first ? 1 : 2;
  const other = body.beside[3 * t + side]!;
  if (other !== t && nearer(body, v, x, y, z, other)) next = other;
  return next;
}

/** A coordinate of the place found on triangle t, with the vertices at `v`. */
export function placeOn(body: SheetBody, v: Floats, t: Index, a: Index): number {
  const { corners } = body;
  const p = v[3 * corners[3 * t]! + a]!;
  return (
    p +
    body.second * (v[3 * corners[3 * t + 1]! + a]! - p) +
    body.third * (v[3 * corners[3 * t + 2]! + a]! - p)
  );
}

/** (q − p) × (r − p) of triangle t's corners: its normal, as long as twice its area. */
export function faceNormal(out: Floats, body: SheetBody, v: Floats, t: Index): void {
  const { corners } = body;
  const a = 3 * corners[3 * t]!,
    b = 3 * corners[3 * t + 1]!,
    c = 3 * corners[3 * t + 2]!;
  const ux = v[b]! - v[a]!,
    uy = v[b + 1]! - v[a + 1]!,
    uz = v[b + 2]! - v[a + 2]!;
  const wx = v[c]! - v[a]!,
    wy = v[c + 1]! - v[a + 1]!,
    wz = v[c + 2]! - v[a + 2]!;
  out[0] = uy * wz - uz * wy;
  out[1] = uz * wx - ux * wz;
  out[2] = ux * wy - uy * wx;
}

/** The same of length 1; 0 when it has no area. */
export function unitFace(out: Floats, body: SheetBody, v: Floats, t: Index): void {
  faceNormal(out, body, v, t);
  const l = Math.sqrt(out[0]! * out[0]! + out[1]! * out[1]! + out[2]! * out[2]!);
  const over: number = l > 0 ? 1 / l : 0;
  for (let a = 0; a < 3; a++) out[a] = out[a]! * over;
}

/** Takes up the normals of the mesh as it stands at `v`. */
export function sumNormals(body: SheetBody, v: Floats): void {
  const triangles = int(body.triangles),
    vertices = int(body.vertices);
  const { corners, normals, face } = body;
  for (let k = 0; k < 3 * vertices; k++) normals[k] = 0;
  for (let t = 0; t < triangles; t++) {
    faceNormal(face, body, v, t);
    for (let k = 0; k < 3; k++) {
      const o = 3 * corners[3 * t + k]!;
      for (let a = 0; a < 3; a++) normals[o + a] = normals[o + a]! + face[a]!;
    }
  }
}

/** Distance of a point from the place found on triangle t: negative behind it. */
export function signedTo(body: SheetBody, v: Floats, t: Index, x: number, y: number, z: number): number {
  const { corners, normals, face } = body;
  const u = body.second,
    w = body.third;
  const first = 1 - u - w;
  if (u < BORDER || w < BORDER || first < BORDER) {
    const p = 3 * corners[3 * t]!,
      q = 3 * corners[3 * t + 1]!,
      r = 3 * corners[3 * t + 2]!;
    for (let a = 0; a < 3; a++) face[a] = first * normals[p + a]! + u * normals[q + a]! + w * normals[r + a]!;
  } else faceNormal(face, body, v, t);
  const dot =
    (x - placeOn(body, v, t, 0)) * face[0]! +
    (y - placeOn(body, v, t, 1)) * face[1]! +
    (z - placeOn(body, v, t, 2)) * face[2]!;
  return dot >= 0 ? Math.sqrt(body.squared) : -Math.sqrt(body.squared);
}
