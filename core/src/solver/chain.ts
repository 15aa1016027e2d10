import { ChainStep, HARD, ROW } from '../kernel/chain/fields';
import { buildBase } from '../kernel/chain/base';
import { readLinks } from '../kernel/chain/links';
import { placeSource, readSource } from '../kernel/chain/source';
import { stepChain } from '../kernel/chain/step';
import { PAD8 } from '../kernel/factor';
import { quatBetween, quatMultiply, quatRotate } from '../math/index';
import { arrayAt, numberAt, type Arena, type Placed } from './arena';
import { calibrateChain, type ChainFeel, type ChainMatter } from './calibrate';
import { makeFields, type SourceRows } from './chainFields';
import type { SteppedPoints } from './points';

export type { SourceRows };

/** One chain in motion. `place` (or the caller) sets `source` and `sourceTurn` for the new moment, then `step`. */
export interface ChainSolver extends SteppedPoints {
  /** World orientation the source gives each link's joint, 4 numbers a link. */
  readonly sourceTurn: Float64Array;
  /** Turn of each link from its source orientation, 4 numbers a link; fresh after `updateTurns`. */
  readonly turns: Float64Array;
  /** Points and velocities one step earlier, like `x` and `v`. */
  readonly xOld: Float64Array;
  readonly vOld: Float64Array;
  /** Unit normal of the plane the links stay parallel to as their source is, when the feel has a plane. */
  readonly plane: Float64Array;
  /** What a force (N) is multiplied by in the next step's matrix, s²: by its length and order. */
  perForce(): number;
  /** Whether `grip` counts. */
  setAiry(is: boolean): void;
  /** Whether rubbing is followed so closely that laps of a loop come out alike. */
  setLooping(is: boolean): void;
  /** Gives the chain another feel (and weight, and what hangs on its points, kg) from the next step on. */
  tune(feel: ChainFeel, masses?: Float64Array, hung?: Float64Array): void;
  /** Carries all it remembers by a rigid travel: place and turn, 7 numbers. */
  carry(travel: Float64Array): void;
  /** Places the chain on its source, moving with the given velocities (3 a point, m/s). */
  reset(velocity: Float64Array): void;
  /** Puts the source at `share` of the way from row `row` to the next, by the cubic through four rows. */
  place(row: number, share: number): void;
  updateTurns(): void;
  /** Kinetic energy of the points, J. */
  kinetic(): number;
  /** Length iterations taken since the reset, for benchmarks. */
  iterations(): number;
}

/** The matrices of one length of step, of first and second order: see `arrange`. */
interface Matrices {
  /** s; 0 before there are any. */
  seconds: number;
  readonly bases: readonly [Float64Array, Float64Array];
  readonly lengthwises: readonly [Float64Array, Float64Array];
  /** The largest number of either: what is hard must not depend on which was built last. */
  readonly stiffests: [number, number];
  /** Whether they fit the feel. */
  readonly built: [boolean, boolean];
}

const NO_ROWS: SourceRows = { points: new Float64Array(0), turns: new Float64Array(0) };

/** See {@link ChainStep.rub}; and in a loop, whose laps must come out alike. */
const RUBBING_TOLERANCE = 0.02;
const LOOP_RUBBING_TOLERANCE = 1e-5;
/** How much harder a contact is than a length, so that it gives way least: the ratio of h² between the two orders. */
const FIRMER = 9 / 4;

const AT = new ChainStep();
const CONTACTS = numberAt(AT, 'contacts');
const AIRY = numberAt(AT, 'airy');
const RUB = numberAt(AT, 'rub');
const BASE = arrayAt(AT, 'base');
const LENGTHWISE = arrayAt(AT, 'lengthwise');
/** The numbers that an order or a feel changes, and where they stand. */
const CHANGING = (['h', 'H', 'b0', 'b1', 'b2', 'c43', 'c13', 'c89', 'c29', 'touch'] as const).map(
  (name) => [name, numberAt(AT, name)] as const,
);
const FLAGS = (['damped', 'bending', 'soft', 'coned', 'planar'] as const).map(
  (name) => [name, numberAt(AT, name)] as const,
);

class Chain implements ChainSolver {
  readonly links: number;
  readonly x: Float64Array;
  readonly xOld: Float64Array;
  readonly v: Float64Array;
  readonly vOld: Float64Array;
  readonly source: Float64Array;
  readonly sourceTurn: Float64Array;
  readonly mass: Float64Array;
  readonly fall: Float64Array;
  readonly grip: Float64Array;
  readonly plane: Float64Array;
  readonly contact: Float64Array;
  readonly memory: Float64Array;
  readonly before: Float64Array;
  readonly aims: Float64Array;
  readonly turns: Float64Array;
  private readonly fields: ChainStep;
  private readonly placed: Placed | undefined;
  /** Of the whole step, of the part of it that was last asked for, and those in use. */
  private readonly wholes: Matrices;
  private readonly parts: Matrices;
  private set: Matrices;
  private order: 1 | 2 = 2;
  private count = 0;
  private stuck = false;

  constructor(
    private readonly matter: ChainMatter,
    feel: ChainFeel,
    private readonly seconds: number,
    private readonly arena: Arena | null,
    rows: SourceRows,
  ) {
    const make = (size: number) => (arena ? arena.alloc(size) : new Float64Array(size));
    const { fields, aims, turns } = makeFields(matter, rows, make);
    const n = (this.links = fields.n);
    const matrices = (): Matrices => ({
      seconds: 0,
      bases: [make((3 * n + PAD8) * ROW), make((3 * n + PAD8) * ROW)],
      lengthwises: [make(n), make(n)],
      stiffests: [0, 0],
      built: [false, false],
    });
    this.wholes = matrices();
    this.parts = matrices();
    this.set = this.wholes;
    Object.assign(fields, { h: seconds, rub: RUBBING_TOLERANCE });
    Object.assign(fields, { base: this.set.bases[1], lengthwise: this.set.lengthwises[1] });
    this.fields = fields;
    this.placed = arena?.place(fields);
    this.aims = aims;
    this.turns = turns;
    this.memory = fields.state;
    ({ x: this.x, xOld: this.xOld, v: this.v, vOld: this.vOld, before: this.before } = fields);
    ({ source: this.source, sourceTurn: this.sourceTurn, plane: this.plane, contact: this.contact } = fields);
    ({ mass: this.mass, fall: this.fall, grip: this.grip } = fields);
    this.tune(feel);
  }

  tune(next: ChainFeel, masses?: Float64Array, hung?: Float64Array): void {
    const { fields, links, mass } = this;
    if (masses) mass.set(masses);
    const k = calibrateChain({ lengths: this.matter.lengths, masses: mass }, next, fields.h);
    if (hung) for (let i = 0; i < links; i++) mass[i]! += hung[i]!;
    fields.hold.set(k.hold);
    fields.bend.set(k.bend);
    fields.damped = k.alpha > 0 || k.beta > 0 ? 1 : 0;
    fields.bending = next.bend > 0 ? 1 : 0;
    fields.soft = k.stretch.some((share) => share > 0) ? 1 : 0;
    fields.coned = k.cone.some((c) => c > -1) ? 1 : 0;
    fields.planar = next.planar ? 1 : 0;
    if (this.placed) for (const [name, at] of FLAGS) this.placed.numbers[at] = fields[name];
    fields.limits.set(k.stretch);
    fields.cone.set(k.cone);
    for (let i = 0; i < links; i++) {
      fields.dampMass[i] = k.alpha * k.damping[i]!;
      fields.dampStiff[i] = k.beta * k.damping[i]!;
      for (let c = 0; c < 3; c++) this.fall[3 * i + c] = next.gravity[c]! * k.gravity[i]!;
    }
    fields.compliance.set(k.compliance);
    // All matrices are to be built anew.
    for (const { built } of [this.wholes, this.parts]) built[0] = built[1] = false;
    this.arrange();
  }

  setStep(next: number): void {
    if (next === this.fields.h) return;
    this.fields.h = next;
    this.arrange();
  }

  /** Goes on with the matrices of h. That of second order is always built, for it says what is hard. */
  private arrange(): void {
    const { h } = this.fields;
    const set = (this.set = h === this.seconds ? this.wholes : this.parts);
    if (set.seconds !== h) {
      set.seconds = h;
      set.built[0] = set.built[1] = false;
    }
    const now = this.order;
    if (now === 1 && !set.built[1]) this.useOrder(2);
    this.useOrder(now);
  }

  /**
   * Second order (BDF2) is the rule; first order (implicit Euler) for the substeps of an impact, where the past lies.
   */
  setOrder(next: 1 | 2): void {
    if (next !== this.order) this.useOrder(next);
  }

  private useOrder(next: 1 | 2): void {
    const { fields, set, placed } = this;
    const { h } = fields;
    this.order = next;
    const two = next === 2;
    fields.H = (two ? 4 / 9 : 1) * h * h;
    fields.touch = (two ? 2 / 3 : 1) * h;
    fields.c43 = two ? 4 / 3 : 1;
    fields.c13 = two ? 1 / 3 : 0;
    fields.c89 = two ? (8 / 9) * h : h;
    fields.c29 = two ? (2 / 9) * h : 0;
    fields.b0 = (two ? 1.5 : 1) / h;
    fields.b1 = (two ? 2 : 1) / h;
    fields.b2 = (two ? 0.5 : 0) / h;
    fields.base = set.bases[two ? 1 : 0];
    fields.lengthwise = set.lengthwises[two ? 1 : 0];
    if (placed) {
      for (const [name, at] of CHANGING) placed.numbers[at] = fields[name];
      placed.arrays[BASE] = fields.base.byteOffset;
      placed.arrays[LENGTHWISE] = fields.lengthwise.byteOffset;
    }
    if (!set.built[next - 1])
      set.stiffests[next - 1] = placed ? this.arena!.build(placed.at) : buildBase(fields);
    set.built[next - 1] = true;
  }

  reset(velocity: Float64Array): void {
    const { fields, source, x, xOld, v, vOld, turns, links } = this;
    const { h, past1, past2 } = fields;
    for (let i = 0; i < 3 * links + 3; i++) {
      x[i] = source[i]!;
      v[i] = velocity[i]!;
      vOld[i] = v[i]!;
      xOld[i] = x[i]! - h * v[i]!;
    }
    for (let i = 0; i < 3 * links; i++) {
      past1[i] = x[i + 3]! - x[i]!;
      past2[i] = xOld[i + 3]! - xOld[i]!;
    }
    fields.turnOld.set(this.sourceTurn);
    fields.tension.fill(0);
    turns.fill(0);
    for (let i = 0; i < links; i++) turns[4 * i + 3] = 1;
    this.count = 0;
  }

  forget(): void {
    const { fields, x, xOld, v, vOld } = this;
    for (let i = 0; i < x.length; i++) {
      vOld[i] = v[i]!;
      xOld[i] = x[i]! - fields.h * v[i]!;
    }
    for (let i = 0; i < fields.past2.length; i++) fields.past2[i] = xOld[i + 3]! - xOld[i]!;
  }

  place(row: number, share: number): void {
    if (this.placed) this.arena!.source(this.placed.at, row, share);
    else placeSource(this.fields, row, share);
  }

  step(): void {
    const taken = this.placed ? this.arena!.step(this.placed.at) : stepChain(this.fields);
    this.stuck = taken < 0;
    this.count += Math.abs(taken);
  }

  converged(): boolean {
    return !this.stuck;
  }

  iterations(): number {
    return this.count;
  }

  hardness(): number {
    return FIRMER * HARD * this.set.stiffests[1];
  }

  perForce(): number {
    return this.fields.H;
  }

  setContacts(used: number): void {
    this.fields.contacts = used;
    if (this.placed) this.placed.numbers[CONTACTS] = used;
  }

  setAiry(is: boolean): void {
    this.fields.airy = is ? 1 : 0;
    if (this.placed) this.placed.numbers[AIRY] = this.fields.airy;
  }

  setLooping(is: boolean): void {
    this.fields.rub = is ? LOOP_RUBBING_TOLERANCE : RUBBING_TOLERANCE;
    if (this.placed) this.placed.numbers[RUB] = this.fields.rub;
  }

  updateTurns(): void {
    const { fields, x, turns } = this;
    const { y, s, d } = fields;
    readSource(fields);
    for (let i = 0; i < y.length; i++) y[i] = x[i + 3]! - x[i % 3]!;
    readLinks(fields);
    for (let i = 0, o = 0, t = 0; i < this.links; i++, o += 3, t += 4) {
      const [sx, sy, sz] = [s[o]!, s[o + 1]!, s[o + 2]!];
      const [dx, dy, dz] = [d[o]!, d[o + 1]!, d[o + 2]!];
      quatBetween(turns, t, sx, sy, sz, dx, dy, dz, turns[t]!, turns[t + 1]!, turns[t + 2]!);
    }
  }

  kinetic(): number {
    const { mass, v } = this;
    let sum = 0;
    for (let i = 0; i < this.links; i++) {
      const o = 3 * i + 3;
      sum += 0.5 * mass[i]! * (v[o]! * v[o]! + v[o + 1]! * v[o + 1]! + v[o + 2]! * v[o + 2]!);
    }
    return sum;
  }

  carry(travel: Float64Array): void {
    const { x, xOld, v, vOld, fields } = this;
    for (let p = 0; p < x.length; p += 3) {
      for (const list of [x, xOld]) {
        quatRotate(list, p, travel, 3, list, p);
        for (let c = 0; c < 3; c++) list[p + c]! += travel[c]!;
      }
      for (const list of [v, vOld]) quatRotate(list, p, travel, 3, list, p);
    }
    const { past1, past2, turnOld } = fields;
    for (let p = 0; p < past1.length; p += 3)
      for (const list of [past1, past2]) quatRotate(list, p, travel, 3, list, p);
    for (let q = 0; q < turnOld.length; q += 4) quatMultiply(turnOld, q, travel, 3, turnOld, q);
  }
}

/**
 * A chain of n links under hold, bend, damping, gravity and (hard or soft) lengths, stepped by BDF2.
 *
 * Each step minimises ½|y − y*|²_M + 4/9 h² E(y) + ⅔h · dissipation by Newton's method on the points. A hard length is
 * a spring {@link HARD} times stiffer than the rest, and what that leaves is removed by laying the links out again, so
 * lengths are exact. The matrix is a band of half width 8, so one step costs a fixed amount a link. It holds the exact
 * Hessian of mass, hold and damping and the Gauss–Newton one of bending: the answer is implicit, and stiff settings
 * stay stable whatever the shape at rest. Tried before: a constant metric with the exact gradient (exact for straight
 * shapes, but curved ones gained energy without bound), and tensions as unknowns of their own in a quasi-definite band
 * of half width 10 (same motion, 2.5 times the cost).
 *
 * The step itself is core/src/kernel/chain. With an arena the arrays stand in WebAssembly memory and the same code runs
 * there, compiled, with the same bits; without one it is the reference.
 *
 * Bending is ½κ|u/l − r|², where r is the source direction of the link, carried by the turn of the link before it.
 * Turns are the smallest ones from the source direction, so that they depend on one link only and K stays a band.
 * Sources: second-order position-based stepping (Bender et al. 2014); direct solution of rods (Deul et al. 2018).
 */
export const makeChainSolver = (
  matter: ChainMatter,
  feel: ChainFeel,
  seconds: number,
  arena: Arena | null = null,
  rows: SourceRows = NO_ROWS,
): ChainSolver => new Chain(matter, feel, seconds, arena, rows);
