import { int } from '../numbers';
import type { Index } from '../numbers';
import { CONTACT_ROW, FRICTION_TOLERANCE, ROW } from './fields';
import type { ChainStep } from './fields';

/** What became of a contact since it was last read: as it was, its rub changed, it came or went. */
const CHANGED: Index = 1;
const TOGGLED: Index = 2;

/**
 * What each contact does at y: whether it presses, with what force, and how firmly it holds along the surface.
 * Coulomb's law by reweighting: a spring to where the point would be if it stuck, as stiff as the friction allows.
 * Asked `first`, what pressed in the step before is taken to press still, even if it would have to pull: the next
 * answer shows. Returns how many do not what the last Newton step took them to do; those that came or went go to
 * `toggled`.
 */
export function readContacts(chain: ChainStep, first: Index): Index {
  const contacts = int(chain.contacts);
  let changed = 0;
  let toggled = 0;
  for (let k = 0; k < contacts; k++) {
    const now = readContact(chain, k * CONTACT_ROW, first);
    if (now === CHANGED) changed++;
    else if (now === TOGGLED) toggled++;
  }
  chain.toggled = toggled;
  return changed + toggled;
}

/** Reads the contact of row `r`; returns {@link CHANGED}, {@link TOGGLED} or 0. */
function readContact(chain: ChainStep, r: Index, first: Index): Index {
  const { rub, contact, y } = chain;
  const i = int(contact[r]!);
  const o = 3 * i;
  const t = contact[r + 1]!;
  const w = 1 - t;
  const px = t * y[o]! + (i > 0 ? w * y[o - 3]! : 0),
    py = t * y[o + 1]! + (i > 0 ? w * y[o - 2]! : 0),
    pz = t * y[o + 2]! + (i > 0 ? w * y[o - 1]! : 0);
  const ax = px - contact[r + 8]!,
    ay = py - contact[r + 9]!,
    az = pz - contact[r + 10]!;
  const stiff = contact[r + 6]!;
  if (contact[r + 13]! > 0) {
    contact[r + 14] = -stiff * ax;
    contact[r + 15] = -stiff * ay;
    contact[r + 16] = -stiff * az;
    return 0;
  }
  const nx = contact[r + 2]!,
    ny = contact[r + 3]!,
    nz = contact[r + 4]!;
  const gap = nx * px + ny * py + nz * pz - contact[r + 5]!;
  const was = contact[r + 12]!;
  const load = gap < 0 || (first > 0 && was > 0) ? -stiff * gap : 0;
  // What lets go has no grip either: pushed off by friction alone it would come and go for ever.
  if (load === 0 && was > 0) contact[r + 19] = 0;
  const out = nx * ax + ny * ay + nz * az;
  const tx = ax - out * nx,
    ty = ay - out * ny,
    tz = az - out * nz;
  const slid = Math.sqrt(tx * tx + ty * ty + tz * tz);
  const most = contact[r + 19]!;
  const hardest = contact[r + 18]!;
  const c = load === 0 ? 0 : hardest * slid <= most ? hardest : most / slid;
  // Newton's step knows what presses exactly when it pressed before the step too. Along the surface it took the force
  // to follow a spring, or when sliding not to grow: how far is that from the law?
  const held = contact[r + 11]!;
  const slides = first === 0 && contact[r + 17]! > 0;
  const bx = contact[r + 14]! - was * nx,
    by = contact[r + 15]! - was * ny,
    bz = contact[r + 16]! - was * nz;
  const b2 = bx * bx + by * by + bz * bz;
  const on =
    slides && b2 > 0 ? (bx * (held * tx + bx) + by * (held * ty + by) + bz * (held * tz + bz)) / b2 : 0;
  const gx = (held - c) * tx - on * bx,
    gy = (held - c) * ty - on * by,
    gz = (held - c) * tz - on * bz;
  const close = rub * load;
  const off = gx * gx + gy * gy + gz * gz > close * close;
  // Sliding on in one direction the force does not grow; turned back within the step it is tried whether it sticks.
  const turned = off && slides && tx * bx + ty * by + tz * bz > 0;
  const firm = turned && c > 0 ? hardest : c;
  contact[r + 17] = firm < hardest ? 1 : 0;
  contact[r + 11] = firm;
  contact[r + 12] = load;
  contact[r + 14] = load * nx - firm * tx;
  contact[r + 15] = load * ny - firm * ty;
  contact[r + 16] = load * nz - firm * tz;
  if ((load === 0) !== (was === 0)) return TOGGLED;
  return off ? CHANGED : 0;
}

/**
 * The most that friction holds follows the load found; while a step looks for its answer it stands still, which
 * keeps the problem one with a single least. Returns how many have changed.
 */
export function updateFriction(chain: ChainStep): Index {
  const contacts = int(chain.contacts);
  const { contact } = chain;
  let changed = 0;
  for (let k = 0; k < contacts; k++) {
    const r = k * CONTACT_ROW;
    const most = contact[r + 7]! * contact[r + 12]!;
    const was = contact[r + 19]!;
    if (Math.abs(most - was) <= FRICTION_TOLERANCE * Math.max(most, was)) continue;
    contact[r + 19] = most;
    changed++;
  }
  return changed;
}

/** Forces of the contacts as last read into the right-hand side, their stiffness into the band. */
export function addContacts(chain: ChainStep): void {
  const contacts = int(chain.contacts);
  const { contact, band, rhs } = chain;
  for (let k = 0; k < contacts; k++) {
    const r = k * CONTACT_ROW;
    const i = int(contact[r]!);
    const o = 3 * i;
    const t = contact[r + 1]!;
    const w = 1 - t;
    const pull = contact[r + 13]! > 0;
    const c = pull ? contact[r + 6]! : contact[r + 11]!;
    const load = contact[r + 12]!;
    // Direction of sliding: against the force along the surface.
    let ux: number = 0;
    let uy: number = 0;
    let uz: number = 0;
    if (!pull && contact[r + 17]! > 0) {
      ux = contact[r + 14]! - load * contact[r + 2]!;
      uy = contact[r + 15]! - load * contact[r + 3]!;
      uz = contact[r + 16]! - load * contact[r + 4]!;
      const l = Math.sqrt(ux * ux + uy * uy + uz * uz);
      const per = l > 0 ? Math.sqrt(c) / l : 0;
      ux *= per;
      uy *= per;
      uz *= per;
    }
    const across = pull || contact[r + 12]! === 0 ? 0 : contact[r + 6]! - c;
    for (let a = 0; a < 3; a++) {
      const force = contact[r + 14 + a]!;
      rhs[o + a]! += t * force;
      if (i > 0) rhs[o - 3 + a]! += w * force;
      for (let b = 0; b < 3; b++) {
        const ua = a === 0 ? ux : a === 1 ? uy : uz;
        const ub = b === 0 ? ux : b === 1 ? uy : uz;
        const kab = across * contact[r + 2 + a]! * contact[r + 2 + b]! + (a === b ? c : 0) - ua * ub;
        if (b <= a) {
          band[(o + a) * ROW - 8 * (a - b)]! += t * t * kab;
          if (i > 0) band[(o - 3 + a) * ROW - 8 * (a - b)]! += w * w * kab;
        }
        if (i > 0) band[(o + a) * ROW - 8 * (3 + a - b)]! += t * w * kab;
      }
    }
  }
}
