import { BodyStep } from '../../kernel/soft/bodyFields';
import { solveBody } from '../../kernel/soft/body';
import { numberAt, type Arena } from '../arena';
import type { Lattice } from './lattice';

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

/** A soft body in motion. Node arrays hold 3 numbers each; they are the same for life. */
export interface SoftBody {
  readonly x: Float64Array;
  readonly v: Float64Array;
  readonly moving: readonly Float64Array[];
  readonly asides: readonly Float64Array[];
  /** kg, a number a node. */
  readonly mass: Float64Array;
  /** 1 for each node that is free, 0 where it goes where `shown` has it. */
  readonly free: Float64Array;
  /** To be filled in before a step: hold to the animation (1/s², a number a node), and the animation. */
  readonly hold: Float64Array;
  readonly shown: Float64Array;
  /** To be filled in: how much longer each cell's edges want to be, and how fast that grows, 1/s. */
  readonly grow: Float64Array;
  readonly growing: Float64Array;
  /** How much larger each cell is than at rest. */
  readonly ratio: Float64Array;
  /** Puts it at places with speeds, at rest in itself. */
  begin(places: ArrayLike<number>, speeds: ArrayLike<number>): void;
  step(gravity: ArrayLike<number>): void;
  /** Rounds that the last solve took. */
  readonly rounds: number;
}

const NEWTON = 4;
const MOST = 200;
const LEAST = 7;
/** What the solve may leave, as a share of the weight of each node: at 0.2 it adds energy, and damps half as much. */
const ENOUGH = 0.005;

const NAMES = ['inert', 'speed', 'beta', 'rounds'] as const;
const AT = Object.fromEntries(NAMES.map((k) => [k, numberAt(new BodyStep(), k)])) as Record<
  (typeof NAMES)[number],
  number
>;

/** Numbers a body takes of an arena. */
export const bodyNumbers = ({ cells, nodes }: Lattice): number => 50 * nodes + 36 * cells + 300;

/** The fields of a step of a body, at rest. */
function fieldsOf(
  lattice: Lattice,
  { young, poisson, density, damping, first }: BodyMatter,
  arena: Arena | null,
): BodyStep {
  const { cells, nodes, size } = lattice;
  const make = (count: number) => (arena ? arena.alloc(count) : new Float64Array(count));
  const corners = arena ? arena.allocInts(8 * cells) : new Int32Array(8 * cells);
  corners.set(lattice.corners);
  const fill = make(cells);
  fill.set(lattice.fill);
  const three = () => make(3 * nodes);
  const fields = Object.assign(new BodyStep(), {
    ...{ cells, nodes, size, young, poisson, newton: NEWTON, most: MOST, least: LEAST, enough: ENOUGH },
    mu: young / (2 * (1 + poisson)),
    lambda: (young * poisson) / ((1 + poisson) * (1 - 2 * poisson)),
    beta: first > 0 ? (2 * damping) / (2 * Math.PI * first) : 0,
    ...{ corners, fill, stiff: make(cells).fill(1), grow: make(cells).fill(1), growing: make(cells) },
    ...{ quat: make(4 * cells), turn: make(9 * cells), cofactor: make(9 * cells) },
    ...{ ratio: make(cells).fill(1), bulk: make(cells).fill(1) },
    ...{ mass: make(nodes), free: make(nodes).fill(1), hold: make(nodes), diagonal: make(nodes) },
    ...{ x: three(), goal: three(), shown: three(), drift: three() },
    ...{ f: three(), damped: three(), dx: three(), r: three(), p: three(), q: three() },
    ...{ modes: make(48), gradient: make(9), bent: make(12), stress: make(12) },
  });
  for (let c = 0; c < 8 * cells; c++)
    fields.mass[corners[c]!]! += (fill[c >> 3]! * density * size * size * size) / 8;
  return fields;
}

/**
 * Makes a body of a lattice that takes steps of h seconds: hexahedra with one point each and their hourglasses resisted
 * as plates, volume by the determinant; BDF2, with a first-order step at the beginning. Compiled where there is an
 * arena.
 */
export function makeSoftBody(lattice: Lattice, matter: BodyMatter, h: number, arena: Arena | null): SoftBody {
  const { cells, nodes } = lattice;
  const three = () => (arena ? arena.alloc(3 * nodes) : new Float64Array(3 * nodes));
  const fields = fieldsOf(lattice, matter, arena);
  const placed = arena?.place(fields);
  const { x, goal, shown, drift, free, mass, hold, grow, growing, ratio, quat, turn } = fields;
  const [older, v, vOld, pace] = [three(), three(), three(), three()];
  /** 1 before the first step. */
  const fresh = Float64Array.of(1);
  const put = (name: (typeof NAMES)[number], value: number) => {
    fields[name] = value;
    if (placed) placed.numbers[AT[name]] = value;
  };

  /** Where inertia and gravity alone would take it, and where to begin to look. */
  function predict(gravity: ArrayLike<number>): void {
    const one = fresh[0] === 1;
    put('inert', one ? 1 / (h * h) : 9 / (4 * h * h));
    put('speed', one ? 1 / h : 1.5 / h);
    for (let o = 0; o < x.length; o++) {
      const g = gravity[o % 3]!;
      const at = x[o]!;
      goal[o] = one
        ? at + h * v[o]! + h * h * g
        : (4 * at - older[o]!) / 3 + (h * (8 * v[o]! - 2 * vOld[o]!)) / 9 + (4 * h * h * g) / 9;
      drift[o] = one ? -at / h : (-2 * at + 0.5 * older[o]!) / h;
      older[o] = at;
      x[o] = free[(o - (o % 3)) / 3]! > 0 ? at + h * v[o]! + 0.5 * h * h * pace[o]! : shown[o]!;
    }
  }

  const before = new Float64Array(3 * nodes);
  return {
    ...{ x, v, mass, free, hold, shown, grow, growing, ratio },
    moving: [x, older, v, vOld],
    asides: [pace, fresh, quat, turn],
    begin: (places, speeds) => {
      for (const list of [x, older, shown]) list.set(places);
      for (const list of [v, vOld]) list.set(speeds);
      pace.fill(0);
      fresh[0] = 1;
      for (let cell = 0; cell < cells; cell++) {
        quat.set([1, 0, 0, 0], 4 * cell);
        turn.set([1, 0, 0, 0, 1, 0, 0, 0, 1], 9 * cell);
      }
    },
    step: (gravity) => {
      before.set(older);
      const one = fresh[0] === 1;
      predict(gravity);
      if (placed) arena!.body(placed.at);
      else solveBody(fields);
      for (let o = 0; o < x.length; o++) {
        const speed = one
          ? (x[o]! - older[o]!) / h
          : (1.5 * (x[o]! - older[o]!) - 0.5 * (older[o]! - before[o]!)) / h;
        pace[o] = (speed - v[o]!) / h;
        vOld[o] = v[o]!;
        v[o] = speed;
      }
      fresh[0] = 0;
    },
    get rounds() {
      return placed ? placed.numbers[AT.rounds]! : fields.rounds;
    },
  };
}
