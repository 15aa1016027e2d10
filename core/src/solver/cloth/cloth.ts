import type { Field } from '../air';
import type { Body } from '../bodies';
import { makeBend } from './bend';
import { makeSheetContacts, type SheetSkin, type SheetTouches } from './contact';
import { makeLengths } from './lengths';
import { findPaths } from './paths';
import type { Sheet } from './sheet';
import { makeSheetAir, type SheetSail } from './wind';

/** What a sheet is made of. */
export interface SheetMatter {
  /** kg/m² */
  readonly weight: number;
  /** N/m, 0 for as hard as can be: against lengthening and against shortening. */
  readonly stretch: number;
  readonly compression: number;
  /** Bending rigidity, N m: the weight times the cube of the bending length. */
  readonly rigidity: number;
}

/** What acts on a sheet in one step. Arrays of places are m, 3 numbers a point. */
export interface SheetStep {
  /** m/s² */
  readonly gravity: ArrayLike<number>;
  /** Where its animation has each point at the start and at the end of the step. */
  readonly before: Float64Array;
  readonly now: Float64Array;
  /** Pull to the animation: ω² (1/s²), and the damping c = 2 ζ ω (1/s) of how it moves against it; one a point. */
  readonly pull: Float64Array;
  readonly drag: Float64Array;
  /** m: how far each point may be from its animation; Infinity for any way. */
  readonly leash: Float64Array;
  readonly sail: SheetSail;
  readonly field: Field | null;
}

/** A sheet in motion. */
export interface Cloth {
  readonly sheet: Sheet;
  readonly x: Float64Array;
  readonly v: Float64Array;
  /** kg a point. */
  readonly mass: Float64Array;
  /** Puts it at places, moving with speeds (m/s), 3 numbers a point each. */
  begin(x: Float64Array, v: Float64Array): void;
  /** One step of h seconds; the bodies stand where they go. */
  step(env: SheetStep): SheetTouches;
  /** All that it remembers. */
  readonly moving: readonly Float64Array[];
  readonly asides: readonly (Float64Array | Uint8Array)[];
}

/** Bending aims and wind are taken anew in every so many steps. */
const SELDOM = 4;
/** Rigidity (N m per kg/m²) above which aims that are not fresh would gain energy. */
const STIFF = 2e-3;

/**
 * Makes a sheet that moves in steps of `h` seconds; points that are `held` (1) follow their animation to the bit.
 * Position-based with direct solves along paths, second order in time by BDF2 with first-order steps where a contact
 * begins.
 */
export function makeCloth(
  sheet: Sheet,
  matter: SheetMatter,
  held: Uint8Array,
  h: number,
  bodies: readonly Body[],
  skin: () => SheetSkin,
): Cloth {
  const n = sheet.points;
  const make = () => new Float64Array(3 * n);
  const [x, old, older, v, vOld, push] = [make(), make(), make(), make(), make(), make()];
  // A point of no triangle weighs as much as its lightest neighbour would: nothing divides by it.
  const least = sheet.area.reduce((m, a) => (a > 0 && a < m ? a : m), Infinity);
  const mass = sheet.area.map((a) => matter.weight * (a > 0 ? a : least === Infinity ? 1 : least));
  const w = mass.map((m, i) => (held[i] ? 0 : 1 / m));
  const paths = findPaths(sheet);
  const lengths = makeLengths(sheet, paths, matter.stretch, matter.compression);
  const bend = matter.rigidity > 0 ? makeBend(sheet, paths, matter.rigidity, mass, w, 9 / (4 * h * h)) : null;
  const contacts = makeSheetContacts(bodies, n, skin);
  const air = makeSheetAir(sheet);
  /** Steps taken since it began, by turns of SELDOM, and whether the first is still to come. */
  const clock = new Float64Array(2);
  const jumps = new Uint8Array(n);
  const often = matter.rigidity > STIFF * matter.weight ? 1 : SELDOM;

  function predict(env: SheetStep): void {
    const first = clock[1] === 1;
    const hh = first ? h * h : (4 / 9) * h * h;
    for (let i = 0, o = 0; i < n; i++, o += 3) {
      if (w[i] === 0) {
        for (let a = 0; a < 3; a++) {
          old[o + a] = x[o + a]!;
          x[o + a] = env.now[o + a]!;
        }
        continue;
      }
      const q = hh * env.pull[i]!;
      const r = (first ? h : (2 / 3) * h) * env.drag[i]!;
      const over = 1 / (1 + q + r);
      for (let a = 0; a < 3; a++) {
        const k = o + a;
        const at = x[k]!;
        const accel = env.gravity[a]! + push[k]!;
        const free = first
          ? at + h * v[k]! + hh * accel
          : at + (at - older[k]!) / 3 + (8 / 9) * h * v[k]! - (2 / 9) * h * vOld[k]! + hh * accel;
        const carried = env.now[k]! - env.before[k]!;
        const along = first ? at + carried : (2 * at - 0.5 * older[k]! + carried) / 1.5;
        old[k] = at;
        x[k] = (free + q * env.now[k]! + r * along) * over;
      }
    }
  }

  function keepLeash(env: SheetStep): void {
    for (let i = 0, o = 0; i < n; i++, o += 3) {
      const most = env.leash[i]!;
      if (most === Infinity || w[i] === 0) continue;
      const dx = x[o]! - env.now[o]!;
      const dy = x[o + 1]! - env.now[o + 1]!;
      const dz = x[o + 2]! - env.now[o + 2]!;
      const d = Math.sqrt(dx * dx + dy * dy + dz * dz);
      if (d <= most) continue;
      for (let a = 0; a < 3; a++) x[o + a] = env.now[o + a]! + ((x[o + a]! - env.now[o + a]!) * most) / d;
      if ((contacts.touched[i]! & 3) !== 3) jumps[i] = 1;
      contacts.touched[i]! |= 4;
    }
  }

  function finish(): void {
    const first = clock[1] === 1;
    for (let i = 0, o = 0; i < n; i++, o += 3) {
      // The first two steps of a contact are first order: a bounce is no part of what it was before.
      if ((contacts.touched[i]! & 4) !== 0 && (contacts.touched[i]! & 3) !== 3) jumps[i] = 1;
      const simple = first || jumps[i] === 1;
      for (let k = o; k < o + 3; k++) {
        const speed = simple
          ? (x[k]! - old[k]!) / h
          : (1.5 * (x[k]! - old[k]!) - 0.5 * (old[k]! - older[k]!)) / h;
        vOld[k] = jumps[i] === 1 ? speed : v[k]!;
        v[k] = speed;
        older[k] = old[k]!;
      }
      jumps[i] = 0;
    }
    clock[1] = 0;
    clock[0] = (clock[0]! + 1) % SELDOM;
  }

  return {
    ...{ sheet, x, v, mass },
    begin: (places, speeds) => {
      x.set(places);
      old.set(places);
      older.set(places);
      v.set(speeds);
      vOld.set(speeds);
      clock.set([0, 1]);
      contacts.touched.fill(0);
      contacts.allowInside(x);
    },
    step: (env) => {
      if (clock[0] === 0) air.feel(x, env.field);
      push.fill(0);
      air.blow(push, x, v, w, env.sail);
      contacts.letOut(x, older, h);
      const perStep = clock[1] === 1 ? 1 / (h * h) : 9 / (4 * h * h);
      predict(env);
      contacts.find(x, old, w);
      contacts.solve(x, old);
      if (bend) {
        if (clock[0]! % often === 0) bend.aim(x);
        bend.solve(x);
      }
      lengths.solve(x, w, perStep);
      contacts.solve(x, old);
      keepLeash(env);
      finish();
      return contacts.finish(x, h);
    },
    moving: [x, older, v, vOld],
    asides: [clock, ...contacts.memory],
  };
}
