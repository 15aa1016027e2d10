import { finishCloth, predictCloth } from '../../kernel/cloth/advance';
import { blowCloth } from '../../kernel/cloth/air';
import { bendCords } from '../../kernel/cloth/cords';
import { aimBend } from '../../kernel/cloth/bend';
import { bendBack } from '../../kernel/cloth/bendPaths';
import { ClothStep } from '../../kernel/cloth/fields';
import { keepLengths } from '../../kernel/cloth/lengths';
import { keepLeash, readyTouches } from '../../kernel/cloth/move';
import type { Field } from '../air';
import { numberAt, type Arena, type ClothKernels } from '../arena';
import {
  bodyNumbers,
  makeSheetContacts,
  type SheetSkin,
  type SheetStart,
  type SheetTouches,
} from './contact';

import { Filling, type Fill } from './filling';
import { makeSelfContacts, selfNumbers } from './self';
import {
  bendFields,
  groupPaths,
  lengthFields,
  makeIn,
  pathFields,
  type Grouped,
  type Make,
  type SheetMatter,
} from './setup';
import { threadFields, threadSlots } from './threads';
import type { StepBody } from './stepBody';
import { looseSheet } from './loose';
import { findPaths, normalsOf, type Sheet } from '../../sheets/index';

/** How air takes hold of a sheet. */
export interface SheetSail {
  /** Coefficients of drag along the wind and of lift across it. */
  readonly drag: number;
  readonly lift: number;
  /** kg/m³ */
  readonly density: number;
}

/** What acts on a sheet in one step. Arrays of places are m, 3 numbers a point. */
export interface SheetStep {
  /** m/s² */
  readonly gravity: ArrayLike<number>;
  /** Where its animation has each point at both ends of the shot's step: taken up when `from` is 0. */
  readonly before: Float64Array;
  readonly now: Float64Array;
  /** The shares of the shot's step at which this one starts and ends. */
  readonly from: number;
  readonly to: number;
  readonly sail: SheetSail;
  /** What fills its closed pieces; left out, nothing does. */
  readonly fill?: Fill | null;
  /** Null is still air. */
  readonly field: Field | null;
  /** Whether it is the first step of a frame: what is looked for seldom is looked for then. */
  readonly fresh: boolean;
}

/** A sheet in motion. */
export interface Cloth {
  readonly sheet: Sheet;
  readonly x: Float64Array;
  readonly v: Float64Array;
  /** N: the largest pull of an edge without triangles in the last step. */
  tension(): number;
  /** How much of its volume at rest each closed piece has. */
  volumes(): number[];
  /** kg a point. */
  readonly mass: Float64Array;
  /** Pull to the animation: ω² (1/s²), and the damping c = 2 ζ ω (1/s) of how it moves against it; one a point. */
  readonly pull: Float64Array;
  readonly damp: Float64Array;
  /** m: how far each point may be from its animation; Infinity for any way. */
  readonly leash: Float64Array;
  /** m: how far each may be inward of it, against the unit normals of the animation at the end of the step. */
  readonly inner: Float64Array;
  readonly outward: Float64Array;
  /** Holds a point to its animation from now on, or lets it go with the speed it has. */
  hold(point: number, on: boolean): void;
  /** Puts it at places, moving with speeds (m/s), 3 numbers a point each. */
  begin(x: Float64Array, v: Float64Array): SheetStart;
  /** Makes every point faster by so much (m/s), 3 numbers a point. */
  kick(by: Float64Array): void;
  /** One step of h seconds; the bodies stand where they go. */
  step(env: SheetStep): SheetTouches;
  /** Gives bodies that move freely what they got back; `fall` is the speed (m/s) that gravity gives meanwhile. */
  react(fall: number): void;
  /** What moves, and what else it remembers. */
  readonly moving: readonly Float64Array[];
  readonly asides: readonly Float64Array[];
}

/** What a sheet is made from. */
export interface ClothNeeds {
  readonly sheet: Sheet;
  readonly matter: SheetMatter;
  /** Points that follow their animation to the bit. */
  readonly held: Uint8Array;
  /** s */
  readonly h: number;
  readonly bodies: readonly StepBody[];
  readonly skin: () => SheetSkin;
  /** Whether its layers keep apart. */
  readonly selfContact: boolean;
  /** An arena with room for so many numbers; null runs the same code as TypeScript, to the same bits. */
  readonly arena: ((numbers: number) => Arena) | null;
}

/** Bending aims and wind are taken anew in every so many steps. */
const SELDOM = 4;
/** Rigidity (N m per kg/m²) above which aims that are not fresh would gain energy. */
const STIFF = 2e-3;

const REFERENCE = {
  predictCloth,
  blowCloth,
  aimBend,
  bendBack,
  bendCords,
  keepLengths,
  keepLeash,
  finishCloth,
  readyTouches,
};

/** Numbers that a sheet takes of an arena at most: what stands by point, by triangle and by slot of its paths. */
const numbersOf = ({ sheet, bodies, selfContact }: ClothNeeds, { size, lanes }: Grouped): number =>
  (selfContact ? selfNumbers(sheet.points) : 0) +
  bodies.reduce(
    (sum, b) => sum + bodyNumbers(sheet.points, b),
    60 * (sheet.points + 1) +
      sheet.triangles.length +
      sheet.edges.length +
      25 * size +
      2 * lanes.length +
      1000,
  );

function fieldsOf(
  { sheet, matter, held, h }: ClothNeeds,
  paths: Grouped,
  make: Make,
): { fields: ClothStep; mass: Float64Array } {
  const n = sheet.points;
  // A point of no triangle weighs as much as the lightest of the others: nothing divides by it.
  const least = sheet.area.reduce((m, a) => (a > 0 && a < m ? a : m), Infinity);
  const mass = sheet.area.map((a) => matter.weight * (a > 0 ? a : least === Infinity ? 1 : least));
  // One point more, of no place and held: what stands for no point in a group.
  const beside = (size: number, more: number) => make.numbers(size + more).subarray(0, size);
  const w = beside(n, 1);
  mass.forEach((m, i) => (w[i] = held[i] ? 0 : 1 / m));
  const triangle = make.ints(sheet.triangles.length);
  triangle.set(sheet.triangles);
  const normal = beside(3 * n, 3);
  normalsOf(normal, sheet.rest, sheet.triangles);
  const needs = {
    sheet,
    paths,
    normals: normal,
    rigidity: matter.rigidity,
    stiffer: matter.stiffer ?? null,
    flat: matter.flat ?? false,
    mass,
    w,
    perStep: 9 / (4 * h * h),
  };
  const names = [
    ...(['x', 'old', 'older', 'v', 'vOld', 'push', 'now'] as const),
    ...(['skinFrom', 'skinTo', 'wind', 'past', 'seen'] as const),
  ] as const;
  const places = Object.fromEntries(names.map((k) => [k, beside(3 * n, 3)])) as Record<
    (typeof names)[number],
    Float64Array
  >;
  const fields = Object.assign(new ClothStep(), {
    ...threadFields(sheet, paths, needs, make),
    ...{ points: n, triangles: sheet.triangles.length / 3, h },
    ...{ ...places, w, triangle, normal },
    ...{ pull: beside(n, 1), damp: beside(n, 1), touched: beside(n, 1) },
    ...{ leash: make.numbers(n).fill(Infinity), own: make.numbers(n), gone: make.numbers(n) },
    ...{ inner: make.numbers(n).fill(Infinity), outward: make.numbers(3 * n) },
    ...pathFields(paths, n, make),
    ...lengthFields(sheet, paths, matter, make),
    ...bendFields(needs, make),
  });
  return { fields, mass };
}

const felt = new Float64Array(6);

/** Takes up the wind (m/s) and the pulls (m/s²) of a field at places. Returns whether anything pulls. */
function feel(field: Field | null, x: Float64Array, wind: Float64Array, pulls: Float64Array): boolean {
  wind.fill(0);
  pulls.fill(0);
  let any = false;
  if (!field) return any;
  for (let o = 0; o < wind.length; o += 3) {
    felt.fill(0);
    field(felt, x[o]!, x[o + 1]!, x[o + 2]!);
    for (let a = 0; a < 3; a++) {
      wind[o + a] = felt[a]!;
      pulls[o + a] = felt[3 + a]!;
      if (felt[3 + a] !== 0) any = true;
    }
  }
  return any;
}

/** Runs the steps of a sheet, compiled where there is an arena, and tells them numbers. */
function kernelsOf(fields: ClothStep, arena: Arena | null) {
  const placed = arena?.place(fields);
  return {
    run: (name: keyof typeof REFERENCE & keyof ClothKernels) =>
      placed ? arena!.cloth[name](placed.at) : REFERENCE[name](fields),
    put: (name: NumberName, value: number) => {
      fields[name] = value;
      if (placed) placed.numbers[NUMBERS[name]] = value;
    },
  };
}

/** Takes up gravity, air and what attracts the points at the start of a step. */
function takeAir(
  { gravity, sail, field }: SheetStep,
  { x, wind, push }: ClothStep,
  { run, put }: ReturnType<typeof kernelsOf>,
  { clock, pulls }: { clock: Float64Array; pulls: Float64Array },
): void {
  put('gx', gravity[0]!);
  put('gy', gravity[1]!);
  put('gz', gravity[2]!);
  for (const k of ['density', 'drag', 'lift'] as const) put(k, sail[k]);
  if (clock[0] === 0) clock[2] = Number(feel(field, x, wind, pulls));
  if (sail.density > 0 && (sail.drag > 0 || sail.lift > 0)) run('blowCloth');
  else push.fill(0);
  if (clock[2] === 1) for (let k = 0; k < push.length; k++) push[k]! += pulls[k]!;
}

/**
 * Makes a sheet. Position-based with direct solves along paths, second order in time by BDF2 with first-order steps
 * where a contact begins.
 */
export function makeCloth(needs: ClothNeeds): Cloth {
  const { sheet, matter, bodies, skin, h } = needs;
  const loose = looseSheet(sheet, matter, needs.held);
  const paths = groupPaths(findPaths(loose.sheet), sheet.points);
  const threads = threadSlots(loose.sheet, paths);
  const arena = needs.arena?.(numbersOf(needs, paths)) ?? null;
  const make = makeIn(arena);
  const { fields, mass } = fieldsOf({ ...needs, ...loose }, paths, make);
  const { x, old, older, v, vOld, push, w, wind, touched } = fields;
  const { run, put } = kernelsOf(fields, arena);
  const pulls = new Float64Array(3 * sheet.points);
  const contacts = makeSheetContacts(bodies, fields, skin, make, arena);
  const self = needs.selfContact ? makeSelfContacts(sheet, fields, make, arena) : null;
  /**
   * Steps taken since it began (in turns of SELDOM), whether the first is to come, whether something attracts it, and
   * frames (in turns of 2).
   */
  const clock = new Float64Array(4);
  let filling: Filling | null = null;
  const filled = () => (filling ??= new Filling(sheet, w, mass, touched));
  const often = matter.rigidity > STIFF * matter.weight ? 1 : SELDOM;

  return {
    ...{ sheet, x, v, mass, pull: fields.pull, damp: fields.damp, leash: fields.leash },
    ...{ inner: fields.inner, outward: fields.outward },
    tension: () => threads.reduce((most, k) => Math.max(most, (-9 * fields.pulls[k]!) / (4 * h * h)), 0),
    volumes: () => filled().volumes(x),
    hold: (p, on) => (w[p] = on ? 0 : 1 / mass[p]!),
    begin: (places, speeds) => {
      for (const a of [x, old, older]) a.set(places);
      for (const a of [v, vOld]) a.set(speeds);
      clock.set([0, 1, 0, 0]);
      touched.fill(0);
      return contacts.allowInside();
    },
    kick: (by) => {
      for (const speeds of [v, vOld]) by.forEach((s, k) => (speeds[k]! += s));
      // Where it was says no more how fast it is.
      clock[1] = 1;
    },
    step: (env) => {
      if (env.from === 0) {
        fields.skinFrom.set(env.before);
        fields.skinTo.set(env.now);
      }
      put('from', env.from);
      put('to', env.to);
      put('first', clock[1]!);
      takeAir(env, fields, { run, put }, { clock, pulls });
      const fill = env.fill ?? null;
      if (fill) filled().lift(push, x, env.gravity, fill.float);
      contacts.letOut();
      run('predictCloth');
      run('readyTouches');
      if (env.fresh) clock[3] = 1 - clock[3]!;
      contacts.find(env.fresh, clock[3]!);
      self?.find(env.fresh);
      contacts.solve();
      if (matter.rigidity > 0) {
        if (clock[0]! % often === 0) run('aimBend');
        run('bendBack');
        if (fields.knots > 0) run('bendCords');
      }
      run('keepLengths');
      if (fill) filled().keep(x, fill, (clock[1] === 1 ? 1 : 9 / 4) / h ** 2);
      self?.solve(skin().friction);
      contacts.solve();
      if (fill) filled().hold(x);
      run('keepLeash');
      run('finishCloth');
      clock[1] = 0;
      clock[0] = (clock[0]! + 1) % SELDOM;
      return contacts.finish();
    },
    react: contacts.react,
    moving: [x, older, v, vOld],
    asides: [clock, touched, wind, pulls, fields.aims, ...contacts.memory],
  };
}

const NAMES = ['first', 'from', 'to', 'gx', 'gy', 'gz', 'density', 'drag', 'lift'] as const;
type NumberName = (typeof NAMES)[number];
const NUMBERS = Object.fromEntries(NAMES.map((k) => [k, numberAt(new ClothStep(), k)])) as Record<
  NumberName,
  number
>;
