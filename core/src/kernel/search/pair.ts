import { int } from '../numbers';
import type { Index } from '../numbers';
import { BODY_ROW, FOUND_ROW, ROOT_PART, STRIKE_STEP } from './fields';
import type { SearchStep } from './fields';
import { approach, distanceAt, measureBody } from './measure';
import { pointToBody } from './space';

/** As {@link STRIKE_STEP}, while something that can give way presses. */
const PRESS_STEP: number = 1 / 960;
/** Share of its length by which a row of links is expected to leave what its root stands in. */
const GROWN: number = 0.6;
/** Steps of conservative advancement; each comes nearer by at least half of what is left on smooth shapes. */
const ADVANCES: Index = 24;
/**
 * It ends where no more than this share of the link's way is left; and for what pressed already on what does not give
 * way, sooner: sliding along, it would creep on without end, and nothing hangs on the moment.
 */
const CLOSE: number = 1e-3;
const PRESSED_CLOSE: number = 0.02;

/** Follows link i on its way past body b; `long` is the length of the links before it. */
export function searchPair(search: SearchStep, b: Index, i: Index, long: number): void {
  const { h, length, thick, table, pressed, clear, gone, drift, near } = search;
  const pair = i * int(search.bodies) + b;
  search.moved = drift[i]! + gone[b]!;
  if (table[b * BODY_ROW + 4]! >= 0 && farFrom(search, b, i, pair)) {
    search.least = Math.min(search.least, clear[pair]! - search.moved);
    pressed[pair] = 0;
    return;
  }
  findRooted(search, b, i);
  // What grows from inside a body can leave it only with length: that deep it may stand.
  const allowed = Math.max(0, search.rooted - GROWN * long);
  search.thickness = thick[i]! - allowed;
  placeLink(search, b, i);
  const own = measureHeads(search);
  search.gap = distanceAt(search, b, 0) - search.thickness;
  clear[pair] = near[1]! + search.moved;
  search.least = Math.min(search.least, near[1]!);
  // The lengths may turn a link aside from where it heads: as far again, and a little for slow ones.
  if (search.gap > 2 * search.heads + 0.02 * thick[i]! + 1e-4 * length) {
    pressed[pair] = 0;
    return;
  }
  const yields = table[b * BODY_ROW + 5]! > 0;
  followWay(search, b, pressed[pair]!, yields);
  if (search.closest < 0.5 * search.heads && search.leaves === 0)
    search.hurry = Math.max(search.hurry, search.heads / Math.sqrt(Math.max(own, 1e-18)));
  const hits = search.hits > 0;
  if (yields && hits)
    search.parts = Math.max(search.parts, Math.ceil(h / (pressed[pair]! > 0 ? PRESS_STEP : STRIKE_STEP)));
  writeFound(search, b, i);
  const steady = pressed[pair]! === 1;
  if (steady ? yields : hits) search.order = 1;
}

/** Whether the link is too far from the body to touch it in the step, by what is known or by the bound. */
function farFrom(search: SearchStep, b: Index, i: Index, pair: Index): boolean {
  const { x, thick, table, clear, way, moved } = search;
  const r = b * BODY_ROW;
  const o = 3 * i;
  const enough = search.turned + 2 * Math.max(way[i]!, way[i + 1]!) + 1.02 * thick[i]!;
  if (search.lasting > 0 && clear[pair]! - moved > enough) return true;
  const mx = (x[o]! + x[o + 3]!) / 2 - table[r + 6]!,
    my = (x[o + 1]! + x[o + 4]!) / 2 - table[r + 7]!,
    mz = (x[o + 2]! + x[o + 5]!) / 2 - table[r + 8]!;
  const ex = x[o + 3]! - x[o]!,
    ey = x[o + 4]! - x[o + 1]!,
    ez = x[o + 5]! - x[o + 2]!;
  const out =
    Math.sqrt(mx * mx + my * my + mz * mz) - 0.5 * Math.sqrt(ex * ex + ey * ey + ez * ez) - table[r + 4]!;
  const far = out > enough;
  if (far) clear[pair] = out + moved;
  return far;
}

/** How deep the root stands inside the body, once for each body. */
function findRooted(search: SearchStep, b: Index, i: Index): void {
  const { x, thick, table, clear, gone, drift, near, segment } = search;
  if (Number.isNaN(search.rooted) && i > 0) {
    // The root is off by no more than the part of the first link that is not minded.
    const ex = x[3]! - x[0]!,
      ey = x[4]! - x[1]!,
      ez = x[5]! - x[2]!;
    const inner = ROOT_PART * Math.sqrt(ex * ex + ey * ey + ez * ez);
    if (clear[b]! - drift[0]! - gone[b]! - inner > thick[0]!) search.rooted = 0;
  }
  if (Number.isNaN(search.rooted)) {
    pointToBody(segment, 0, table, b * BODY_ROW + 6, x, 0);
    for (let c = 0; c < 3; c++) segment[3 + c] = segment[c]!;
    measureBody(search, b);
    search.rooted = thick[0]! - near[1]!;
  }
}

/** The link's two ends in the body's space, before the step and where they head: `start` and `end`. */
function placeLink(search: SearchStep, b: Index, i: Index): void {
  const { x, table, ahead, start, end } = search;
  const before = b * BODY_ROW + 6;
  const now = b * BODY_ROW + 13;
  const o = 3 * i;
  if (i > 0 && int(search.carried) === i) {
    for (let c = 0; c < 3; c++) {
      start[c] = start[3 + c]!;
      end[c] = end[3 + c]!;
    }
  } else {
    pointToBody(start, 0, table, before, x, o);
    pointToBody(end, 0, table, now, ahead, o);
  }
  pointToBody(start, 3, table, before, x, o + 3);
  pointToBody(end, 3, table, now, ahead, o + 3);
  search.carried = i + 1;
  // The root stands where it stands, often inside what it grows from: the first link minds only its outer part.
  if (i === 0)
    for (let c = 0; c < 3; c++) {
      start[c] = start[c]! + ROOT_PART * (start[3 + c]! - start[c]!);
      end[c] = end[c]! + ROOT_PART * (end[3 + c]! - end[c]!);
    }
}

/** The farthest way of an end of the link goes to `heads`; returns the square of its length. */
function measureHeads(search: SearchStep): number {
  const { start, end } = search;
  const ax = start[0]!,
    ay = start[1]!,
    az = start[2]!,
    bx = start[3]!,
    by = start[4]!,
    bz = start[5]!;
  const wayA =
    (end[0]! - ax) * (end[0]! - ax) + (end[1]! - ay) * (end[1]! - ay) + (end[2]! - az) * (end[2]! - az);
  const wayB =
    (end[3]! - bx) * (end[3]! - bx) + (end[4]! - by) * (end[4]! - by) + (end[5]! - bz) * (end[5]! - bz);
  search.heads = Math.sqrt(Math.max(wayA, wayB));
  return (bx - ax) * (bx - ax) + (by - ay) * (by - ay) + (bz - az) * (bz - az);
}

/** Conservative advancement from the start of the step: where the link first touches or comes nearest. */
function followWay(search: SearchStep, b: Index, pressed: number, yields: boolean): void {
  const { gap, heads, thickness } = search;
  search.closest = gap;
  search.first = 0;
  search.hits = gap <= 0 ? 1 : 0;
  // What goes away from what it does not press on need not be watched on its way.
  search.leaves = 0;
  if (gap <= 0) return;
  let comes = approach(search, b);
  search.leaves = pressed === 0 && comes <= 0 ? 1 : 0;
  let t: number = 0;
  let left = gap;
  const close = (pressed > 0 && !yields ? PRESSED_CLOSE : CLOSE) * heads;
  keepNearest(search, gap, 0);
  for (let k = 0; k < ADVANCES && t < 1 && left > close; k++) {
    // Nothing comes nearer than it is now.
    if (comes <= 0) t = 1;
    else t += left / comes;
    if (t >= 1) break;
    left = distanceAt(search, b, t) - thickness;
    comes = approach(search, b);
    if (left < search.closest) keepNearest(search, left, t);
  }
  search.hits = t < 1 ? 1 : 0;
  // What only passes by is minded where it comes nearest, for the lengths may yet turn it aside.
  if (t >= 1 && comes > 0) {
    left = distanceAt(search, b, 1) - thickness;
    if (left < search.closest) keepNearest(search, left, 1);
  }
  const { near, best } = search;
  for (let c = 0; c < 5; c++) near[c] = best[c]!;
}

/** Keeps what was measured last, at a share of the step, while more is. */
function keepNearest(search: SearchStep, distance: number, share: number): void {
  const { near, best } = search;
  search.closest = distance;
  search.first = share;
  for (let c = 0; c < 5; c++) best[c] = near[c]!;
}

/** Writes the pair down, while there is room. */
function writeFound(search: SearchStep, b: Index, i: Index): void {
  const { length, thick, table, near, segment, end, thickness, heads } = search;
  const room = int(search.room);
  if (int(search.used) >= room) return;
  write(search, b, i, search.gap, search.first);
  // A link that lies along a flat side touches it at its far end too.
  if (table[b * BODY_ROW]! === 3 && near[0]! < 0.98 && int(search.used) < room) {
    for (let c = 0; c < 3; c++) {
      segment[c] = end[3 + c]!;
      segment[3 + c] = end[3 + c]!;
    }
    measureBody(search, b);
    near[0] = 1;
    if (near[1]! - thickness < 2 * heads + 0.02 * thick[i]! + 1e-4 * length)
      write(search, b, i, Math.min(search.gap, 0), 1);
  }
}

function write(search: SearchStep, b: Index, i: Index, gap: number, first: number): void {
  const { near, start, end, found } = search;
  const r = int(search.used) * FOUND_ROW;
  search.used += 1;
  found[r] = i;
  found[r + 1] = b;
  for (let c = 0; c < 5; c++) found[r + 2 + c] = near[c]!;
  found[r + 7] = gap;
  found[r + 8] = first;
  for (let c = 0; c < 6; c++) {
    found[r + 9 + c] = start[c]!;
    found[r + 15 + c] = end[c]!;
  }
  found[r + 21] = search.thickness;
}
