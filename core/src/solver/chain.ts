import { quatBetween, quatMultiply, quatRotate } from '../math/index';
import { bandFactor8, bandSolve8, PAD8 } from '../math/band';
import { blendRows } from '../math/rows';
import type { Arena } from './arena';
import { calibrateChain, type ChainFeel, type ChainMatter } from './calibrate';

/** The source motion of a chain by frames: rows of points (links + 1, 3 numbers each) and of world turns (links, 4 each). */
export interface SourceRows {
  /** m */
  readonly points: Float64Array;
  /** Signs continuous in time. */
  readonly turns: Float64Array;
}

/** One chain in motion. `place` (or the caller) sets `source` and `sourceTurn` for the new moment, then `step`. */
export interface ChainSolver {
  readonly links: number;
  /** Points 0..n, 3 numbers each, m. Point 0 is the root. */
  readonly x: Float64Array;
  /** Where the source has the points at the moment being stepped to. */
  readonly source: Float64Array;
  /** World orientation the source gives each link's joint, 4 numbers a link. */
  readonly sourceTurn: Float64Array;
  /** Turn of each link from its source orientation, 4 numbers a link; fresh after `updateTurns`. */
  readonly turns: Float64Array;
  /** Points one step earlier, and velocities now and one step earlier (m, m/s), like `x`. */
  readonly xOld: Float64Array;
  readonly v: Float64Array;
  readonly vOld: Float64Array;
  /** kg of points 1..n. */
  readonly mass: Float64Array;
  /** Acceleration from outside on points 1..n, 3 numbers each, m/s²: gravity and what else the caller adds. */
  readonly fall: Float64Array;
  /** How firmly still air holds points 1..n, kg/s. */
  readonly grip: Float64Array;
  /** Unit normal of the plane the links stay parallel to as their source is, when the feel has a plane. */
  readonly plane: Float64Array;
  /** What touches or pulls the chain during the next step, in rows of {@link CONTACT_ROW}; see `CONTACT`. */
  readonly contact: Float64Array;
  /** Stiffness (in the units of the step's matrix) that counts as hard for this chain. */
  hardness(): number;
  /** What a force (N) is multiplied by in the next step's matrix, s²: by its length and order. */
  perForce(): number;
  /** Whether `grip` counts. */
  setAiry(is: boolean): void;
  /** Whether rubbing is followed so closely that laps of a loop come out alike. */
  setLooping(is: boolean): void;
  /** How many rows of `contact` are in use. */
  setContacts(count: number): void;
  /** 2 is the rule; 1 takes the next steps by implicit Euler, for substeps in which something hits. */
  setOrder(order: 1 | 2): void;
  /** Steps of this many seconds from now on; the rule is the one it was made with. */
  setStep(seconds: number): void;
  /** Whether the last step kept its lengths and knew what touches. */
  converged(): boolean;
  /** Gives the chain another feel (and weight, and what hangs on its points, kg) from the next step on. */
  tune(feel: ChainFeel, masses?: Float64Array, hung?: Float64Array): void;
  /** All the chain remembers, in one array: points and velocities now and before among it. */
  readonly memory: Float64Array;
  /** The same before the last step, when something was near in it. */
  readonly before: Float64Array;
  /** `source`, then `sourceTurn`, as one array. */
  readonly aims: Float64Array;
  /** Carries all it remembers by a rigid travel: place and turn, 7 numbers. */
  carry(travel: Float64Array): void;
  /** Forgets how points moved before: velocities are now `v`, as if they had always been. */
  forget(): void;
  /** Places the chain on its source, moving with the given velocities (3 a point, m/s). */
  reset(velocity: Float64Array): void;
  /** Puts the source at `share` of the way from row `row` to the next, by the cubic through four rows. */
  place(row: number, share: number): void;
  step(): void;
  updateTurns(): void;
  /** Kinetic energy of the points, J. */
  kinetic(): number;
  /** Length iterations taken since the reset, for benchmarks. */
  iterations(): number;
}

/** The matrices of one length of step, of first and second order: see `build`. */
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

/** Numbers of a row of {@link ChainSolver.contact}. */
export const CONTACT_ROW = 20;
/** Where the numbers of a contact row stand. Places are relative to the root at the moment being stepped to. */
export const CONTACT = {
  /** Link, and the share along it from its root end. */
  link: 0,
  along: 1,
  /** Unit normal away from what is touched; the point must stay where normal · place ≥ offset. */
  normal: 2,
  offset: 5,
  /** Stiffness against the normal, and at most along the surface, in units of the step's matrix. */
  stiffness: 6,
  friction: 7,
  /** Place the point would have if it stuck to what it touches (or is pulled to, for a pull). */
  anchor: 8,
  /** Found by the step: stiffness along the surface, force along the normal (units of the step; begins as it was in the step before), whole force. */
  sticking: 11,
  load: 12,
  /** 0: touches from one side. 1: is pulled to the anchor from anywhere. */
  kind: 13,
  force: 14,
  hardest: 18,
  /** The most that friction holds along the surface, in units of the step: begins as it was in the step before. */
  grip: 19,
} as const;
/** How many numbers a header holds before its arrays, and where three of them stand: see `writeNumbers`. */
const NUMBERS = 20;
const CONTACTS_AT = 11;
const AIRY_AT = 17;
const RUB_AT = 19;
/** A whole number kept among real ones; the compiled kernel turns it into an index here. */
const int = (x: number): number => x;

/** Largest relative length error left before the exact re-laying; below it a further iteration changes nothing seen. */
const LENGTH_TOLERANCE = 1e-4;
const MOST_ITERATIONS = 10;
/** While something touches: a contact that comes or goes asks for one more. */
const MOST_CONTACT_ITERATIONS = 24;
/** Share of its load by which what a contact rubs with may still change when a step is called done; and in a loop, whose laps must come out alike. */
const RUBBING_TOLERANCE = 0.02;
const LOOP_RUBBING_TOLERANCE = 1e-5;
/** Share by which the most that friction holds may be off, and how often it is set anew in a step. */
const FRICTION_TOLERANCE = 0.2;
const FRICTION_UPDATES = 1;
/** After so many iterations it is set anew too, unless a contact has just come or gone: its load says little then. */
const EARLY_ITERATIONS = 2;
/** How much stiffer a hard length is than anything else in its chain: leaves 1e-7 of a step to the re-laying. */
const HARD = 1e7;
/** How much harder a contact is than a length, so that it gives way least: the ratio of h² between the two orders. */
const FIRMER = 9 / 4;

/**
 * A chain of n links under hold, bend, damping, gravity and (hard or soft) lengths, stepped by BDF2.
 *
 * Each step minimises ½|y − y*|²_M + 4/9 h² E(y) + ⅔h · dissipation by Newton's method on the points. A hard length
 * is a spring {@link HARD} times stiffer than the rest, and what that leaves is removed by laying the links out again,
 * so lengths are exact. The matrix is a band of half width 8, so one step costs a fixed amount a link. It holds the exact Hessian of mass, hold and damping and the Gauss–Newton one of bending: the answer is
 * implicit, and stiff settings stay stable whatever the shape at rest. Tried before: a constant metric with the exact
 * gradient (exact for straight shapes, but curved ones gained energy without bound), and tensions as unknowns of their
 * own in a quasi-definite band of half width 10 (same motion, 2.5 times the cost).
 *
 * With an arena the arrays stand in WebAssembly memory and the same step runs there, with the same bits: its code is
 * made from this file. Without one this is the reference.
 *
 * Bending is ½κ|u/l − r|², where r is the source direction of the link, carried by the turn of the link before it.
 * Turns are the smallest ones from the source direction, so that they depend on one link only and K stays a band.
 * Sources: second-order position-based stepping (Bender et al. 2014); direct solution of rods (Deul et al. 2018).
 */
export function makeChainSolver(
  matter: ChainMatter,
  feel: ChainFeel,
  seconds: number,
  arena: Arena | null = null,
  rows: SourceRows = NO_ROWS,
): ChainSolver {
  const n = matter.lengths.length;
  const n3 = 3 * n;
  let h = seconds;
  const make = (size: number) => (arena ? arena.alloc(size) : new Float64Array(size));
  const keep = (values: Float64Array) => {
    const out = make(values.length);
    out.set(values);
    return out;
  };
  const rest = keep(matter.lengths);
  const perRest = keep(matter.lengths.map((l) => 1 / l));
  const mass = keep(matter.masses);
  const hold = make(n);
  const bend = make(n);
  // Coefficients of the step; `setOrder` changes them.
  let H = 0;
  let touch = 0;
  let c43 = 0;
  let c13 = 0;
  let c89 = 0;
  let c29 = 0;
  let b0 = 0;
  let b1 = 0;
  let b2 = 0;
  /** Damping of points (1/s) and of links (s). */
  const dampMass = make(n);
  const dampStiff = make(n);
  /** Largest share by which each link may stretch, and least cosine to its source. */
  const limits = make(n);
  const cone = make(n);
  const fall = make(n3);
  const grip = make(n);
  const plane = make(3);
  const contact = make(CONTACT_ROW * mostContacts(n));
  let contacts = 0;
  let damped = false;
  let bending = false;
  let soft = false;
  let coned = false;
  let planar = false;
  let airy = false;

  const inTurn = (all: Float64Array) => {
    let at = 0;
    return (size: number) => all.subarray(at, (at += size));
  };
  // One array, so that a step can be taken back in one go.
  const state = make(4 * (n3 + 3) + 2 * n3 + 5 * n);
  const before = make(state.length);
  const remembered = inTurn(state);
  const x = remembered(n3 + 3);
  const xOld = remembered(n3 + 3);
  const v = remembered(n3 + 3);
  const vOld = remembered(n3 + 3);
  const past1 = remembered(n3);
  const past2 = remembered(n3);
  const turnOld = remembered(4 * n);
  const tension = remembered(n);
  const { points, turns: turnRows } = rows;
  const lastRow = points.length / (n3 + 3) - 1;
  const aims = make(n3 + 3 + 4 * n);
  const source = aims.subarray(0, n3 + 3);
  const sourceTurn = aims.subarray(n3 + 3);
  const turns = make(4 * n);
  // Scratch of a step, relative to the new root: column i is point i+1.
  const y = make(n3);
  const target = make(n3);
  const u = make(n3);
  const d = make(n3);
  const s = make(n3);
  const length = make(n);
  const aim = make(n);
  const perAim = make(n);
  const carried = make(n3);
  const f = make(n3);
  // Unknowns 3i..3i+2: move of point i+1.
  const row = 9;
  const pad = PAD8;
  const band = make((n3 + pad) * row);
  const rhs = make(n3);
  let count = 0;
  let stuck = 0;
  /** Contacts that came or went when last read. */
  let toggled = 0;
  let rub = RUBBING_TOLERANCE;

  /** The part of the matrix that the shape does not change: mass, hold, all damping, and bending on its own link. */
  const matrices = (): Matrices => ({
    seconds: 0,
    bases: [make((n3 + pad) * row), make((n3 + pad) * row)],
    lengthwises: [make(n), make(n)],
    stiffests: [0, 0],
    built: [false, false],
  });
  /** Of the whole step, and of the part of it that was last asked for. */
  const wholes = matrices();
  const parts = matrices();
  let set = wholes;
  let base = set.bases[1];
  let lengthwise = set.lengthwises[1];
  const compliance = make(n);
  let order: 1 | 2 = 2;

  function tune(next: ChainFeel, masses?: Float64Array, hung?: Float64Array): void {
    if (masses) mass.set(masses);
    const k = calibrateChain({ lengths: matter.lengths, masses: mass }, next, h);
    if (hung) for (let i = 0; i < n; i++) mass[i]! += hung[i]!;
    hold.set(k.hold);
    bend.set(k.bend);
    damped = k.alpha > 0 || k.beta > 0;
    bending = next.bend > 0;
    soft = k.stretch.some((share) => share > 0);
    coned = k.cone.some((c) => c > -1);
    planar = next.planar;
    limits.set(k.stretch);
    cone.set(k.cone);
    for (let i = 0; i < n; i++) {
      dampMass[i] = k.alpha * k.damping[i]!;
      dampStiff[i] = k.beta * k.damping[i]!;
      for (let c = 0; c < 3; c++) fall[3 * i + c] = next.gravity[c]! * k.gravity[i]!;
    }
    compliance.set(k.compliance);
    rebuild();
  }

  function setStep(next: number): void {
    if (next === h) return;
    h = next;
    arrange();
  }

  /** The feel has changed: all matrices are to be built anew. */
  function rebuild(): void {
    for (const { built } of [wholes, parts]) built[0] = built[1] = false;
    arrange();
  }

  /** Goes on with the matrices of h. That of second order is always built, for it says what is hard. */
  function arrange(): void {
    set = h === seconds ? wholes : parts;
    if (set.seconds !== h) {
      set.seconds = h;
      set.built[0] = set.built[1] = false;
    }
    const now = order;
    if (now === 1 && !set.built[1]) useOrder(2);
    useOrder(now);
  }

  /** Second order (BDF2) is the rule; first order (implicit Euler) for the substeps of an impact, where the past lies. */
  function setOrder(next: 1 | 2): void {
    if (next !== order) useOrder(next);
  }

  function useOrder(next: 1 | 2): void {
    order = next;
    const two = next === 2;
    H = (two ? 4 / 9 : 1) * h * h;
    touch = (two ? 2 / 3 : 1) * h;
    c43 = two ? 4 / 3 : 1;
    c13 = two ? 1 / 3 : 0;
    c89 = two ? (8 / 9) * h : h;
    c29 = two ? (2 / 9) * h : 0;
    b0 = (two ? 1.5 : 1) / h;
    b1 = (two ? 2 : 1) / h;
    b2 = (two ? 0.5 : 0) / h;
    const { bases, lengthwises, stiffests, built } = set;
    base = bases[next === 1 ? 0 : 1];
    lengthwise = lengthwises[next === 1 ? 0 : 1];
    if (header) {
      writeNumbers(header);
      header[baseAt] = base.byteOffset;
      header[lengthwiseAt] = lengthwise.byteOffset;
    }
    if (!built[next - 1]) stiffests[next - 1] = arena && header ? arena.build(header.byteOffset) : build();
    built[next - 1] = true;
  }

  function reset(velocity: Float64Array): void {
    for (let i = 0; i < n3 + 3; i++) {
      x[i] = source[i]!;
      v[i] = velocity[i]!;
      vOld[i] = v[i]!;
      xOld[i] = x[i]! - h * v[i]!;
    }
    for (let i = 0; i < n3; i++) {
      past1[i] = x[i + 3]! - x[i]!;
      past2[i] = xOld[i + 3]! - xOld[i]!;
    }
    turnOld.set(sourceTurn);
    turns.fill(0);
    tension.fill(0);
    for (let i = 0; i < n; i++) turns[4 * i + 3] = 1;
    count = 0;
  }

  // What stands up to "kernel: end" is also compiled (scripts/kernelSource.ts), which knows only what is used here.
  // kernel: begin

  /** Adds a stiffness of link vector i to a band, the same on each axis. */
  function addLink(to: Float64Array, i: number, weight: number): void {
    for (let c = 0; c < 3; c++) {
      const at = (3 * i + c) * row;
      to[at]! += weight;
      if (i > 0) {
        to[at - 24]! -= weight;
        to[at - 3 * row]! += weight;
      }
    }
  }

  /** Builds `base` and `lengthwise` for the order in use; returns the largest number of `base`. */
  function build(): number {
    for (let k = 0; k < n3 * row; k++) base[k] = 0;
    for (let i = 0; i < n; i++) {
      for (let c = 0; c < 3; c++) base[(3 * i + c) * row]! += mass[i]! * (1 + touch * dampMass[i]!);
      addLink(base, i, (H + touch * dampStiff[i]!) * hold[i]!);
      if (!bending) continue;
      const a = 1 / rest[i]!;
      const damp = touch * dampStiff[i]! * bend[i]!;
      if (i === 0) {
        addLink(base, 0, (H * bend[0]! + damp) * a * a);
        continue;
      }
      const b = 1 / rest[i - 1]!;
      for (let c = 0; c < 3; c++) {
        const at = (3 * i + c) * row;
        base[at]! += (damp + H * bend[i]!) * a * a;
        base[at - 24]! -= damp * a * (a + b);
        base[at - 3 * row]! += damp * (a + b) * (a + b);
        if (i > 1) {
          base[at - 48]! += damp * a * b;
          base[at - 3 * row - 24]! -= damp * b * (a + b);
          base[at - 6 * row]! += damp * b * b;
        }
      }
    }
    let stiffest: number = 0;
    for (let k = 0; k < n3 * row; k++) stiffest = Math.max(stiffest, base[k]!);
    // Without a stretch of its own a link is hard, even beside soft ones.
    for (let i = 0; i < n; i++) lengthwise[i] = compliance[i]! > 0 ? H / compliance[i]! : HARD * stiffest;
    return stiffest;
  }

  /** Row `entry` of the source motion, going on to the next by `share`. */
  function placeSource(entry: number, share: number): void {
    blendRows(source, points, n3 + 3, lastRow, entry, share);
    blendRows(sourceTurn, turnRows, 4 * n, lastRow, entry, share);
    for (let k = 0; k < 4 * n; k += 4) {
      const qx = sourceTurn[k]!,
        qy = sourceTurn[k + 1]!,
        qz = sourceTurn[k + 2]!,
        qw = sourceTurn[k + 3]!;
      const per = 1 / Math.sqrt(qx * qx + qy * qy + qz * qz + qw * qw);
      sourceTurn[k] = qx * per;
      sourceTurn[k + 1] = qy * per;
      sourceTurn[k + 2] = qz * per;
      sourceTurn[k + 3] = qw * per;
    }
  }

  /** Source directions and the lengths to keep at the new moment. */
  function readSource(): void {
    for (let i = 0, o = 0; i < n; i++, o += 3) {
      const a = source[o + 3]! - source[o]!,
        b = source[o + 4]! - source[o + 1]!,
        c = source[o + 5]! - source[o + 2]!;
      const l = Math.sqrt(a * a + b * b + c * c);
      if (l > 1e-9 * rest[i]!) {
        const per = 1 / l;
        s[o] = a * per;
        s[o + 1] = b * per;
        s[o + 2] = c * per;
        aim[i] = l;
        perAim[i] = per;
      } else {
        aim[i] = rest[i]!;
        perAim[i] = perRest[i]!;
      }
    }
  }

  /** Past link vectors, turned with the source since, so that damping acts on motion relative to it only. */
  function carryPast(): void {
    for (let i = 0, o = 0, t = 0; i < n; i++, o += 3, t += 4) {
      const ax = sourceTurn[t]!,
        ay = sourceTurn[t + 1]!,
        az = sourceTurn[t + 2]!,
        aw = sourceTurn[t + 3]!;
      const bx = -turnOld[t]!,
        by = -turnOld[t + 1]!,
        bz = -turnOld[t + 2]!,
        bw = turnOld[t + 3]!;
      const qx = aw * bx + ax * bw + ay * bz - az * by;
      const qy = aw * by - ax * bz + ay * bw + az * bx;
      const qz = aw * bz + ax * by - ay * bx + az * bw;
      const qw = aw * bw - ax * bx - ay * by - az * bz;
      const m00 = 1 - 2 * (qy * qy + qz * qz),
        m01 = 2 * (qx * qy - qz * qw),
        m02 = 2 * (qx * qz + qy * qw);
      const m10 = 2 * (qx * qy + qz * qw),
        m11 = 1 - 2 * (qx * qx + qz * qz),
        m12 = 2 * (qy * qz - qx * qw);
      const m20 = 2 * (qx * qz - qy * qw),
        m21 = 2 * (qy * qz + qx * qw),
        m22 = 1 - 2 * (qx * qx + qy * qy);
      const p = past1[o]!,
        q = past1[o + 1]!,
        r = past1[o + 2]!;
      const x1 = m00 * p + m01 * q + m02 * r,
        y1 = m10 * p + m11 * q + m12 * r,
        z1 = m20 * p + m21 * q + m22 * r;
      const p2 = past2[o]!,
        q2 = past2[o + 1]!,
        r2 = past2[o + 2]!;
      const x2 = m00 * p2 + m01 * q2 + m02 * r2,
        y2 = m10 * p2 + m11 * q2 + m12 * r2,
        z2 = m20 * p2 + m21 * q2 + m22 * r2;
      past1[o] = x1;
      past1[o + 1] = y1;
      past1[o + 2] = z1;
      carried[o] = (4 * x1 - x2) / 3;
      carried[o + 1] = (4 * y1 - y2) / 3;
      carried[o + 2] = (4 * z1 - z2) / 3;
    }
    turnOld.set(sourceTurn);
  }

  /** Link vectors, lengths and unit directions of y; returns the largest relative departure from `aim`. */
  function readLinks(): number {
    let worst: number = 0;
    for (let i = 0, o = 0; i < n; i++, o += 3) {
      const a = y[o]! - (i > 0 ? y[o - 3]! : 0),
        b = y[o + 1]! - (i > 0 ? y[o - 2]! : 0),
        c = y[o + 2]! - (i > 0 ? y[o - 1]! : 0);
      const l = Math.sqrt(a * a + b * b + c * c);
      u[o] = a;
      u[o + 1] = b;
      u[o + 2] = c;
      length[i] = l;
      if (l > 1e-9 * aim[i]!) {
        const per = 1 / l;
        d[o] = a * per;
        d[o + 1] = b * per;
        d[o + 2] = c * per;
      } else {
        d[o] = s[o]!;
        d[o + 1] = s[o + 1]!;
        d[o + 2] = s[o + 2]!;
      }
      const e = Math.abs(l * perAim[i]! - 1);
      if (e > worst) worst = e;
    }
    return worst;
  }

  /** Directions kept in their cones, and parallel to the plane as far as their source is. */
  function confine(): void {
    for (let i = 0, o = 0; i < n; i++, o += 3) {
      if (planar) {
        const px = plane[0]!,
          py = plane[1]!,
          pz = plane[2]!;
        const off = d[o]! * px + d[o + 1]! * py + d[o + 2]! * pz;
        const kept = s[o]! * px + s[o + 1]! * py + s[o + 2]! * pz;
        const ax = d[o]! - off * px,
          ay = d[o + 1]! - off * py,
          az = d[o + 2]! - off * pz;
        const l = Math.sqrt(ax * ax + ay * ay + az * az);
        if (l > 1e-9) {
          const per = Math.sqrt(Math.max(0, 1 - kept * kept)) / l;
          d[o] = ax * per + kept * px;
          d[o + 1] = ay * per + kept * py;
          d[o + 2] = az * per + kept * pz;
        }
      }
      const least = cone[i]!;
      const c = d[o]! * s[o]! + d[o + 1]! * s[o + 1]! + d[o + 2]! * s[o + 2]!;
      if (c >= least) continue;
      const ax = d[o]! - c * s[o]!,
        ay = d[o + 1]! - c * s[o + 1]!,
        az = d[o + 2]! - c * s[o + 2]!;
      const l = Math.sqrt(ax * ax + ay * ay + az * az);
      const per = l > 1e-12 ? Math.sqrt(1 - least * least) / l : 0;
      d[o] = least * s[o]! + per * ax;
      d[o + 1] = least * s[o + 1]! + per * ay;
      d[o + 2] = least * s[o + 2]! + per * az;
    }
  }

  /** y from directions and lengths, root to tip. */
  function relay(): void {
    for (let i = 0, o = 0; i < n; i++, o += 3) {
      const share = limits[i]!;
      const l = Math.min(Math.max(length[i]!, aim[i]! * (1 - share)), aim[i]! * (1 + share));
      y[o] = l * d[o]! + (i > 0 ? y[o - 3]! : 0);
      y[o + 1] = l * d[o + 1]! + (i > 0 ? y[o - 2]! : 0);
      y[o + 2] = l * d[o + 2]! + (i > 0 ? y[o - 1]! : 0);
    }
  }

  /**
   * Bending between link i−1 and link i (or the carried root and link 0): gradient into `f` (per link vector) and
   * Gauss–Newton Hessian into the band. e = u_i/l_i − r(d_{i−1}); δr = G δu_{i−1}, with
   * G = [(d·r) I − d rᵀ − (d×r) wᵀ]/l and w = (s×d)/(1 + s·d), the twist of the smallest turn from s to d.
   */
  function addBend(i: number): void {
    const o = 3 * i;
    const kappa = H * bend[i]!;
    const a = perRest[i]!;
    if (i === 0) {
      for (let c = 0; c < 3; c++) f[c]! += kappa * a * (u[c]! * a - s[c]!);
      return;
    }
    const p = o - 3;
    const b = perRest[i - 1]!;
    const dx = d[p]!,
      dy = d[p + 1]!,
      dz = d[p + 2]!,
      sx = s[p]!,
      sy = s[p + 1]!,
      sz = s[p + 2]!;
    const vx = s[o]!,
      vy = s[o + 1]!,
      vz = s[o + 2]!;
    // r = T v for the smallest turn T from s to d: with k = s×d and c = s·d, T v = c v + k×v + k (k·v)/(1+c).
    const c = sx * dx + sy * dy + sz * dz;
    // Near a half turn the twist runs away; bounding it there keeps the step finite.
    const t = 1 / (c > -0.98 ? 1 + c : 0.02);
    const kx = sy * dz - sz * dy,
      ky = sz * dx - sx * dz,
      kz = sx * dy - sy * dx;
    const kv = (kx * vx + ky * vy + kz * vz) * t;
    const rx = c * vx + ky * vz - kz * vy + kx * kv,
      ry = c * vy + kz * vx - kx * vz + ky * kv,
      rz = c * vz + kx * vy - ky * vx + kz * kv;
    const wx = kx * t,
      wy = ky * t,
      wz = kz * t;
    const dr = dx * rx + dy * ry + dz * rz;
    const cx = dy * rz - dz * ry,
      cy = dz * rx - dx * rz,
      cz = dx * ry - dy * rx;
    const g00 = b * (dr - dx * rx - cx * wx),
      g01 = -b * (dx * ry + cx * wy),
      g02 = -b * (dx * rz + cx * wz);
    const g10 = -b * (dy * rx + cy * wx),
      g11 = b * (dr - dy * ry - cy * wy),
      g12 = -b * (dy * rz + cy * wz);
    const g20 = -b * (dz * rx + cz * wx),
      g21 = -b * (dz * ry + cz * wy),
      g22 = b * (dr - dz * rz - cz * wz);
    const ex = kappa * (u[o]! * a - rx),
      ey = kappa * (u[o + 1]! * a - ry),
      ez = kappa * (u[o + 2]! * a - rz);
    f[o]! += a * ex;
    f[o + 1]! += a * ey;
    f[o + 2]! += a * ez;
    f[p]! -= g00 * ex + g10 * ey + g20 * ez;
    f[p + 1]! -= g01 * ex + g11 * ey + g21 * ez;
    f[p + 2]! -= g02 * ex + g12 * ey + g22 * ez;

    // e moves with x_{i+1} by a·I (in the base), with x_i by −(a·I + G), with x_{i−1} by G.
    const ka = kappa * a;
    const h00 = ka * g00,
      h01 = ka * g01,
      h02 = ka * g02,
      h10 = ka * g10,
      h11 = ka * g11,
      h12 = ka * g12,
      h20 = ka * g20,
      h21 = ka * g21,
      h22 = ka * g22;
    const q00 = kappa * (g00 * g00 + g10 * g10 + g20 * g20),
      q11 = kappa * (g01 * g01 + g11 * g11 + g21 * g21),
      q22 = kappa * (g02 * g02 + g12 * g12 + g22 * g22);
    const q10 = kappa * (g00 * g01 + g10 * g11 + g20 * g21),
      q20 = kappa * (g00 * g02 + g10 * g12 + g20 * g22),
      q21 = kappa * (g01 * g02 + g11 * g12 + g21 * g22);
    const kaa = ka * a;
    const r0 = o * row;
    const r1 = r0 - 3 * row;
    band[r1]! += q00 + 2 * h00 + kaa;
    band[r1 + row]! += q11 + 2 * h11 + kaa;
    band[r1 + row - 8]! += q10 + h01 + h10;
    band[r1 + 2 * row]! += q22 + 2 * h22 + kaa;
    band[r1 + 2 * row - 8]! += q21 + h12 + h21;
    band[r1 + 2 * row - 16]! += q20 + h02 + h20;
    band[r0 - 24]! -= kaa + h00;
    band[r0 - 16]! -= h01;
    band[r0 - 8]! -= h02;
    band[r0 + row - 32]! -= h10;
    band[r0 + row - 24]! -= kaa + h11;
    band[r0 + row - 16]! -= h12;
    band[r0 + 2 * row - 40]! -= h20;
    band[r0 + 2 * row - 32]! -= h21;
    band[r0 + 2 * row - 24]! -= kaa + h22;
    if (i === 1) return;
    const r2 = r1 - 3 * row;
    band[r2]! += q00;
    band[r2 + row]! += q11;
    band[r2 + row - 8]! += q10;
    band[r2 + 2 * row]! += q22;
    band[r2 + 2 * row - 8]! += q21;
    band[r2 + 2 * row - 16]! += q20;
    band[r1 - 24]! -= h00 + q00;
    band[r1 - 16]! -= h01 + q10;
    band[r1 - 8]! -= h02 + q20;
    band[r1 + row - 32]! -= h10 + q10;
    band[r1 + row - 24]! -= h11 + q11;
    band[r1 + row - 16]! -= h12 + q21;
    band[r1 + 2 * row - 40]! -= h20 + q20;
    band[r1 + 2 * row - 32]! -= h21 + q21;
    band[r1 + 2 * row - 24]! -= h22 + q22;
    band[r0 - 48]! += h00;
    band[r0 - 40]! += h01;
    band[r0 - 32]! += h02;
    band[r0 + row - 56]! += h10;
    band[r0 + row - 48]! += h11;
    band[r0 + row - 40]! += h12;
    band[r0 + 2 * row - 64]! += h20;
    band[r0 + 2 * row - 56]! += h21;
    band[r0 + 2 * row - 48]! += h22;
  }

  /** One Newton step: assembles gradient and matrix at y, solves, and moves y. */
  function newton(): void {
    band.set(base);
    for (let i = 0, o = 0; i < n; i++, o += 3) {
      const kh = H * hold[i]!;
      const pull = lengthwise[i]! * (length[i]! - aim[i]!);
      const dx = d[o]!,
        dy = d[o + 1]!,
        dz = d[o + 2]!;
      f[o] = kh * (u[o]! - rest[i]! * s[o]!) + pull * dx;
      f[o + 1] = kh * (u[o + 1]! - rest[i]! * s[o + 1]!) + pull * dy;
      f[o + 2] = kh * (u[o + 2]! - rest[i]! * s[o + 2]!) + pull * dz;
      // Lengthwise stiffness k d dᵀ on the link vector, and what a taut link has across itself: its tension over its length.
      const taut = tension[i]! > 0 ? tension[i]! * perAim[i]! : 0;
      const k = lengthwise[i]! - taut;
      const xx = k * dx * dx + taut,
        xy = k * dx * dy,
        xz = k * dx * dz,
        yy = k * dy * dy + taut,
        yz = k * dy * dz,
        zz = k * dz * dz + taut;
      const at = o * row;
      band[at]! += xx;
      band[at + row - 8]! += xy;
      band[at + row]! += yy;
      band[at + 2 * row - 16]! += xz;
      band[at + 2 * row - 8]! += yz;
      band[at + 2 * row]! += zz;
      if (i > 0) {
        const b = at - 3 * row;
        band[b]! += xx;
        band[b + row - 8]! += xy;
        band[b + row]! += yy;
        band[b + 2 * row - 16]! += xz;
        band[b + 2 * row - 8]! += yz;
        band[b + 2 * row]! += zz;
        band[at - 24]! -= xx;
        band[at - 16]! -= xy;
        band[at - 8]! -= xz;
        band[at + row - 32]! -= xy;
        band[at + row - 24]! -= yy;
        band[at + row - 16]! -= yz;
        band[at + 2 * row - 40]! -= xz;
        band[at + 2 * row - 32]! -= yz;
        band[at + 2 * row - 24]! -= zz;
      }
    }
    if (bending) for (let i = 0; i < n; i++) addBend(i);
    if (damped) addDamping();
    let cx: number = 0;
    let cy: number = 0;
    let cz: number = 0;
    for (let i = 0, o = 0; i < n; i++, o += 3) {
      const m = mass[i]!;
      const a = m * touch * dampMass[i]!;
      const last = i === n - 1;
      cx += carried[o]!;
      cy += carried[o + 1]!;
      cz += carried[o + 2]!;
      rhs[o] = m * (target[o]! - y[o]!) - a * (y[o]! - cx) - f[o]! + (last ? 0 : f[o + 3]!);
      rhs[o + 1] =
        m * (target[o + 1]! - y[o + 1]!) - a * (y[o + 1]! - cy) - f[o + 1]! + (last ? 0 : f[o + 4]!);
      rhs[o + 2] =
        m * (target[o + 2]! - y[o + 2]!) - a * (y[o + 2]! - cz) - f[o + 2]! + (last ? 0 : f[o + 5]!);
    }
    if (airy) addAir();
    if (contacts > 0) addContacts();
    bandFactor8(band, n3);
    bandSolve8(band, n3, rhs);
    for (let i = 0; i < n3; i++) y[i]! += rhs[i]!;
    // The tension the linear problem gives each link: what the lengths' curvature needs, without their rounding.
    for (let i = 0, o = 0; i < n; i++, o += 3) {
      const along =
        d[o]! * (rhs[o]! - (i > 0 ? rhs[o - 3]! : 0)) +
        d[o + 1]! * (rhs[o + 1]! - (i > 0 ? rhs[o - 2]! : 0)) +
        d[o + 2]! * (rhs[o + 2]! - (i > 0 ? rhs[o - 1]! : 0));
      tension[i] = lengthwise[i]! * (length[i]! + along - aim[i]!);
    }
  }

  /** Stiffness-proportional damping of link vectors against where the source carried them. */
  function addDamping(): void {
    let px: number = 0;
    let py: number = 0;
    let pz: number = 0;
    for (let i = 0, o = 0; i < n; i++, o += 3) {
      const damp = touch * dampStiff[i]!;
      const kh = damp * hold[i]!;
      const kb = damp * bend[i]!;
      const ex = u[o]! - carried[o]!,
        ey = u[o + 1]! - carried[o + 1]!,
        ez = u[o + 2]! - carried[o + 2]!;
      f[o]! += kh * ex;
      f[o + 1]! += kh * ey;
      f[o + 2]! += kh * ez;
      if (!bending) continue;
      const a = perRest[i]!;
      const bx = kb * (ex * a - px),
        by = kb * (ey * a - py),
        bz = kb * (ez * a - pz);
      f[o]! += bx * a;
      f[o + 1]! += by * a;
      f[o + 2]! += bz * a;
      if (i > 0) {
        const b = perRest[i - 1]!;
        f[o - 3]! -= bx * b;
        f[o - 2]! -= by * b;
        f[o - 1]! -= bz * b;
      }
      px = ex * a;
      py = ey * a;
      pz = ez * a;
    }
  }

  /** Air that holds each point back from where it would have been: grip · velocity. */
  function addAir(): void {
    for (let i = 0, o = 0; i < n; i++, o += 3) {
      const g = touch * grip[i]!;
      for (let c = 0; c < 3; c++) {
        band[(o + c) * row]! += g;
        rhs[o + c]! -= g * (y[o + c]! - c43 * x[o + c + 3]! + c13 * xOld[o + c + 3]! + source[c]!);
      }
    }
  }

  /**
   * What each contact does at y: whether it presses, with what force, and how firmly it holds along the surface.
   * Coulomb's law by reweighting: a spring to where the point would be if it stuck, as stiff as the friction allows.
   * Asked `first`, what pressed in the step before is taken to press still, even if it would have to pull: the next answer shows.
   * Returns how many do not what the last Newton step took them to do.
   */
  function readContacts(first: number): number {
    let changed: number = 0;
    toggled = 0;
    for (let k = 0; k < contacts; k++) {
      const r = k * CONTACT_ROW;
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
        continue;
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
      // Newton's step knows what presses exactly when it pressed before the step too. Along the surface it took the force to
      // follow a spring, or when sliding not to grow: how far is that from the law?
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
      if ((load === 0) !== (was === 0)) toggled++;
      else if (off) changed++;
      // Sliding on in one direction the force does not grow; turned back within the step it is tried whether it sticks.
      const turned = off && slides && tx * bx + ty * by + tz * bz > 0;
      const firm = turned && c > 0 ? hardest : c;
      contact[r + 17] = firm < hardest ? 1 : 0;
      contact[r + 11] = firm;
      contact[r + 12] = load;
      contact[r + 14] = load * nx - firm * tx;
      contact[r + 15] = load * ny - firm * ty;
      contact[r + 16] = load * nz - firm * tz;
    }
    return changed + toggled;
  }

  /**
   * The most that friction holds follows the load found; while a step looks for its answer it stands still, which
   * keeps the problem one with a single least. Returns how many have changed.
   */
  function updateFriction(): number {
    let changed: number = 0;
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
  function addContacts(): void {
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
            band[(o + a) * row - 8 * (a - b)]! += t * t * kab;
            if (i > 0) band[(o - 3 + a) * row - 8 * (a - b)]! += w * w * kab;
          }
          if (i > 0) band[(o + a) * row - 8 * (3 + a - b)]! += t * w * kab;
        }
      }
    }
  }

  /** Number j of the points goes on to `next`, and its velocity with it. */
  function advance(j: number, next: number): void {
    const now = x[j]!;
    const speed = b0 * next - b1 * now + b2 * xOld[j]!;
    xOld[j] = now;
    x[j] = next;
    vOld[j] = v[j]!;
    v[j] = speed;
  }

  function step(): void {
    if (contacts > 0) before.set(state);
    readSource();
    if (damped) carryPast();
    const sx = source[0]!,
      sy = source[1]!,
      sz = source[2]!;
    for (let i = 0; i < n3; i += 3) {
      const j = i + 3;
      const ax = c43 * x[j]! - c13 * xOld[j]! + c89 * v[j]! - c29 * vOld[j]! + H * fall[i]! - sx;
      const ay =
        c43 * x[j + 1]! - c13 * xOld[j + 1]! + c89 * v[j + 1]! - c29 * vOld[j + 1]! + H * fall[i + 1]! - sy;
      const az =
        c43 * x[j + 2]! - c13 * xOld[j + 2]! + c89 * v[j + 2]! - c29 * vOld[j + 2]! + H * fall[i + 2]! - sz;
      target[i] = ax;
      target[i + 1] = ay;
      target[i + 2] = az;
      y[i] = ax;
      y[i + 1] = ay;
      y[i + 2] = az;
    }
    // What touches is looked for from where the chain goes on to by itself: free flight would take it deep inside.
    const w1 = c13 > 0 ? 1.5 * h : h;
    const w2 = c13 > 0 ? 0.5 * h : 0;
    if (contacts > 0)
      for (let i = 0; i < n3; i += 3) {
        const j = i + 3;
        y[i] = x[j]! + w1 * v[j]! - w2 * vOld[j]! - sx;
        y[i + 1] = x[j + 1]! + w1 * v[j + 1]! - w2 * vOld[j + 1]! - sy;
        y[i + 2] = x[j + 2]! + w1 * v[j + 2]! - w2 * vOld[j + 2]! - sz;
      }
    if (readLinks() > 0.05) {
      relay();
      readLinks();
    }
    if (contacts > 0) readContacts(1);
    const most = contacts > 0 ? MOST_CONTACT_ITERATIONS : MOST_ITERATIONS;
    stuck = 1;
    let updates = 0;
    for (let pass = 0; pass < most; pass++) {
      count++;
      newton();
      const error = readLinks();
      const changed = contacts > 0 ? readContacts(0) : 0;
      // Soft lengths end when the step is small; hard ones when they are kept.
      if (changed === 0 && (soft ? pass > 0 : error < LENGTH_TOLERANCE)) {
        if (contacts > 0 && updates < FRICTION_UPDATES && updateFriction() > 0) {
          updates++;
          readContacts(0);
          continue;
        }
        stuck = 0;
        break;
      }
      if (contacts > 0 && toggled === 0 && pass < EARLY_ITERATIONS && updateFriction() > 0) readContacts(0);
    }
    if (coned || planar) confine();
    relay();
    for (let m = 0; m < 3; m++) {
      xOld[m] = x[m]!;
      x[m] = source[m]!;
    }
    // Every number of a point in turn: x, y, z, x, …
    for (let i = 0, j = 3; i < n3; i += 3, j += 3) {
      advance(j, y[i]! + sx);
      advance(j + 1, y[i + 1]! + sy);
      advance(j + 2, y[i + 2]! + sz);
    }
    if (damped) {
      // past1 has been carried to this moment already; past2 gets it as it is.
      for (let i = 0; i < n3; i++) {
        past2[i] = past1[i]!;
        past1[i] = x[i + 3]! - x[i]!;
      }
    }
  }

  // kernel: end

  /** Turn of link i from its source direction. */
  function turnLink(i: number): void {
    const o = 3 * i;
    const t = 4 * i;
    quatBetween(
      turns,
      t,
      s[o]!,
      s[o + 1]!,
      s[o + 2]!,
      d[o]!,
      d[o + 1]!,
      d[o + 2]!,
      turns[t]!,
      turns[t + 1]!,
      turns[t + 2]!,
    );
  }

  function updateTurns(): void {
    readSource();
    for (let i = 0; i < n3; i++) y[i] = x[i + 3]! - x[i % 3]!;
    readLinks();
    for (let i = 0; i < n; i++) turnLink(i);
  }

  function kinetic(): number {
    let sum = 0;
    for (let i = 0; i < n; i++) {
      const o = 3 * i + 3;
      sum += 0.5 * mass[i]! * (v[o]! * v[o]! + v[o + 1]! * v[o + 1]! + v[o + 2]! * v[o + 2]!);
    }
    return sum;
  }

  /** The numbers of the header, in the order of scripts/kernelSource.ts. */
  function writeNumbers(to: Float64Array): void {
    to[0] = n;
    to[1] = h;
    to[2] = H;
    to[3] = b0;
    to[4] = b1;
    to[5] = b2;
    to[6] = c43;
    to[7] = c13;
    to[8] = c89;
    to[9] = c29;
    to[10] = touch;
    to[CONTACTS_AT] = contacts;
    to[12] = damped ? 1 : 0;
    to[13] = bending ? 1 : 0;
    to[14] = soft ? 1 : 0;
    to[15] = coned ? 1 : 0;
    to[16] = planar ? 1 : 0;
    to[AIRY_AT] = airy ? 1 : 0;
    to[18] = lastRow;
    to[RUB_AT] = rub;
  }
  const arrays = [
    rest,
    perRest,
    mass,
    hold,
    bend,
    dampMass,
    dampStiff,
    limits,
    cone,
    fall,
    grip,
    plane,
    contact,
    lengthwise,
    compliance,
    length,
    aim,
    perAim,
    tension,
    x,
    xOld,
    v,
    vOld,
    source,
    sourceTurn,
    turnOld,
    past1,
    past2,
    carried,
    y,
    target,
    u,
    d,
    s,
    f,
    band,
    base,
    rhs,
    points,
    turnRows,
    state,
    before,
  ];
  const header = arena?.header(NUMBERS, arrays);
  const baseAt = NUMBERS + arrays.indexOf(base);
  const lengthwiseAt = NUMBERS + arrays.indexOf(lengthwise);
  function setContacts(used: number): void {
    contacts = used;
    if (header) header[CONTACTS_AT] = used;
  }
  function forget(): void {
    for (let i = 0; i < n3 + 3; i++) {
      vOld[i] = v[i]!;
      xOld[i] = x[i]! - h * v[i]!;
    }
    for (let i = 0; i < n3; i++) past2[i] = xOld[i + 3]! - xOld[i]!;
  }
  function setLooping(is: boolean): void {
    rub = is ? LOOP_RUBBING_TOLERANCE : RUBBING_TOLERANCE;
    if (header) header[RUB_AT] = rub;
  }
  function setAiry(is: boolean): void {
    airy = is;
    if (header) header[AIRY_AT] = is ? 1 : 0;
  }
  function carry(travel: Float64Array): void {
    for (let p = 0; p < n3 + 3; p += 3) {
      for (const list of [x, xOld]) {
        quatRotate(list, p, travel, 3, list, p);
        for (let c = 0; c < 3; c++) list[p + c]! += travel[c]!;
      }
      for (const list of [v, vOld]) quatRotate(list, p, travel, 3, list, p);
    }
    for (let p = 0; p < n3; p += 3)
      for (const list of [past1, past2]) quatRotate(list, p, travel, 3, list, p);
    for (let q = 0; q < 4 * n; q += 4) quatMultiply(turnOld, q, travel, 3, turnOld, q);
  }
  tune(feel);
  return {
    links: n,
    x,
    xOld,
    v,
    vOld,
    mass,
    fall,
    grip,
    plane,
    contact,
    perForce: () => H,
    hardness: () => FIRMER * HARD * set.stiffests[1],
    setContacts,
    setAiry,
    setLooping,
    setOrder,
    setStep,
    memory: state,
    before,
    aims,
    carry,
    tune,
    forget,
    source,
    sourceTurn,
    turns,
    reset,
    place: arena && header ? (row, share) => void arena.place(header.byteOffset, row, share) : placeSource,
    step:
      arena && header
        ? () => {
            const taken = arena.step(header.byteOffset);
            stuck = taken < 0 ? 1 : 0;
            count += Math.abs(taken);
          }
        : step,
    converged: () => stuck === 0,
    updateTurns,
    kinetic,
    iterations: () => count,
  };
}

/** Rows of {@link ChainSolver.contact} kept for what holds a chain beside what it touches: a tie and pulls by hand. */
export const HOLDER_ROWS = 8;
/** Rows of {@link ChainSolver.contact} there is room for. */
export const mostContacts = (links: number): number => 4 * links + HOLDER_ROWS;
