import { copy, int } from '../numbers';
import { nearestTo } from '../search/shapes';
import { pointToBody, pointToWorld } from '../search/space';
import { SheetBody } from './fields';
import type { Floats, Index } from '../numbers';

/** How far point o is outside the ball about a body, m. */
export function beyond(now: Floats, bound: number, x: Floats, o: Index): number {
  if (!(bound < Infinity)) return -Infinity;
  const dx = x[o]! - now[0]!,
    dy = x[o + 1]! - now[1]!,
    dz = x[o + 2]! - now[2]!;
  return Math.sqrt(dx * dx + dy * dy + dz * dz) - bound;
}

/** Takes up how far the step moves a body that keeps its shape. */
export function readyRigid(body: SheetBody): void {
  const { before, now, bound } = body;
  body.moved = 0;
  if (body.fixed > 0) return;
  const dx = now[0]! - before[0]!,
    dy = now[1]! - before[1]!,
    dz = now[2]! - before[2]!;
  // The chord of a turn is twice the sine of half its angle.
  const dot = before[3]! * now[3]! + before[4]! * now[4]! + before[5]! * now[5]! + before[6]! * now[6]!;
  const turn = 2 * Math.sqrt(Math.max(0, 1 - dot * dot));
  body.moved = Math.sqrt(dx * dx + dy * dy + dz * dz) + (bound < Infinity ? turn * bound : 0);
}

/** Signed distance of a place in the shape's own space (3 numbers), with the normal behind it in `nearest`. */
function distanceAt(body: SheetBody, place: Floats): number {
  const { segment, nearest } = body;
  copy(segment, place, 3);
  for (let a = 0; a < 3; a++) segment[3 + a] = place[a]!;
  nearestTo(nearest, int(body.kind), body.sizeP, body.sizeQ, body.sizeR, segment);
  return nearest[1]!;
}

/** Turns the normal that was found from the body's own space into the world's. */
function turnNormal(body: SheetBody): void {
  const { nearest, now, normal } = body;
  const x = now[3]!,
    y = now[4]!,
    z = now[5]!,
    w = now[6]!;
  const vx = nearest[2]!,
    vy = nearest[3]!,
    vz = nearest[4]!;
  const tx = 2 * (y * vz - z * vy),
    ty = 2 * (z * vx - x * vz),
    tz = 2 * (x * vy - y * vx);
  normal[0] = vx + w * tx + y * tz - z * ty;
  normal[1] = vy + w * ty + z * tx - x * tz;
  normal[2] = vz + w * tz + x * ty - y * tx;
}

/** How far point i is from the body at least, m; exact when that is below `reach`. */
export function farFromRigid(body: SheetBody, i: Index, reach: number): number {
  const away = beyond(body.now, body.bound, body.x, 3 * i);
  if (away > reach) return away;
  pointToBody(body.local, 0, body.now, 0, body.x, 3 * i);
  return distanceAt(body, body.local);
}

/** Distance of point i at the end of the step, with the normal. */
export function depthInRigid(body: SheetBody, i: Index): number {
  pointToBody(body.local, 0, body.now, 0, body.x, 3 * i);
  const d = distanceAt(body, body.local);
  turnNormal(body);
  return d;
}

/** Distance of point i less the thickness, with normal and move. A point does not come out at the other side. */
export function gapToRigid(body: SheetBody, i: Index): number {
  const { local, was, face, nearest, thickness, before, now, carried } = body;
  const o = 3 * i;
  pointToBody(local, 0, now, 0, body.x, o);
  pointToBody(was, 0, before, 0, body.old, o);
  copy(face, local, 3);
  const rx = local[0]! - was[0]!,
    ry = local[1]! - was[1]!,
    rz = local[2]! - was[2]!;
  if (rx * rx + ry * ry + rz * rz > 0.25 * thickness * thickness) {
    // Fast: it may not pass the plane it was before.
    const start = distanceAt(body, was);
    const behind = start + nearest[2]! * rx + nearest[3]! * ry + nearest[4]! * rz;
    if (start > 0 && behind < 0) for (let a = 0; a < 3; a++) face[a] = face[a]! - behind * nearest[2 + a]!;
  }
  let far = distanceAt(body, face);
  for (let a = 0; a < 3; a++) far += nearest[2 + a]! * (local[a]! - face[a]!);
  turnNormal(body);
  // The place on the body, in its own space, and how far the step carries it.
  for (let a = 0; a < 3; a++) local[a] = local[a]! - far * nearest[2 + a]!;
  pointToWorld(carried, 0, now, 0, local, 0);
  pointToWorld(was, 0, before, 0, local, 0);
  for (let a = 0; a < 3; a++) carried[a] = carried[a]! - was[a]!;
  return far - thickness;
}
