import { StrandStep } from '../../kernel/strands/fields';
import { blowStrands } from '../../kernel/strands/air';
import { predictStrands, solveStrands } from '../../kernel/strands/step';
import { numberAt, type Arena } from '../arena';
import { pullsOf } from './pulls';
import { calibrateChain, lumpMasses, NO_FEEL } from '../calibrate';

/** A strand at rest: lengths of its links (m, all above 0) and their directions, 3 numbers each, unit, as groomed. */
export interface StrandShape {
  readonly lengths: Float64Array;
  readonly directions: Float64Array;
}

/** What makes a strand swing. */
export interface StrandFeel {
  /** Hz: pull to the groom as a whole, and stiffness against bending between links. */
  readonly hold: number;
  readonly bend: number;
  /** Ratio of critical. */
  readonly damping: number;
  /** kg/m. */
  readonly weight: number;
  /** Factors on hold and bend, one a link; left out they are 1. */
  readonly holdBy?: ArrayLike<number>;
  readonly bendBy?: ArrayLike<number>;
  /** kg that ride on each point beside its own; they slow it down. */
  readonly ride?: ArrayLike<number>;
  /** m/s²: what pulls it down at rest. */
  readonly gravity: readonly [number, number, number];
  /** How much of that gravity is borne at rest: with all of it (1) the groom is its rest, with none (0) it sags. */
  readonly keeps: number;
}

/** Where roots are: a place (m) and a turn from rest (x y z w), 7 numbers a strand. */
export type Roots = Float64Array;

/** Strands in motion. Points are the outer ends of links, strand after strand, 3 numbers each. */
export interface Strands {
  readonly links: number;
  readonly first: Int32Array;
  /** Where points are, m, from their root in world axes, and their ways in the last step. */
  readonly x: Float64Array;
  readonly way: Float64Array;
  /** Where roots are. */
  readonly roots: Roots;
  /** kg a point. */
  readonly masses: Float64Array;
  /** What pushes each point in the coming step, m/s²; it is taken up and put back to 0. */
  readonly push: Float64Array;
  /** Where each point is expected, m in the world: after `predict`. */
  readonly seen: Float64Array;
  readonly fields: StrandStep;
  /** Whether strand k may touch something in this step. */
  readonly near: Int32Array;
  tune(k: number, feel: StrandFeel): void;
  /** Rests as groomed at some roots, moving with them from where they were a step before. */
  begin(roots: Roots, before: Roots): void;
  /** m/s: the air at each point in the coming step. */
  readonly wind: Float64Array;
  /** Pushes points by the air across their links: 1/m, and that share of it across the stream. See `StrandStep`. */
  blow(per: number, lift: number): void;
  /** Takes roots to where they are at the end of the step, with how much of their travel is felt, and predicts. */
  predict(roots: Roots, gravity: ArrayLike<number>, travel: number, turn: number): void;
  solve(friction: number): void;
  /** Holds the links of strand k to other directions, which it then rests in (3 numbers a link). */
  aim(k: number, directions: ArrayLike<number>): void;
  /** How hard each link was pulled in the last step, N, below 0 for pushed; and how hard it is pulled at rest, N. */
  tensions(out: Float64Array): void;
  /** What each root pulled its strand with in the last step, N, 3 numbers each, world axes. */
  rootPulls(out: Float64Array): void;
  readonly restTension: Float64Array;
  /** Ways of the roots in the last step, m, 3 numbers each. */
  readonly went: Float64Array;
  /** All that turns with the world when a strand is carried: 3 numbers each. */
  readonly ways: readonly Float64Array[];
  /** Places of points in the world into a list. */
  places(out: Float64Array): void;
  readonly moving: readonly Float64Array[];
  readonly asides: readonly Float64Array[];
}

/** How much harder than a link's own inertia a contact is. */
const HARD = 1e3;

/** Numbers that strands take of an arena at most. */
export const strandNumbers = (strands: number, links: number): number => 121 * links + 54 * strands + 500;

export function makeStrands(shapes: readonly StrandShape[], h: number, arena: Arena | null): Strands {
  const strands = shapes.length;
  const links = shapes.reduce((n, s) => n + s.lengths.length, 0);
  const make = (size: number) => (arena ? arena.alloc(size) : new Float64Array(size));
  const ints = (size: number) => (arena ? arena.allocInts(size) : new Int32Array(size));
  const fields = fieldsOf(shapes, strands, links, make, ints);
  const placed = arena?.place(fields);
  const { first, x, dx, w, q, d, c, load, slip, shift, push } = fields;
  const masses = new Float64Array(links);
  const roots = new Float64Array(7 * strands);
  const { went, given } = fields;
  const [speed, speedOld] = [new Float64Array(3 * strands), new Float64Array(3 * strands)];
  const path: RootPath = { went, speed, speedOld };
  const rest: AtRest = { borne: new Float64Array(3 * links), tension: new Float64Array(links) };
  const H = (4 / 9) * h * h;

  return {
    ...{ links, first, x, way: dx, roots, masses, went, fields, push: given },
    ...{ wind: fields.wind, seen: fields.seen, near: fields.near, restTension: rest.tension },
    tune: (k, feel) => tuneStrand(fields, rest, k, shapes[k]!, feel, h, masses),
    aim: (k, directions) => aimStrand(fields, rest, k, directions),
    tensions: (out) => pullsOf(fields, H, out),
    rootPulls: (out) => pullsOf(fields, H, null, out),
    begin: (to, before) => {
      roots.set(to);
      for (const list of [load, slip, shift, given, ...Object.values(path)]) list.fill(0);
      fields.gap.fill(Infinity);
      for (let k = 0; k < strands; k++) beginStrand(fields, path, k, to, before);
    },
    blow: (per, lift) => {
      const told = { per, lift, h };
      Object.assign(fields, told);
      if (placed) for (const key of TOLD) placed.numbers[NUMBERS[key]] = told[key];
      if (placed) arena!.blowStrands(placed.at);
      else blowStrands(fields);
    },
    predict: (to, gravity, travel, turns) => {
      for (let k = 0; k < strands; k++) {
        if (turns !== 1) rideAlong(fields, k, roots, to, 1 - turns);
        takeRoot(fields, path, k, roots, to, gravity, travel, H);
      }
      roots.set(to);
      for (let o = 0; o < given.length; o++) push[o] = H * given[o]!;
      given.fill(0);
      if (placed) arena!.predictStrands(placed.at);
      else predictStrands(fields);
    },
    solve: (friction) => {
      fields.friction = friction;
      if (placed) placed.numbers[NUMBERS.friction] = friction;
      if (placed) arena!.solveStrands(placed.at);
      else solveStrands(fields);
    },
    places: (out) => {
      for (let k = 0; k < strands; k++) {
        const r = 7 * k;
        for (let o = 3 * first[k]!; o < 3 * first[k + 1]!; o += 3) {
          out[o] = x[o]! + roots[r]!;
          out[o + 1] = x[o + 1]! + roots[r + 1]!;
          out[o + 2] = x[o + 2]! + roots[r + 2]!;
        }
      }
    },
    ways: [x, dx, w, q, went, speed, speedOld],
    moving: [x, dx, w, q, d, c, roots, went, speed, speedOld],
    asides: [load, slip, shift, given],
  };
}

/** Of each root: its way in the last step, its speed and the one before, times h; 3 numbers each. */
interface RootPath {
  readonly went: Float64Array;
  readonly speed: Float64Array;
  readonly speedOld: Float64Array;
}

/** Puts the root of a strand where it is at the end of a step. */
function standRoot({ place, turn }: StrandStep, k: number, to: Roots): void {
  for (let a = 0; a < 3; a++) place[3 * k + a] = to[7 * k + a]!;
  matrixOf(turn, 9 * k, to, 7 * k + 3);
}

/**
 * Takes up that a root goes a way in a step. Returns how much farther it would be if it went on by itself (BDF2): what
 * its points feel of its travel.
 */
function goOn({ went, speed, speedOld }: RootPath, r: number, way: number): number {
  const own = went[r]! / 3 + (8 / 9) * speed[r]! - (2 / 9) * speedOld[r]! - way;
  speedOld[r] = speed[r]!;
  speed[r] = 1.5 * way - 0.5 * went[r]!;
  went[r] = way;
  return own;
}

/** Takes a root to where it is at the end of the step, and says what its way and gravity add to its points. */
function takeRoot(
  fields: StrandStep,
  path: RootPath,
  k: number,
  from: Roots,
  to: Roots,
  gravity: ArrayLike<number>,
  travel: number,
  H: number,
): void {
  for (let a = 0; a < 3; a++) {
    const own = goOn(path, 3 * k + a, to[7 * k + a]! - from[7 * k + a]!);
    fields.off[3 * k + a] = travel * own + H * gravity[a]!;
  }
  standRoot(fields, k, to);
}

/** Lays a strand as it is groomed, moving with its root from where that was a step before. */
function beginStrand(fields: StrandStep, path: RootPath, k: number, to: Roots, before: Roots): void {
  const { first, x, dx, w, q, d, c, s } = fields;
  for (let a = 0; a < 3; a++) {
    const way = to[7 * k + a]! - before[7 * k + a]!;
    for (const list of [path.went, path.speed, path.speedOld]) list[3 * k + a] = way;
  }
  standRoot(fields, k, before);
  layAsGroomed(fields, k, dx);
  standRoot(fields, k, to);
  layAsGroomed(fields, k, x);
  for (let o = 3 * first[k]!; o < 3 * first[k + 1]!; o++) {
    dx[o] = x[o]! - dx[o]!;
    w[o] = q[o] = dx[o]!;
    d[o] = c[o] = s[o]!;
  }
}

function fieldsOf(
  shapes: readonly StrandShape[],
  strands: number,
  links: number,
  make: (size: number) => Float64Array,
  ints: (size: number) => Int32Array,
): StrandStep {
  const of = (names: readonly (keyof StrandStep)[], size: number) =>
    Object.fromEntries(names.map((k) => [k, make(size)]));
  const first = ints(strands + 1);
  shapes.forEach((s, k) => (first[k + 1] = first[k]! + s.lengths.length));
  const fields = Object.assign(new StrandStep(), {
    ...{ strands, first, near: ints(strands), on: ints(links), room: make(64), turn: make(9 * strands) },
    ...of(['ta', 'ia'], strands),
    ...of(['place', 'off', 'went'], 3 * strands),
    ...of(['span', 'mass', 'kb', 'kd', 'kh', 'khd', 'sum', 'hard', 'sigma'], links),
    ...of(['load', 'slip', 'shift', 'gap', 'give', 'firm', 'kt', 'pressed', 'taken'], links),
    ...of(
      ['s', 'v', 'hv', 'd', 'c', 'x', 'dx', 'w', 'q', 'given', 'push', 'wind', 'seen', 'cn', 'ct', 'cw'],
      3 * links,
    ),
    ...of(['at', 'base', 'y', 'n0', 'n1', 'u', 'v1', 'dn', 'yn'], 3 * links),
    ...{ four: make(4 * links), two: make(2 * links) },
  });
  shapes.forEach(({ lengths, directions }, k) => {
    fields.span.set(lengths, first[k]);
    fields.s.set(directions, 3 * first[k]!);
    fields.v.set(directions, 3 * first[k]!);
  });
  fields.gap.fill(Infinity);
  return fields;
}

/** What links bear at rest: what is added to the hold of each (3 numbers), and how hard it is pulled, N. */
interface AtRest {
  readonly borne: Float64Array;
  readonly tension: Float64Array;
}

/** Holds the links of a strand to directions, and makes those its rest. */
function aimStrand(
  { first, s, v, hv, kh, sigma }: StrandStep,
  { borne }: AtRest,
  k: number,
  directions: ArrayLike<number>,
): void {
  const from = 3 * first[k]!;
  for (let i = first[k]!; i < first[k + 1]!; i++) {
    let turned = 0;
    for (let o = 3 * i; o < 3 * i + 3; o++) {
      s[o] = v[o] = directions[o - from]!;
      hv[o] = kh[i]! * s[o]! + borne[o]!;
      if (o - 3 >= from) turned += s[o - 3]! * v[o]!;
    }
    sigma[i] = turned;
  }
}

/** Coefficients of a strand for one length of step: those of a chain of the same links. */
function tuneStrand(
  fields: StrandStep,
  { borne, tension }: AtRest,
  k: number,
  { lengths }: StrandShape,
  feel: StrandFeel,
  h: number,
  masses: Float64Array,
): void {
  const own = lumpMasses(lengths, feel.weight);
  const { hold, bend, damping, gravity } = feel;
  const { alpha, beta, ...stiff } = calibrateChain(
    { lengths, masses: own },
    {
      ...NO_FEEL,
      ...{ hold, bend, damping, gravity },
      profiles: { ...(feel.holdBy && { hold: feel.holdBy }), ...(feel.bendBy && { bend: feel.bendBy }) },
    },
    h,
  );
  const [H, tau] = [(4 / 9) * h * h, (2 / 3) * h];
  const { first, s, v, hv, sigma } = fields;
  const lo = first[k]!;
  fields.ta[k] = tau * alpha;
  fields.ia[k] = 1 / (1 + tau * alpha);
  const load = [0, 0, 0];
  for (let j = lengths.length - 1; j >= 0; j--) {
    const [i, l, m] = [lo + j, lengths[j]!, own[j]! + (feel.ride?.[j] ?? 0)];
    masses[i] = m;
    const inert = m * (1 + tau * alpha);
    const kh = H * stiff.hold[j]! * l * l;
    const khd = tau * beta * stiff.hold[j]! * l * l;
    const kb = H * stiff.bend[j]!;
    const kd = tau * beta * stiff.bend[j]!;
    const sum = kh + khd + kb + kd;
    const made = { mass: inert, kh, khd, kb, kd, sum, hard: HARD * (inert + sum / (l * l)) };
    for (const name of Object.keys(made) as (keyof typeof made)[]) fields[name][i] = made[name];
    let [turned, pulled] = [0, 0];
    for (let a = 0; a < 3; a++) {
      const o = 3 * i + a;
      // What gravity asks of all that hangs beyond it is carried by the root.
      load[a]! += feel.keeps * m * gravity[a]!;
      borne[o] = -H * l * load[a]!;
      hv[o] = kh * s[o]! - H * l * load[a]!;
      if (j > 0) turned += s[o - 3]! * v[o]!;
      pulled += load[a]! * s[o]!;
    }
    sigma[i] = turned;
    tension[i] = Math.max(0, pulled);
  }
}

function layAsGroomed({ first, s, span, turn }: StrandStep, k: number, out: Float64Array): void {
  const m = 9 * k;
  for (let i = first[k]!; i < first[k + 1]!; i++)
    for (let a = 0; a < 3; a++) {
      const o = 3 * i;
      const along = [0, 1, 2].reduce((sum, b) => sum + turn[m + 3 * a + b]! * s[o + b]!, 0);
      out[o + a] = (i > first[k]! ? out[o + a - 3]! : 0) + span[i]! * along;
    }
}

/** Turns the state of a strand along with a share of its root's turn, which it then does not feel. */
function rideAlong(
  { first, x, dx, w, q }: StrandStep,
  k: number,
  from: Roots,
  to: Roots,
  share: number,
): void {
  const o = 7 * k + 3;
  const [ax, ay, az, aw] = [-from[o]!, -from[o + 1]!, -from[o + 2]!, from[o + 3]!];
  const [bx, by, bz, bw] = [to[o]!, to[o + 1]!, to[o + 2]!, to[o + 3]!];
  // to · from⁻¹, a small turn: its share has as much of its axis.
  const part = bw * aw - bx * ax - by * ay - bz * az < 0 ? -share : share;
  const tx = part * (bw * ax + bx * aw + by * az - bz * ay);
  const ty = part * (bw * ay - bx * az + by * aw + bz * ax);
  const tz = part * (bw * az + bx * ay - by * ax + bz * aw);
  const m = new Float64Array(9);
  matrixOf(m, 0, [tx, ty, tz, Math.sqrt(Math.max(0, 1 - tx * tx - ty * ty - tz * tz))], 0);
  for (const list of [x, dx, w, q])
    for (let i = 3 * first[k]!; i < 3 * first[k + 1]!; i += 3) {
      const [px, py, pz] = [list[i]!, list[i + 1]!, list[i + 2]!];
      for (let a = 0; a < 3; a++) list[i + a] = m[3 * a]! * px + m[3 * a + 1]! * py + m[3 * a + 2]! * pz;
    }
}

/** The matrix of a turn (x y z w), row by row. */
function matrixOf(out: Float64Array, at: number, turn: ArrayLike<number>, o: number): void {
  const [x, y, z, w] = [turn[o]!, turn[o + 1]!, turn[o + 2]!, turn[o + 3]!];
  out[at] = 1 - 2 * (y * y + z * z);
  out[at + 1] = 2 * (x * y - w * z);
  out[at + 2] = 2 * (x * z + w * y);
  out[at + 3] = 2 * (x * y + w * z);
  out[at + 4] = 1 - 2 * (x * x + z * z);
  out[at + 5] = 2 * (y * z - w * x);
  out[at + 6] = 2 * (x * z - w * y);
  out[at + 7] = 2 * (y * z + w * x);
  out[at + 8] = 1 - 2 * (x * x + y * y);
}

const TOLD = ['per', 'lift', 'h'] as const;
const numberOf = (key: (typeof TOLD)[number] | 'friction') => numberAt(new StrandStep(), key);
const NUMBERS = {
  ...{ per: numberOf('per'), lift: numberOf('lift'), h: numberOf('h'), friction: numberOf('friction') },
};
