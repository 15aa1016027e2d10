import { CONTACT_ROW } from './chain/fields';
import { int, NONE } from './numbers';
import type { Floats, Index } from './numbers';
import { BODY_ROW, FOUND_ROW, ROOT_PART } from './search/fields';
import { quatRotate } from './turn';

/** What turns found pairs into contact rows, and reads them, works on: numbers first. */
export class TouchStep {
  bodies: number = 0;
  /** Rows in use. */
  used: number = 0;
  /** Order of the step, 1 or 2, and its length, s. */
  order: number = 2;
  h: number = 0;
  /** Stiffness of a contact, in units of the step's matrix. */
  hard: number = 0;
  /** 1 where nothing rubs. */
  slippery: number = 0;
  /** Of all links, m. */
  length: number = 0;
  x: Floats = NONE;
  source: Floats = NONE;
  contact: Floats = NONE;
  found: Floats = NONE;
  table: Floats = NONE;
  pressed: Floats = NONE;
  loads: Floats = NONE;
  side: Floats = NONE;
  /** Friction of each link. */
  rough: Floats = NONE;
  depths: Floats = NONE;
  came: Floats = NONE;
  /** Room for one place. */
  point: Floats = NONE;
}

/** Numbers beside a contact row: see `SIDE` of solver/touches.ts. */
export const SIDE_ROW: Index = 6;
/** Along-surface stiffness of sticking, beside that against the surface. */
export const STICK: number = 1e-3;
/** What starts inside something is led out this fast: lengths of the chain a second. */
const LEAD_OUT: number = 0.2;

/** Writes the contact rows of what was found; see `Touches.write`. */
export function writeContactRows(touch: TouchStep): void {
  const bodies = int(touch.bodies);
  const used = int(touch.used);
  const { order, h, hard, slippery, length } = touch;
  const { source, contact, found, table, pressed, loads, side, rough, point } = touch;
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

/** Reads the rows after the step; see `Touches.read`. */
export function readContactRows(touch: TouchStep): void {
  const bodies = int(touch.bodies);
  const used = int(touch.used);
  const { order, h, x, contact, pressed, loads, side, depths, came } = touch;
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
