import { copy, int } from '../numbers';
import { SheetBody } from './fields';
import { beyond } from './rigid';
import { blendAll, placeAll } from './pose';
import { fitBoxes, lookRound } from './tree';
import { placeOn, signedTo, sumNormals, unitFace, walkTo } from './walk';
import type { Floats, Index } from '../numbers';

/** How far a point that is near nothing looks for the mesh, as a share of the mesh's size. */
const REACH: number = 0.05;
/** How much farther vertices are that cannot come so near within a step of the shot, as a share of the same. */
const MARGIN: number = 0.03;
/** m: a point nearer than this has the normal of the face it is on. */
const ON: number = 1e-6;
/** Points that are not near look all round in one of so many steps. */
const SELDOM: number = 3;
/** A little beyond its reach, so that a point is asked again. */
const AWAKE: number = 1 + 1e-9;

/** Puts a mesh where it stands in the coming step. */
export function readyMesh(body: SheetBody): void {
  body.since = body.fresh > 0 || body.since + 1 >= SELDOM ? 0 : body.since + 1;
  if (body.from === 0) {
    poseMesh(body);
    body.start = body.first;
    if (body.fresh > 0) {
      fitBoxes(body);
      sumNormals(body, body.first);
      body.drift = 0;
    } else {
      const way = body.wayX * body.wayX + body.wayY * body.wayY + body.wayZ * body.wayZ;
      body.drift = body.drift + body.bending + Math.sqrt(way);
    }
  } else body.start = body.end;
  if (body.to === 1) body.end = body.last;
  else {
    body.end = body.start === body.between ? body.other : body.between;
    blendAll(body.end, body.first, body.last, body.to, 3 * int(body.vertices));
  }
}

/** Its vertices in the world at both ends of the shot's step; within a frame one step ends where the next begins. */
function poseMesh(body: SheetBody): void {
  const { earlier, later, wholeBefore, wholeNow, matrix } = body;
  const vertices = int(body.vertices);
  if (body.fresh > 0) placeAll(body.first, wholeBefore, earlier, vertices, matrix);
  else {
    const first = body.first;
    body.first = body.last;
    body.last = first;
  }
  placeAll(body.last, wholeNow, later, vertices, matrix);
  watchWay(body, 3 * vertices);
}

/** Takes up how vertices go in the shot's step. */
function watchWay(body: SheetBody, size: Index): void {
  const { first, last, region } = body;
  regionOf(body);
  let farthest: number = 0,
    count: number = 0,
    wx: number = 0,
    wy: number = 0,
    wz: number = 0;
  for (let o = 0; o < size; o += 3) {
    const dx = last[o]! - first[o]!,
      dy = last[o + 1]! - first[o + 1]!,
      dz = last[o + 2]! - first[o + 2]!;
    const far = dx * dx + dy * dy + dz * dz;
    if (far > farthest) farthest = far;
    if (!inRegion(region, first, o) && !inRegion(region, last, o)) continue;
    count += 1;
    wx += dx;
    wy += dy;
    wz += dz;
  }
  const over = 1 / Math.max(1, count);
  body.wayX = wx * over;
  body.wayY = wy * over;
  body.wayZ = wz * over;
  body.farthest = Math.sqrt(farthest);
  body.bending = besideWay(body, size);
}

/** Farthest a vertex near the points goes beside the way they go on the whole, m. */
function besideWay(body: SheetBody, size: Index): number {
  const { first, last, region, wayX, wayY, wayZ } = body;
  let most: number = 0;
  for (let o = 0; o < size; o += 3) {
    if (!inRegion(region, first, o) && !inRegion(region, last, o)) continue;
    const dx = last[o]! - first[o]! - wayX,
      dy = last[o + 1]! - first[o + 1]! - wayY,
      dz = last[o + 2]! - first[o + 2]! - wayZ;
    const far = dx * dx + dy * dy + dz * dz;
    if (far > most) most = far;
  }
  return Math.sqrt(most);
}

/** The box round the points, larger by how far away vertices count as near. */
function regionOf(body: SheetBody): void {
  const points = int(body.points);
  const { region, x } = body;
  const by = (REACH + MARGIN) * body.bound;
  for (let a = 0; a < 3; a++) {
    let lo: number = Infinity,
      hi: number = -Infinity;
    for (let o = a; o < 3 * points; o += 3) {
      if (x[o]! < lo) lo = x[o]!;
      if (x[o]! > hi) hi = x[o]!;
    }
    region[a] = lo - by;
    region[3 + a] = hi + by;
  }
}

function inRegion(box: Floats, v: Floats, o: Index): boolean {
  return (
    v[o]! >= box[0]! &&
    v[o]! <= box[3]! &&
    v[o + 1]! >= box[1]! &&
    v[o + 1]! <= box[4]! &&
    v[o + 2]! >= box[2]! &&
    v[o + 2]! <= box[5]!
  );
}

/** By how much less point i can be away from the mesh than a step ago, m. Asked once a step. */
export function meshShrinks(body: SheetBody, i: Index): number {
  const { x, asked } = body;
  const share = body.to - body.from;
  const o = 3 * i;
  const dx = x[o]! - asked[o]! - share * body.wayX,
    dy = x[o + 1]! - asked[o + 1]! - share * body.wayY,
    dz = x[o + 2]! - asked[o + 2]! - share * body.wayZ;
  asked[o] = x[o]!;
  asked[o + 1] = x[o + 1]!;
  asked[o + 2] = x[o + 2]!;
  return Math.sqrt(dx * dx + dy * dy + dz * dz) + share * body.bending;
}

/** How far point i is from the mesh at least, m; exact when that is below `reach`. */
export function farFromMesh(body: SheetBody, i: Index, reach: number, pressed: boolean): number {
  const { at, x, end } = body;
  const o = 3 * i;
  const away = beyond(body.wholeNow, body.bound, x, o) - body.farthest;
  if (away > reach) return away;
  const px = x[o]!,
    py = x[o + 1]!,
    pz = x[o + 2]!;
  let known = int(at[i]!);
  if (known >= 0) {
    known = walkTo(body, end, px, py, pz, known);
    at[i] = known;
  }
  // A point that presses stays with its triangle: it never leaps to another part of the mesh. Others look all round in
  // every second frame, and whenever they would be left alone for a while.
  const lone = known < 0 || body.squared > reach * reach;
  const most = Math.max(reach * AWAKE, REACH * body.bound);
  if (lone && known >= 0 && body.since > 0) return reach * AWAKE;
  if (lone || (body.fresh > 0 && !pressed && (i & 1) === int(body.turn))) {
    known = lookRound(body, o, most, known);
    if (known < 0) return most;
    at[i] = known;
  }
  return Math.min(most, signedTo(body, end, known, px, py, pz));
}

/** Distance of point i at the end of the step, with the normal. Looks for it everywhere when `anew`. */
export function depthInMesh(body: SheetBody, i: Index, anew: boolean): number {
  const { at, x, end, asked } = body;
  const o = 3 * i;
  if (anew) for (let a = 0; a < 3; a++) asked[o + a] = x[o + a]!;
  const known = int(at[i]!);
  const t: Index =
    anew || known < 0
      ? lookRound(body, o, Infinity, -1)
      : walkTo(body, end, x[o]!, x[o + 1]!, x[o + 2]!, known);
  at[i] = t;
  if (t < 0) return Infinity;
  const d = signedTo(body, end, t, x[o]!, x[o + 1]!, x[o + 2]!);
  aim(body, end, t, x, o, d);
  return d;
}

/** Distance of point i less the thickness, with normal and move. A point does not come out at the other side. */
export function gapToMesh(body: SheetBody, i: Index): number {
  const { at, x, old, end, carried, thickness } = body;
  const o = 3 * i;
  const before = int(at[i]!);
  const t = walkTo(body, end, x[o]!, x[o + 1]!, x[o + 2]!, before);
  carry(body, t);
  const d = signedTo(body, end, t, x[o]!, x[o + 1]!, x[o + 2]!);
  aim(body, end, t, x, o, d);
  at[i] = t;
  const rx = x[o]! - old[o]! - carried[0]!,
    ry = x[o + 1]! - old[o + 1]! - carried[1]!,
    rz = x[o + 2]! - old[o + 2]! - carried[2]!;
  if (rx * rx + ry * ry + rz * rz <= 0.25 * thickness * thickness) return d - thickness;
  const fast = fastGap(body, i, before);
  return fast < Infinity ? fast : d - thickness;
}

/**
 * The gap of a fast point that was outside and ends behind the plane it was before, as the triangle carries it: it is
 * measured from that side. Infinity when that did not happen.
 */
function fastGap(body: SheetBody, i: Index, before: Index): number {
  const { x, old, start, end, normal, face, local, was, thickness } = body;
  const o = 3 * i;
  copy(was, normal, 3);
  const t = walkTo(body, start, old[o]!, old[o + 1]!, old[o + 2]!, before);
  const d = signedTo(body, start, t, old[o]!, old[o + 1]!, old[o + 2]!);
  aim(body, start, t, old, o, d);
  unitFace(face, body, start, t);
  if (face[0]! * normal[0]! + face[1]! * normal[1]! + face[2]! * normal[2]! < 0.2) copy(normal, face, 3);
  let behind: number = 0;
  for (let a = 0; a < 3; a++) behind += (x[o + a]! - placeOn(body, end, t, a)) * normal[a]!;
  if (d < 0 || behind >= 0) {
    copy(normal, was, 3);
    return Infinity;
  }
  const by = 0.25 * thickness - behind;
  for (let a = 0; a < 3; a++) local[a] = x[o + a]! + by * normal[a]!;
  const to = walkTo(body, end, local[0]!, local[1]!, local[2]!, t);
  body.at[i] = to;
  unitFace(normal, body, end, to);
  let gap = -thickness;
  for (let a = 0; a < 3; a++) gap += (x[o + a]! - placeOn(body, end, to, a)) * normal[a]!;
  carry(body, to);
  return gap;
}

function carry(body: SheetBody, t: Index): void {
  const { carried, start, end } = body;
  for (let a = 0; a < 3; a++) carried[a] = placeOn(body, end, t, a) - placeOn(body, start, t, a);
}

/** The normal towards the point, or the face's own where the point is on it. */
function aim(body: SheetBody, v: Floats, t: Index, x: Floats, o: Index, d: number): void {
  const { normal } = body;
  if (Math.abs(d) < ON) {
    unitFace(normal, body, v, t);
    return;
  }
  for (let a = 0; a < 3; a++) normal[a] = (x[o + a]! - placeOn(body, v, t, a)) / d;
}
