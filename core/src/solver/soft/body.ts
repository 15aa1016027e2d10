import { BodyStep } from '../../kernel/soft/bodyFields';
import { solveBody } from '../../kernel/soft/body';
import { quatRotate } from '../../math/index';
import { numberAt, type Arena, type Placed } from '../arena';
import { makeIn, type Make } from '../cloth/setup';
import { bodyNumbers as contactNumbers, type SheetStart, type SheetTouches } from '../cloth/contact';
import type { Lattice } from './lattice';
import { makePress, touchFields, touchNumbers, type Press, type PressNeeds } from './press';

/** What a soft body is made of. */
export interface BodyMatter {
  /** Young's modulus, Pa, and Poisson's ratio, below 0.5. */
  readonly young: number;
  readonly poisson: number;
  /** kg/m³ */
  readonly density: number;
  /** Damping ratio of its first mode, whose frequency (Hz) is said beside it. */
  readonly damping: number;
  readonly first: number;
}

/** A soft body in motion. Node arrays hold 3 numbers each unless said; they are the same for life. */
export interface SoftBody {
  readonly x: Float64Array;
  readonly v: Float64Array;
  readonly moving: readonly Float64Array[];
  readonly asides: readonly Float64Array[];
  /** kg, a number a node. */
  readonly mass: Float64Array;
  /** 1 for each node that is free, 0 where it goes where `shown` has it. */
  readonly free: Float64Array;
  /** To be filled in before a step: the animation at its end, and the pull to it (ω², 1/s², a number a node). */
  readonly shown: Float64Array;
  readonly pull: Float64Array;
  /** The same of how it is damped as it moves against its animation: 2 ζ ω, 1/s, a number a node. */
  readonly damp: Float64Array;
  /** To be filled in: how much longer each cell's edges want to be, and how fast that grows, 1/s. */
  readonly grow: Float64Array;
  readonly growing: Float64Array;
  /** How many times as stiff each cell is. */
  readonly stiff: Float64Array;
  /** How much larger each cell is than at rest. */
  readonly ratio: Float64Array;
  /** Impulses on nodes that wait for the next step, N s: 3 numbers a node. */
  readonly pushes: Float64Array;
  /** How readily each node gives way in a step, its own stiffness counted, 1/kg. */
  gives(node: number): number;
  /** What it is made of from now on. */
  setMatter(matter: BodyMatter): void;
  /** Puts it at places with speeds, at rest in itself. */
  begin(places: ArrayLike<number>, speeds: ArrayLike<number>): SheetStart;
  /** One step; `fresh` says that a frame begins. */
  step(gravity: ArrayLike<number>, fresh?: boolean): SheetTouches;
  /** Turns what it remembers of its cells by a rigid travel (place and turn, 7 numbers). */
  turnBy(travel: Float64Array): void;
  /** The way out of each point of its skin that stands inside of something, m, 3 numbers. */
  readonly out: Float64Array;
  /** Rounds that the last solve took. */
  readonly rounds: number;
}

const NEWTON = 4;
const MOST = 200;
const LEAST = 7;
/** What the solve may leave, as a share of the weight of each node: at 0.2 it adds energy, and damps half as much. */
const ENOUGH = 0.005;

const NAMES = [
  ...(['inert', 'speed', 'beta', 'rounds', 'touches', 'layer'] as const),
  ...(['young', 'poisson', 'mu', 'lambda'] as const),
] as const;
type Name = (typeof NAMES)[number];
const AT = Object.fromEntries(NAMES.map((k) => [k, numberAt(new BodyStep(), k)])) as Record<Name, number>;
const UNTOUCHED: SheetTouches = { depth: 0, deepest: -1, deepIn: -1, pressing: 0, slip: 0 };

/** m/s */
const FASTEST = 100;

/** Numbers a body takes of an arena. */
export const bodyNumbers = ({ cells, nodes }: Lattice, press?: PressNeeds): number =>
  56 * nodes +
  36 * cells +
  400 +
  (press
    ? touchNumbers(press) + press.bodies.reduce((sum, b) => sum + contactNumbers(press.skin.points, b), 0)
    : 0);

/** The fields of a step of a body, at rest. */
function fieldsOf(lattice: Lattice, press: PressNeeds | null, make: Make): BodyStep {
  const { cells, nodes, size } = lattice;
  const corners = make.ints(8 * cells);
  corners.set(lattice.corners);
  const fill = make.numbers(cells);
  fill.set(lattice.fill);
  const three = () => make.numbers(3 * nodes);
  const { numbers } = make;
  return Object.assign(new BodyStep(), {
    ...{ cells, nodes, size, newton: NEWTON, most: MOST, least: LEAST, enough: ENOUGH },
    ...{
      corners,
      fill,
      stiff: numbers(cells).fill(1),
      grow: numbers(cells).fill(1),
      growing: numbers(cells),
    },
    ...{ quat: numbers(4 * cells), turn: numbers(9 * cells), cofactor: numbers(9 * cells) },
    ...{ ratio: numbers(cells).fill(1), bulk: numbers(cells).fill(1) },
    ...{ mass: numbers(nodes), free: numbers(nodes).fill(1), hold: numbers(nodes) },
    ...{ own: numbers(nodes), diagonal: numbers(nodes), pressing: numbers(nodes) },
    ...{ x: three(), goal: three(), shown: three(), drift: three() },
    ...{ f: three(), damped: three(), dx: three(), r: three(), p: three(), q: three() },
    ...{ modes: numbers(48), gradient: numbers(9), bent: numbers(12), stress: numbers(12) },
    ...(press ? touchFields(press, make) : {}),
  });
}

/** Turns matrices (9 numbers, row after row) by a travel: their columns are what it turns. */
function turnAll(matrices: Float64Array, travel: Float64Array): void {
  const column = new Float64Array(3);
  for (let o = 0; o < matrices.length; o += 9)
    for (let c = o; c < o + 3; c++) {
      for (let r = 0; r < 3; r++) column[r] = matrices[c + 3 * r]!;
      quatRotate(column, 0, travel, 3, column, 0);
      for (let r = 0; r < 3; r++) matrices[c + 3 * r] = column[r]!;
    }
}

class Hexahedra implements SoftBody {
  readonly x: Float64Array;
  readonly v: Float64Array;
  readonly mass: Float64Array;
  readonly free: Float64Array;
  readonly grow: Float64Array;
  readonly growing: Float64Array;
  readonly stiff: Float64Array;
  readonly ratio: Float64Array;
  readonly shown: Float64Array;
  readonly pull: Float64Array;
  readonly damp: Float64Array;
  readonly pushes: Float64Array;
  readonly moving: readonly Float64Array[];
  readonly asides: readonly Float64Array[];
  readonly out: Float64Array;
  private readonly fields: BodyStep;
  private readonly placed: Placed | undefined;
  private readonly contacts: Press | null;
  private readonly older: Float64Array;
  private readonly vOld: Float64Array;
  /** m/s²: how its speed changed in the last step. */
  private readonly pace: Float64Array;
  /** The animation one and two steps ago. */
  private readonly was: Float64Array;
  private readonly earlier: Float64Array;
  /** Places two steps ago. */
  private readonly before: Float64Array;
  /** 1 before the first step. */
  private readonly fresh = Float64Array.of(1);
  private readonly lost = new Float64Array(3);

  constructor(
    private readonly lattice: Lattice,
    matter: BodyMatter,
    private readonly h: number,
    private readonly arena: Arena | null,
    private readonly press: PressNeeds | null,
  ) {
    const { nodes } = lattice;
    const make = makeIn(arena);
    const three = () => make.numbers(3 * nodes);
    const fields = fieldsOf(lattice, press, make);
    this.fields = fields;
    this.placed = arena?.place(fields);
    const { x, mass, free, grow, growing, stiff, ratio, quat, turn } = fields;
    [this.x, this.mass, this.free] = [x, mass, free];
    [this.grow, this.growing, this.stiff, this.ratio] = [grow, growing, stiff, ratio];
    [this.older, this.v, this.vOld, this.pace] = [three(), three(), three(), three()];
    this.contacts = press && makePress(press, fields, this.older, make, arena);
    this.out = this.contacts?.out ?? new Float64Array(0);
    const own = () => new Float64Array(3 * nodes);
    [this.shown, this.was, this.earlier, this.before, this.pushes] = [own(), own(), own(), own(), own()];
    [this.pull, this.damp] = [new Float64Array(nodes), new Float64Array(nodes)];
    this.moving = [x, this.older, this.v, this.vOld];
    this.asides = [
      ...[this.pace, this.fresh, quat, turn, this.was, this.earlier, this.pushes],
      ...(this.contacts?.memory ?? []),
    ];
    this.setMatter(matter);
  }

  private put(name: Name, value: number): void {
    this.fields[name] = value;
    if (this.placed) this.placed.numbers[AT[name]] = value;
  }

  get rounds(): number {
    return this.placed ? this.placed.numbers[AT.rounds]! : this.fields.rounds;
  }

  gives(node: number): number {
    return this.free[node]! > 0 ? 1 / this.mass[node]! : 0;
  }

  setMatter({ young, poisson, density, damping, first }: BodyMatter): void {
    this.put('young', young);
    this.put('poisson', poisson);
    this.put('mu', young / (2 * (1 + poisson)));
    this.put('lambda', (young * poisson) / ((1 + poisson) * (1 - 2 * poisson)));
    this.put('beta', first > 0 ? (2 * damping) / (2 * Math.PI * first) : 0);
    const { corners, fill } = this.fields;
    const each = (density * this.lattice.size ** 3) / 8;
    this.mass.fill(0);
    for (let c = 0; c < corners.length; c++) this.mass[corners[c]!]! += fill[c >> 3]! * each;
  }

  begin(places: ArrayLike<number>, speeds: ArrayLike<number>): SheetStart {
    for (const list of [this.x, this.older, this.shown, this.was, this.earlier]) list.set(places);
    for (const list of [this.v, this.vOld]) list.set(speeds);
    this.pace.fill(0);
    this.fresh[0] = 1;
    const { quat, turn } = this.fields;
    for (let cell = 0; cell < this.lattice.cells; cell++) {
      quat.set([1, 0, 0, 0], 4 * cell);
      turn.set([1, 0, 0, 0, 1, 0, 0, 0, 1], 9 * cell);
    }
    return this.contacts?.begin() ?? { depth: 0, deepIn: -1 };
  }

  step(gravity: ArrayLike<number>, anew = false): SheetTouches {
    const { contacts, placed } = this;
    this.before.set(this.older);
    const one = this.fresh[0] === 1;
    this.predict(gravity, one);
    if (contacts) {
      this.put('layer', this.press!.how().thickness);
      this.put('touches', contacts.look(anew));
    }
    if (placed) this.arena!.body(placed.at);
    else solveBody(this.fields);
    this.finish(one);
    this.fresh[0] = 0;
    if (!contacts) return UNTOUCHED;
    const touches = contacts.done();
    for (const [i, row] of contacts.begun) this.slowNode(i, row);
    return touches;
  }

  /** Where inertia and gravity alone would take it, where its hold pulls it to, and where to begin to look. */
  private predict(gravity: ArrayLike<number>, one: boolean): void {
    const { h, x, v, vOld, older, pace, shown, was, earlier, pushes, mass, free, pull, damp } = this;
    const { goal, drift, hold, shown: aim } = this.fields;
    const speed = one ? 1 / h : 1.5 / h;
    this.put('inert', one ? 1 / (h * h) : 9 / (4 * h * h));
    this.put('speed', speed);
    for (let i = 0; i < hold.length; i++) hold[i] = pull[i]! + damp[i]! * speed;
    for (let o = 0; o < x.length; o++) {
      const i = (o - (o % 3)) / 3;
      const g = gravity[o % 3]! + (pushes[o] === 0 ? 0 : pushes[o]! / (h * mass[i]!));
      const at = x[o]!;
      goal[o] = one
        ? at + h * v[o]! + h * h * g
        : (4 * at - older[o]!) / 3 + (h * (8 * v[o]! - 2 * vOld[o]!)) / 9 + (4 * h * h * g) / 9;
      drift[o] = one ? -at / h : (-2 * at + 0.5 * older[o]!) / h;
      // The damping of the hold acts on the speed past the animation's own.
      const step = shown[o]! - was[o]!;
      const goes = (one ? step : 1.5 * step - 0.5 * (was[o]! - earlier[o]!)) / h - drift[o]!;
      aim[o] = hold[i]! > 0 ? (pull[i]! * shown[o]! + damp[i]! * goes) / hold[i]! : shown[o]!;
      older[o] = at;
      x[o] = free[i]! > 0 ? at + h * v[o]! + 0.5 * h * h * pace[o]! : shown[o]!;
      earlier[o] = was[o]!;
      was[o] = shown[o]!;
      pushes[o] = 0;
    }
  }

  /** Speeds at the end of a step. */
  private finish(one: boolean): void {
    const { h, x, v, vOld, older, before, pace } = this;
    for (let o = 0; o < x.length; o++) {
      const speed = one
        ? (x[o]! - older[o]!) / h
        : (1.5 * (x[o]! - older[o]!) - 0.5 * (older[o]! - before[o]!)) / h;
      pace[o] = (speed - v[o]!) / h;
      vOld[o] = v[o]!;
      v[o] = speed;
    }
    for (let o = 0; o < x.length; o += 3) this.slow(o);
  }

  /** Slows a node that is too fast, with what it remembers of its way: no shot can run away. */
  private slow(o: number): void {
    const { h, x, v, vOld, older, pace } = this;
    const fast = v[o]! * v[o]! + v[o + 1]! * v[o + 1]! + v[o + 2]! * v[o + 2]!;
    if (fast <= FASTEST * FASTEST) return;
    const s = fast < Infinity ? FASTEST / Math.sqrt(fast) : 0;
    for (let k = o; k < o + 3; k++) {
      v[k] = vOld[k] = s > 0 ? s * v[k]! : 0;
      x[k] = older[k]! + h * v[k]!;
      pace[k] = 0;
    }
  }

  /** A node is as fast as it went; what it had more by its two last speeds goes to what it touches. */
  private slowNode(i: number, row: number): void {
    const { h, x, v, vOld, older, lost } = this;
    for (let a = 0; a < 3; a++) {
      const o = 3 * i + a;
      const went = (x[o]! - older[o]!) / h;
      lost[a] = this.free[i]! * this.mass[i]! * (1.5 * v[o]! - 0.5 * vOld[o]! - went);
      v[o] = vOld[o] = went;
    }
    this.contacts!.give(row, lost[0]!, lost[1]!, lost[2]!);
  }

  turnBy(travel: Float64Array): void {
    const { quat, turn } = this.fields;
    const [x, y, z, w] = [travel[3]!, travel[4]!, travel[5]!, travel[6]!];
    for (let q = 0; q < quat.length; q += 4) {
      const [d, a, b, c] = [quat[q]!, quat[q + 1]!, quat[q + 2]!, quat[q + 3]!];
      quat[q] = w * d - x * a - y * b - z * c;
      quat[q + 1] = w * a + x * d + y * c - z * b;
      quat[q + 2] = w * b + y * d + z * a - x * c;
      quat[q + 3] = w * c + z * d + x * b - y * a;
    }
    for (let o = 0; o < this.pace.length; o += 3) quatRotate(this.pace, o, travel, 3, this.pace, o);
    turnAll(turn, travel);
    this.contacts?.forget();
  }
}

/**
 * Makes a body of a lattice that takes steps of h seconds: hexahedra with one point each and their hourglasses resisted
 * as plates, volume by the determinant; BDF2, with a first-order step at the beginning and where a contact begins.
 * Compiled where there is an arena.
 */
export const makeSoftBody = (
  lattice: Lattice,
  matter: BodyMatter,
  h: number,
  arena: Arena | null,
  press: PressNeeds | null = null,
): SoftBody => new Hexahedra(lattice, matter, h, arena, press);
