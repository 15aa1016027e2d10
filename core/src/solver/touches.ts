import { quatRotate } from '../math/index';
import type { Arena } from './arena';
import { CONTACT_ROW, HOLDER_ROWS, mostContacts, type ChainSolver } from './chain';
import { BODY_ROW, FOUND_ROW, ROOT_PART, type Search } from './search';

/** Turns what was found near a chain into its contact rows, and reads what came of them. */
export interface Touches {
  /** Beside each contact row: see {@link SIDE}. */
  readonly side: Float64Array;
  /** What came of the last step: see {@link CAME}. */
  readonly came: Float64Array;
  /** How deep a link stands inside each body, m. */
  readonly depths: Float64Array;
  /** Writes a contact row for each row found, for a step of h seconds of an order; `rough` is the friction of each link. */
  write(rows: number, order: 1 | 2, h: number, rough: Float64Array, slippery: boolean): void;
  /** Reads the rows after the step: who presses, with what load. */
  read(): void;
}

/** Numbers beside a contact row. */
export const SIDE_ROW = 6;
/** Body, speed of the hit (m/s, written by the caller), how deep the half space lies (m), place on the surface (m). */
export const SIDE = { body: 0, hit: 1, sunk: 2, place: 3 } as const;
/** Rows that press, where it presses hardest (links from the root) and how hard (units of the step), deepest (m), fastest along a surface (m/s). */
export const CAME = { touching: 0, at: 1, load: 2, depth: 3, slip: 4 } as const;

/** Along-surface stiffness of sticking, beside that against the surface. */
export const STICK = 1e-3;
/** What starts inside something is led out this fast: lengths of the chain a second. */
const LEAD_OUT = 0.2;

const int = (x: number): number => x;

/** Compiled with the chain's step when there is an arena, to the same bits. The arrays' order is that of search.ts and chain.ts. */
export function makeTouches(
  solver: ChainSolver,
  search: Search,
  bodies: number,
  length: number,
  arena: Arena | null,
): Touches {
  const { links, x, source, contact } = solver;
  const { found, table, pressed, loads } = search;
  const make = (size: number) => (arena ? arena.alloc(size) : new Float64Array(size));
  const side = make(SIDE_ROW * (mostContacts(links) - HOLDER_ROWS));
  const rough = make(links);
  const depths = make(bodies);
  const came = make(5);
  const point = make(3);
  let used = 0;
  let order = 2;
  let h = 0;
  let hard = 0;
  let slippery = 0;
  let known: Float64Array | null = null;

  // What stands up to "kernel: end" is also compiled (scripts/kernelSource.ts).
  // kernel: begin

  function writeRows(): void {
    const rx = source[0]!,
      ry = source[1]!,
      rz = source[2]!;
    const per: number = order === 1 ? h * h : (4 / 9) * h * h;
    for (let k = 0; k < used; k++) {
      const f = k * FOUND_ROW;
      const r = k * CONTACT_ROW;
      const s = k * SIDE_ROW;
      const i = int(found[f]!);
      const b = int(found[f + 1]!);
      const body = b * BODY_ROW;
      const now = body + 13;
      const share = found[f + 2]!;
      const away = found[f + 3]!;
      const first = found[f + 8]!;
      const along: number = i === 0 ? ROOT_PART + (1 - ROOT_PART) * share : share;
      quatRotate(contact, r + 2, table, now + 3, found, f + 4);
      // The surface point under the nearest place of the link at the share `first` of the step, now.
      const w = 1 - first;
      for (let c = 0; c < 3; c++) {
        const a = w * found[f + 9 + c]! + first * found[f + 15 + c]!;
        const e = w * found[f + 12 + c]! + first * found[f + 18 + c]!;
        point[c] = a + share * (e - a) - away * found[f + 4 + c]!;
      }
      quatRotate(side, s + 3, table, now + 3, point, 0);
      for (let c = 0; c < 3; c++) side[s + 3 + c] = side[s + 3 + c]! + table[now + c]!;
      const sunk = Math.min(0, found[f + 7]! + LEAD_OUT * length * h);
      contact[r] = i;
      contact[r + 1] = along;
      contact[r + 5] =
        found[f + 21]! +
        sunk +
        contact[r + 2]! * (side[s + 3]! - rx) +
        contact[r + 3]! * (side[s + 4]! - ry) +
        contact[r + 4]! * (side[s + 5]! - rz);
      // Where the link's own place would be if it stuck: it moves with the body.
      for (let c = 0; c < 3; c++)
        point[c] = found[f + 9 + c]! + share * (found[f + 12 + c]! - found[f + 9 + c]!);
      quatRotate(contact, r + 8, table, now + 3, point, 0);
      contact[r + 8] = contact[r + 8]! + table[now]! - rx;
      contact[r + 9] = contact[r + 9]! + table[now + 1]! - ry;
      contact[r + 10] = contact[r + 10]! + table[now + 2]! - rz;
      contact[r + 6] = hard;
      const friction = slippery > 0 ? 0 : Math.sqrt(rough[i]! * table[body + 21]!);
      contact[r + 7] = friction;
      contact[r + 11] = 0;
      contact[r + 13] = 0;
      contact[r + 18] = hard * STICK;
      // Loads begin as in the step before, and friction at what they allow.
      const pair = i * bodies + b;
      const load = loads[pair]! * per;
      contact[r + 12] = pressed[pair]! > 0 ? load : 0;
      contact[r + 19] = friction * load;
      side[s] = b;
      side[s + 2] = sunk;
    }
  }

  function readRows(): void {
    let touching: number = 0;
    let at: number = 0;
    let hardest: number = 0;
    let deepest: number = 0;
    let slip: number = 0;
    for (let b = 0; b < bodies; b++) depths[b] = 0;
    const rx = x[0]!,
      ry = x[1]!,
      rz = x[2]!;
    const newtons = (order === 1 ? 1 / h : 9 / 4 / h) / h;
    for (let k = 0; k < used; k++) {
      const r = k * CONTACT_ROW;
      const s = k * SIDE_ROW;
      const i = int(contact[r]!);
      const b = int(side[s]!);
      const pair = i * bodies + b;
      const load = contact[r + 12]!;
      loads[pair] = load * newtons;
      const along = contact[r + 1]!;
      const o = 3 * i;
      const px = (1 - along) * x[o]! + along * x[o + 3]! - rx,
        py = (1 - along) * x[o + 1]! + along * x[o + 4]! - ry,
        pz = (1 - along) * x[o + 2]! + along * x[o + 5]! - rz;
      const nx = contact[r + 2]!,
        ny = contact[r + 3]!,
        nz = contact[r + 4]!;
      const gap = nx * px + ny * py + nz * pz - contact[r + 5]!;
      // The half space may still lie deeper than the surface, for what is being led out.
      const depth = -(gap + side[s + 2]!);
      if (depth > deepest) deepest = depth;
      if (depth > depths[b]!) depths[b] = depth;
      if (!(load > 0)) {
        pressed[pair] = 0;
        continue;
      }
      touching++;
      if (load > hardest) {
        hardest = load;
        at = contact[r]! + along;
      }
      pressed[pair] = pressed[pair]! === 0 ? 2 : 1;
      const ax = px - contact[r + 8]!,
        ay = py - contact[r + 9]!,
        az = pz - contact[r + 10]!;
      const off = ax * nx + ay * ny + az * nz;
      const slid = Math.sqrt(Math.max(0, ax * ax + ay * ay + az * az - off * off));
      if (slid / h > slip) slip = slid / h;
    }
    came[0] = touching;
    came[1] = at;
    came[2] = hardest;
    came[3] = deepest;
    came[4] = slip;
  }

  // kernel: end

  const header = arena?.header(7, [
    ...[x, source, contact, found, table, pressed, loads],
    ...[side, rough, depths, came, point],
  ]);

  return {
    side,
    came,
    depths,
    write: (rows, next, seconds, friction, slides) => {
      used = rows;
      order = next;
      h = seconds;
      hard = solver.hardness();
      slippery = slides ? 1 : 0;
      if (friction !== known) rough.set((known = friction));
      if (!header) return writeRows();
      header[0] = bodies;
      header[1] = used;
      header[2] = order;
      header[3] = h;
      header[4] = hard;
      header[5] = slippery;
      header[6] = length;
      arena!.writeRows(header.byteOffset);
    },
    read: () => (header ? arena!.readRows(header.byteOffset) : readRows()),
  };
}
