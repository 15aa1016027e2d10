import { int } from '../numbers';
import { SheetBody } from './fields';
import { depthInMesh, farFromMesh, gapToMesh, meshShrinks, readyMesh } from './mesh';
import { depthInRigid, farFromRigid, gapToRigid, readyRigid } from './rigid';
import type { Index } from '../numbers';

/** A point this much farther than its own move and the body's is not asked again in a step, m. */
const MARGIN: number = 2e-3;
/** Kind of a body that is a mesh: see `SHAPE`. */
const MESH: number = 4;

/** Finds which points may touch a body in the coming step, with the points as they are predicted. */
export function findTouches(body: SheetBody): void {
  const points = int(body.points);
  const mesh = body.kind === MESH;
  if (mesh) readyMesh(body);
  else readyRigid(body);
  body.used = 0;
  const { w, own, gone, clear, thickness, at, touched } = body;
  const fresh = body.fresh > 0;
  for (let i = 0; i < points; i++) {
    if (w[i] === 0) continue;
    const nearer: number = mesh ? meshShrinks(body, i) : Math.max(gone[i]!, own[i]!) + body.moved;
    let far = clear[i]! - nearer;
    const reach = thickness + 2 * nearer + own[i]! + MARGIN;
    if (far <= reach) {
      // Measured anew when it may be in touch by what is known; else it waits as one that may come into touch. What
      // pressed in the last step is measured when it is pushed.
      const known = !mesh || at[i]! >= 0;
      if (known && touched[i]! > 1 && !fresh) far = Math.min(far, 0);
      else if (far <= thickness + MARGIN || !known)
        far = mesh ? farFromMesh(body, i, reach, touched[i]! > 0) : farFromRigid(body, i, reach);
      if (far <= reach) addSlot(body, i, far);
    }
    clear[i] = far;
  }
}

/** Multipliers begin at zero in each step and are carried on in it. */
function addSlot(body: SheetBody, i: Index, far: number): void {
  const k = int(body.used);
  body.used = body.used + 1;
  body.slot[k] = i;
  body.far[k] = far;
  body.push[k] = 0;
  for (let a = 3 * k; a < 3 * k + 3; a++) {
    body.rub[a] = 0;
    body.given[a] = 0;
  }
}

/**
 * Pushes points out, with friction: called twice a step, and carries on what it pushed before. Position-based with
 * accumulated multipliers (Macklin and others 2019).
 */
export function pushOut(body: SheetBody): void {
  const used = int(body.used);
  const { x, seen, slot, far, push, allowed, thickness } = body;
  const mesh = body.kind === MESH;
  for (let k = 0; k < used; k++) {
    const i = slot[k]!;
    const before = push[k]!;
    // One that is too far to have come into touch since it was looked for is not measured again.
    if (before === 0) {
      const o = 3 * i;
      const dx = x[o]! - seen[o]!,
        dy = x[o + 1]! - seen[o + 1]!,
        dz = x[o + 2]! - seen[o + 2]!;
      if (far[k]! - Math.sqrt(dx * dx + dy * dy + dz * dz) > thickness) continue;
    }
    const gap: number = (mesh ? gapToMesh(body, i) : gapToRigid(body, i)) + allowed[i]!;
    const pushed = Math.max(0, before - gap);
    if (pushed > 0 || before > 0) pushPoint(body, k, i, pushed, before);
  }
}

/** Measures each slot: its gap into `far`, its normal into `rub`, how far the body carries the place into `given`. */
export function measureTouches(body: SheetBody): void {
  const { slot, far, rub, given, allowed, normal, carried } = body;
  const mesh = body.kind === MESH;
  for (let k = 0; k < int(body.used); k++) {
    const i = slot[k]!;
    far[k] = (mesh ? gapToMesh(body, i) : gapToRigid(body, i)) + allowed[i]!;
    for (let a = 0; a < 3; a++) {
      rub[3 * k + a] = normal[a]!;
      given[3 * k + a] = carried[a]!;
    }
  }
}

/** Moves a point by the change of its push, and holds it back by friction. */
function pushPoint(body: SheetBody, k: Index, i: Index, pushed: number, before: number): void {
  const { x, old, push, rub, slide, given, normal, carried, touched } = body;
  const o = 3 * i,
    r = 3 * k;
  const nx = normal[0]!,
    ny = normal[1]!,
    nz = normal[2]!;
  push[k] = pushed;
  const by = pushed - before;
  const px = x[o]! + by * nx,
    py = x[o + 1]! + by * ny,
    pz = x[o + 2]! + by * nz;
  const rx = rub[r]!,
    ry = rub[r + 1]!,
    rz = rub[r + 2]!;
  let sx: number = 0,
    sy: number = 0,
    sz: number = 0,
    slides: number = 0;
  if (pushed > 0) {
    if (touched[i]! < 4) touched[i] = touched[i]! + 4;
    sx = rx - (px - old[o]! - carried[0]!);
    sy = ry - (py - old[o + 1]! - carried[1]!);
    sz = rz - (pz - old[o + 2]! - carried[2]!);
    const along = sx * nx + sy * ny + sz * nz;
    sx -= along * nx;
    sy -= along * ny;
    sz -= along * nz;
    const size = sx * sx + sy * sy + sz * sz;
    const most = body.friction * pushed;
    const share: number = size > most * most ? most / Math.sqrt(size) : 1;
    sx *= share;
    sy *= share;
    sz *= share;
    // What friction does not take back it slides along the body.
    slides = (1 - share) * Math.sqrt(size);
  }
  slide[k] = slides;
  const d = 3 * k;
  given[d] = given[d]! + by * nx + sx - rx;
  given[d + 1] = given[d + 1]! + by * ny + sy - ry;
  given[d + 2] = given[d + 2]! + by * nz + sz - rz;
  x[o] = px + sx - rx;
  x[o + 1] = py + sy - ry;
  x[o + 2] = pz + sz - rz;
  rub[r] = sx;
  rub[r + 1] = sy;
  rub[r + 2] = sz;
}

/**
 * Adds what the body gets back of the points it pushed in the step: impulse and turning impulse about its origin (N s
 * and N m s), the speeds of those points and of their animation times the size of the impulse of each, and the sum of
 * these sizes. A step of BDF2 under a force F moves a mass m by 4 h² F / 9 m; where a contact begins steps are first
 * order.
 */
export function reactTouches(body: SheetBody): void {
  const used = int(body.used);
  const { slot, push, given, w, x, v, now, skinFrom, skinTo, touched, h, back } = body;
  const share = (body.to - body.from) / h;
  for (let k = 0; k < used; k++) {
    const i = slot[k]!;
    if (push[k] === 0 || !(w[i]! > 0)) continue;
    const begins = touched[i]! >= 4 && touched[i]! < 7;
    const per: number = -(begins ? 1 / h : 9 / (4 * h)) / w[i]!;
    const d = 3 * k,
      o = 3 * i;
    const px = per * given[d]!,
      py = per * given[d + 1]!,
      pz = per * given[d + 2]!;
    const ax = x[o]! - now[0]!,
      ay = x[o + 1]! - now[1]!,
      az = x[o + 2]! - now[2]!;
    back[0] = back[0]! + px;
    back[1] = back[1]! + py;
    back[2] = back[2]! + pz;
    back[3] = back[3]! + ay * pz - az * py;
    back[4] = back[4]! + az * px - ax * pz;
    back[5] = back[5]! + ax * py - ay * px;
    const size = Math.sqrt(px * px + py * py + pz * pz);
    for (let a = 0; a < 3; a++) {
      back[6 + a] = back[6 + a]! + size * v[o + a]!;
      back[9 + a] = back[9 + a]! + size * share * (skinTo[o + a]! - skinFrom[o + a]!);
    }
    back[12] = back[12]! + size;
  }
}

/** Says how deep points stand inside the thickness at the end of the step, how many press, and how they slide. */
export function finishTouches(body: SheetBody): void {
  const used = int(body.used);
  const { slot, push, slide, h } = body;
  body.depth = 0;
  body.deepest = -1;
  body.pressing = 0;
  body.slip = 0;
  for (let k = 0; k < used; k++) {
    if (push[k] === 0) continue;
    const i = slot[k]!;
    body.pressing = body.pressing + 1;
    body.slip = Math.max(body.slip, slide[k]! / h);
    const depth = -depthIn(body, i, false);
    if (depth > body.depth) {
      body.depth = depth;
      body.deepest = i;
    }
  }
}

function depthIn(body: SheetBody, i: Index, anew: boolean): number {
  return body.kind === MESH ? depthInMesh(body, i, anew) : depthInRigid(body, i);
}

/** What is inside at the start may stay so: how deep each point is, and the way out. The deepest is said as `depth`. */
export function startInside(body: SheetBody): void {
  const points = int(body.points);
  const { w, allowed, outward, normal, thickness, clear, at, asked } = body;
  body.depth = 0;
  for (let i = 0; i < points; i++) clear[i] = 0;
  if (body.kind === MESH) {
    for (let i = 0; i < points; i++) at[i] = 0;
    for (let k = 0; k < 3 * points; k++) asked[k] = 0;
    readyMesh(body);
  } else readyRigid(body);
  for (let i = 0; i < points; i++) {
    if (w[i] === 0) continue;
    const inside = thickness - depthIn(body, i, true);
    if (!(inside > allowed[i]!)) continue;
    allowed[i] = inside;
    body.depth = Math.max(body.depth, inside - thickness);
    for (let a = 0; a < 3; a++) outward[3 * i + a] = normal[a]!;
  }
}
