import type { Arena } from './arena';
import { pointToBody, type Body } from './bodies';
import { mostContacts, HOLDER_ROWS, type ChainSolver } from './chain';
import { nearestOnSegment, nearestTo, SHAPE, sizesOf } from './shapes';

/** Looks for what a chain may touch in the step to come. */
export interface Search {
  /**
   * Looks through a step of h seconds: the bodies stand where they go, the root is on its source. Returns how many rows
   * of `found` it wrote.
   */
  run(thickness: Float64Array, h: number): number;
  /** Rows of {@link FOUND_ROW} numbers: pairs of a link and a body that may touch. */
  readonly found: Float64Array;
  /** Rows of {@link BODY_ROW} numbers, one for each body. */
  readonly table: Float64Array;
  /** Whether a link pressed on a body in the step before, by link · bodies + body: 1, or 2 in its first step. */
  readonly pressed: Float64Array;
  /** Load of each pair in the step before, N: friction starts from it. */
  readonly loads: Float64Array;
  /** `pressed`, then `loads`, as one array. */
  readonly touched: Float64Array;
  /** Bodies that were near in the step before. */
  readonly minded: Float64Array;
  /** See {@link OUT}. */
  readonly out: Float64Array;
}

/** Numbers of a row of {@link Search.found}. */
export const FOUND_ROW = 22;
export const FOUND = {
  link: 0,
  body: 1,
  /** Share along the (outer part of the) link, signed distance, and normal in the body's space: see `nearestTo`. */
  near: 2,
  /** Signed distance between surfaces at the start of the step. */
  gap: 7,
  /** Share of the step after which they touch or come nearest. */
  first: 8,
  /** The link's two ends in the body's space before the step, and where it heads. */
  start: 9,
  end: 15,
  /** How thick the link is here, less what it may stand inside. */
  thickness: 21,
} as const;

/** Numbers of {@link Search.out}: fastest way of a link past a body as a share of its length; parts a blow asks for; whether a step of first order is due (1) or not (2). */
export const OUT = { hurry: 0, least: 1, order: 2 } as const;

/** Numbers of a row of the table of bodies: kind, three sizes, bound (−1: none), whether it gives way, where it was and is (7 each), whether it stands for good, friction. */
export const BODY_ROW = 22;
/** Longest step (s) while something that can give way is struck, or presses: what first order loses of momentum falls with it. */
export const STRIKE_STEP = 1 / 3840;
const PRESS_STEP = 1 / 960;
/** Share of the first link, from the root, that touches nothing. */
export const ROOT_PART = 0.3;
/** Share of its length by which a chain is expected to leave what its root stands in. */
const GROWN = 0.6;
/** Share of the chain's length by which a measured distance may be off (a box's is looked for). */
const SURE = 1e-4;
/** Steps of conservative advancement; each comes nearer by at least half of what is left on smooth shapes. */
const ADVANCES = 24;
/**
 * It ends where no more than this share of the link's way is left; and for what pressed already on what does not give
 * way, sooner: sliding along, it would creep on without end, and nothing hangs on the moment.
 */
const CLOSE = 1e-3;
const PRESSED_CLOSE = 0.02;

const int = (x: number): number => x;

/** Numbers of an arena that the search of a chain among so many bodies takes, with its rows (touches.ts). */
export const searchNumbers = (links: number, bodies: number): number =>
  bodies === 0
    ? 0
    : 3 * links * bodies +
      (BODY_ROW + 10) * bodies +
      links +
      8 * (links + 1) +
      (FOUND_ROW + 6) * mostContacts(links) +
      links +
      bodies +
      200;

/**
 * The search of a chain's links, as capsules of their thickness, among bodies: compiled with the chain's step when there
 * is an arena, to the same bits.
 *
 * For each link and body near enough the link's way through the step is followed in the body's own space (where the
 * body stands still) by conservative advancement; the normal at the first touch, or where they come nearest when they do
 * not, is what the half space is made from that the link must not leave. So nothing passes through, whatever the speed.
 * Source: conservative advancement (Mirtich 1996), for convex shapes with the motion along the normal only.
 */
export function makeSearch(
  solver: ChainSolver,
  list: readonly Body[],
  length: number,
  arena: Arena | null,
): Search {
  const { links, x, v, fall, source } = solver;
  const bodies = list.length;
  const room = mostContacts(links) - HOLDER_ROWS;
  const make = (size: number) => (arena ? arena.alloc(size) : new Float64Array(size));
  const thick = make(links);
  const table = make(BODY_ROW * bodies);
  const touched = make(2 * links * bodies);
  const pressed = touched.subarray(0, links * bodies);
  const loads = touched.subarray(links * bodies);
  const minded = make(bodies);
  const ahead = make(3 * (links + 1));
  /**
   * Least distance of each pair as last measured, and how far link and body had gone by then (`drift`, last for the chain,
   * and `gone`): it has come nearer at most by what they went since. The least of them for each body.
   */
  const clear = make(links * bodies).fill(-Infinity);
  const nearby = make(bodies).fill(-Infinity);
  const gone = make(bodies);
  const drift = make(links + 1);
  const way = make(links + 1);
  /** Where the points and the bodies were when the chain was last looked at. */
  const seen = make(3 * (links + 1));
  const stood = make(7 * bodies);
  const near = make(5);
  const best = make(5);
  const segment = make(6);
  const start = make(6);
  const end = make(6);
  const found = make(FOUND_ROW * room);
  const out = make(3);
  let h = 0;
  let placed = false;
  const all = list.map((_, b) => b);
  const moving = all.filter((b) => !list[b]!.fixed);
  let known: Float64Array | null = null;
  list.forEach(({ shape, free, link, friction }, b) => {
    table.set([SHAPE[shape.kind], ...sizesOf(shape), 0, free || link ? 1 : 0], BODY_ROW * b);
    table[BODY_ROW * b + 21] = friction;
  });
  const nearestMesh = (b: number): void => nearestOnSegment(near, list[b]!.shape, segment);

  // What stands up to "kernel: end" is also compiled (scripts/kernelSource.ts).
  // kernel: begin

  function nearest(b: number): void {
    const r = b * BODY_ROW;
    const kind = int(table[r]!);
    if (kind === 4) nearestMesh(b);
    else nearestTo(near, kind, table[r + 1]!, table[r + 2]!, table[r + 3]!, segment);
  }

  /** Distance of the link's way at a share of the step, in the body's space; the nearest place goes to `near`. */
  function distanceAt(b: number, t: number): number {
    const w = 1 - t;
    segment[0] = w * start[0]! + t * end[0]!;
    segment[1] = w * start[1]! + t * end[1]!;
    segment[2] = w * start[2]! + t * end[2]!;
    segment[3] = w * start[3]! + t * end[3]!;
    segment[4] = w * start[4]! + t * end[4]!;
    segment[5] = w * start[5]! + t * end[5]!;
    nearest(b);
    return near[1]!;
  }

  /** Farthest that a place at most `radius` from the origin of a placement goes, from where it stands at `i` of `from` to `j` of `to`, m. */
  function wayBetween(from: Float64Array, i: number, to: Float64Array, j: number, radius: number): number {
    let still = true;
    for (let c = 0; c < 7; c++) still = still && to[j + c]! === from[i + c]!;
    if (still) return 0;
    let square: number = 0;
    let dot: number = 0;
    for (let c = 0; c < 3; c++) {
      const d = to[j + c]! - from[i + c]!;
      square += d * d;
    }
    for (let c = 3; c < 7; c++) dot += to[j + c]! * from[i + c]!;
    const turn = Math.sqrt(Math.max(0, 1 - dot * dot));
    return Math.sqrt(square) + 2 * turn * radius;
  }

  /**
   * Farthest that the link can come nearer in the whole step to what lies beyond the plane through the nearest place: for
   * a shape without hollows only what goes against the normal counts.
   */
  function approach(b: number, heads: number): number {
    if (int(table[b * BODY_ROW]!) === 4) return heads;
    const nx = near[2]!,
      ny = near[3]!,
      nz = near[4]!;
    const a = nx * (start[0]! - end[0]!) + ny * (start[1]! - end[1]!) + nz * (start[2]! - end[2]!);
    const z = nx * (start[3]! - end[3]!) + ny * (start[4]! - end[4]!) + nz * (start[5]! - end[5]!);
    return a > z ? a : z;
  }

  /** Keeps what was measured last, while more is. */
  function keepNearest(): void {
    for (let c = 0; c < 5; c++) best[c] = near[c]!;
  }

  function write(entry: number, i: number, b: number, gap: number, first: number, thickness: number): void {
    const r = entry * FOUND_ROW;
    found[r] = i;
    found[r + 1] = b;
    for (let c = 0; c < 5; c++) found[r + 2 + c] = near[c]!;
    found[r + 7] = gap;
    found[r + 8] = first;
    for (let c = 0; c < 6; c++) {
      found[r + 9 + c] = start[c]!;
      found[r + 15 + c] = end[c]!;
    }
    found[r + 21] = thickness;
  }

  function search(): number {
    let used = 0;
    let hurry: number = 0;
    let parts: number = 1;
    let order: number = 2;
    // The root has gone on to its source already.
    const rx = source[0]!,
      ry = source[1]!,
      rz = source[2]!;
    // A box round the whole chain.
    let loX: number = Infinity,
      loY: number = Infinity,
      loZ: number = Infinity;
    let hiX: number = -Infinity,
      hiY: number = -Infinity,
      hiZ: number = -Infinity;
    let thickest: number = 0;
    // How far the points have gone since they were last looked at, and may go in the step.
    let went: number = 0;
    let reach: number = 0;
    for (let k = 0; k <= links; k++) {
      const p = 3 * k;
      const px = x[p]!,
        py = x[p + 1]!,
        pz = x[p + 2]!;
      if (px < loX) loX = px;
      if (py < loY) loY = py;
      if (pz < loZ) loZ = pz;
      if (px > hiX) hiX = px;
      if (py > hiY) hiY = py;
      if (pz > hiZ) hiZ = pz;
      const sx = px - seen[p]!,
        sy = py - seen[p + 1]!,
        sz = pz - seen[p + 2]!;
      const moved = Math.sqrt(sx * sx + sy * sy + sz * sz);
      way[k] = moved;
      if (moved > went) went = moved;
      seen[p] = px;
      seen[p + 1] = py;
      seen[p + 2] = pz;
    }
    drift[links] = drift[links]! + went;
    for (let k = 0; k < links; k++) {
      drift[k] = drift[k]! + Math.max(way[k]!, way[k + 1]!);
      if (thick[k]! > thickest) thickest = thick[k]!;
    }
    ahead[0] = rx;
    ahead[1] = ry;
    ahead[2] = rz;
    const last = 3 * links + 3;
    for (let k = 3; k < last; k++) ahead[k] = x[k]! + h * v[k]! + h * h * fall[k - 3]!;
    for (let k = 0; k <= links; k++) {
      const p = 3 * k;
      const ax = ahead[p]! - x[p]!,
        ay = ahead[p + 1]! - x[p + 1]!,
        az = ahead[p + 2]! - x[p + 2]!;
      const moves = Math.sqrt(ax * ax + ay * ay + az * az);
      way[k] = moves;
      if (moves > reach) reach = moves;
    }
    for (let b = 0; b < bodies; b++) {
      const r = b * BODY_ROW;
      const now = r + 13;
      const bound = table[r + 4]!;
      const x0 = table[r + 6]!,
        y0 = table[r + 7]!,
        z0 = table[r + 8]!;
      const lasting = bound >= 0 && table[r]! < 4;
      let turned: number = (1e-4 + SURE) * length;
      if (table[r + 20]! === 0) {
        const round =
          Math.max(hiX - x0, x0 - loX) + Math.max(hiY - y0, y0 - loY) + Math.max(hiZ - z0, z0 - loZ);
        turned += 2 * wayBetween(table, r + 6, table, now, round + reach);
        if (lasting) {
          gone[b] = gone[b]! + wayBetween(stood, 7 * b, table, r + 6, bound);
          for (let c = 0; c < 7; c++) stood[7 * b + c] = table[r + 6 + c]!;
        }
      }
      // Nothing farther than this is written down below, whatever the step does.
      if (bound >= 0) {
        const enough = turned + 2 * reach + 1.02 * thickest;
        let far = lasting && nearby[b]! - gone[b]! - drift[links]! > enough;
        if (!far) {
          const outX = Math.max(Math.max(loX - x0, 0), x0 - hiX),
            outY = Math.max(Math.max(loY - y0, 0), y0 - hiY),
            outZ = Math.max(Math.max(loZ - z0, 0), z0 - hiZ);
          far = outX * outX + outY * outY + outZ * outZ > (bound + enough) * (bound + enough);
        }
        if (far) {
          if (minded[b]! > 0) for (let k = 0; k < links; k++) pressed[k * bodies + b] = 0;
          minded[b] = 0;
          continue;
        }
      }
      minded[b] = 1;
      let least: number = Infinity;
      let rooted: number = NaN;
      let grown: number = 0;
      // The link that begins where the one last looked at ends.
      let carried = -1;
      for (let i = 0; i < links; i++) {
        const o = 3 * i;
        const pair = i * bodies + b;
        const long = grown;
        const enough = turned + 2 * Math.max(way[i]!, way[i + 1]!) + 1.02 * thick[i]!;
        const moved = drift[i]! + gone[b]!;
        grown += length / links;
        if (bound >= 0) {
          let far = lasting && clear[pair]! - moved > enough;
          if (!far) {
            const mx = (x[o]! + x[o + 3]!) / 2 - x0,
              my = (x[o + 1]! + x[o + 4]!) / 2 - y0,
              mz = (x[o + 2]! + x[o + 5]!) / 2 - z0;
            const ex = x[o + 3]! - x[o]!,
              ey = x[o + 4]! - x[o + 1]!,
              ez = x[o + 5]! - x[o + 2]!;
            const out =
              Math.sqrt(mx * mx + my * my + mz * mz) - 0.5 * Math.sqrt(ex * ex + ey * ey + ez * ez) - bound;
            far = out > enough;
            if (far) clear[pair] = out + moved;
          }
          if (far) {
            least = Math.min(least, clear[pair]! - moved);
            pressed[pair] = 0;
            continue;
          }
        }
        if (Number.isNaN(rooted) && i > 0) {
          // The root is off by no more than the part of the first link that is not minded.
          const ex = x[3]! - x[0]!,
            ey = x[4]! - x[1]!,
            ez = x[5]! - x[2]!;
          const inner = ROOT_PART * Math.sqrt(ex * ex + ey * ey + ez * ez);
          if (clear[b]! - drift[0]! - gone[b]! - inner > thick[0]!) rooted = 0;
        }
        if (Number.isNaN(rooted)) {
          pointToBody(segment, 0, table, r + 6, x, 0);
          for (let c = 0; c < 3; c++) segment[3 + c] = segment[c]!;
          nearest(b);
          rooted = thick[0]! - near[1]!;
        }
        // What grows from inside a body can leave it only with length: that deep it may stand.
        const allowed = Math.max(0, rooted - GROWN * long);
        const thickness = thick[i]! - allowed;
        if (i > 0 && carried === i) {
          start[0] = start[3]!;
          start[1] = start[4]!;
          start[2] = start[5]!;
          end[0] = end[3]!;
          end[1] = end[4]!;
          end[2] = end[5]!;
        } else {
          pointToBody(start, 0, table, r + 6, x, o);
          pointToBody(end, 0, table, now, ahead, o);
        }
        pointToBody(start, 3, table, r + 6, x, o + 3);
        pointToBody(end, 3, table, now, ahead, o + 3);
        carried = i + 1;
        // The root stands where it stands, often inside what it grows from: the first link minds only its outer part.
        if (i === 0)
          for (let c = 0; c < 3; c++) {
            start[c] = start[c]! + ROOT_PART * (start[3 + c]! - start[c]!);
            end[c] = end[c]! + ROOT_PART * (end[3 + c]! - end[c]!);
          }
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
        const own = (bx - ax) * (bx - ax) + (by - ay) * (by - ay) + (bz - az) * (bz - az);
        const heads = Math.sqrt(Math.max(wayA, wayB));
        const gap = distanceAt(b, 0) - thickness;
        clear[pair] = near[1]! + moved;
        least = Math.min(least, near[1]!);
        // The lengths may turn a link aside from where it heads: as far again, and a little for slow ones.
        if (gap > 2 * heads + 0.02 * thick[i]! + 1e-4 * length) {
          pressed[pair] = 0;
          continue;
        }
        let closest = gap;
        let first: number = 0;
        let hits = gap <= 0;
        // What goes away from what it does not press on need not be watched on its way.
        let leaves = false;
        const yields = table[r + 5]! > 0;
        if (gap > 0) {
          let comes = approach(b, heads);
          leaves = pressed[pair]! === 0 && comes <= 0;
          let t: number = 0;
          let left = gap;
          const close = (pressed[pair]! > 0 && !yields ? PRESSED_CLOSE : CLOSE) * heads;
          keepNearest();
          for (let k = 0; k < ADVANCES && t < 1 && left > close; k++) {
            // Nothing comes nearer than it is now.
            if (comes <= 0) t = 1;
            else t += left / comes;
            if (t >= 1) break;
            left = distanceAt(b, t) - thickness;
            comes = approach(b, heads);
            if (left < closest) {
              closest = left;
              first = t;
              keepNearest();
            }
          }
          hits = t < 1;
          // What only passes by is minded where it comes nearest, for the lengths may yet turn it aside.
          if (!hits && comes > 0) {
            left = distanceAt(b, 1) - thickness;
            if (left < closest) {
              closest = left;
              first = 1;
              keepNearest();
            }
          }
          for (let c = 0; c < 5; c++) near[c] = best[c]!;
        }
        if (closest < 0.5 * heads && !leaves)
          hurry = Math.max(hurry, heads / Math.sqrt(Math.max(own, 1e-18)));
        if (yields && hits)
          parts = Math.max(parts, Math.ceil(h / (pressed[pair]! > 0 ? PRESS_STEP : STRIKE_STEP)));
        if (used < room) {
          write(used, i, b, gap, first, thickness);
          used++;
          // A link that lies along a flat side touches it at its far end too.
          if (table[r]! === 3 && near[0]! < 0.98 && used < room) {
            for (let c = 0; c < 3; c++) {
              segment[c] = end[3 + c]!;
              segment[3 + c] = end[3 + c]!;
            }
            nearest(b);
            near[0] = 1;
            if (near[1]! - thickness < 2 * heads + 0.02 * thick[i]! + 1e-4 * length) {
              write(used, i, b, Math.min(gap, 0), 1, thickness);
              used++;
            }
          }
        }
        const steady = pressed[pair]! === 1;
        if (steady ? yields : hits) order = 1;
      }
      nearby[b] = least + gone[b]! + drift[links]!;
    }
    out[0] = hurry;
    out[1] = parts;
    out[2] = order;
    return used;
  }

  // kernel: end

  const header = arena?.header(5, [
    x,
    v,
    fall,
    source,
    thick,
    table,
    pressed,
    minded,
    ahead,
    clear,
    nearby,
    gone,
    drift,
    way,
    seen,
    stood,
    near,
    best,
    segment,
    start,
    end,
    found,
    out,
  ]);
  header?.set([links, bodies, room, h, length]);

  return {
    found,
    table,
    pressed,
    loads,
    touched,
    minded,
    out,
    run: (thickness, seconds) => {
      if (thickness !== known) thick.set((known = thickness));
      h = seconds;
      for (const b of placed ? moving : all) {
        const { bound, places, fixed } = list[b]!;
        const r = b * BODY_ROW;
        table[r + 4] = bound < Infinity ? bound : -1;
        table[r + 20] = fixed ? 1 : 0;
        table.set(places, r + 6);
      }
      placed = true;
      if (!header) return search();
      header[3] = h;
      return arena!.search(header.byteOffset, nearestMesh);
    },
  };
}
