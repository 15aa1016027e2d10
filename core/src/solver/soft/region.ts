import { cos, exp, sin } from '../../math/index';
import { RegionStep } from '../../kernel/soft/fields';
import { stepRegion } from '../../kernel/soft/region';
import { numberAt, type Arena } from '../arena';

/** The free points of a region, and how they lie beside each other. */
export interface RegionMesh {
  readonly points: number;
  /** m², a number a point. */
  readonly area: Float64Array;
  /** How much each is held by its paint, 0 < share ≤ 1: the less, the farther it goes. */
  readonly share: Float64Array;
  /** Half the cotangents at the edges of each point summed, to points that are not free too. */
  readonly sums: Float64Array;
  /** Free points beside each, list after list, and half the cotangents of those edges. */
  readonly from: Int32Array;
  readonly beside: Int32Array;
  readonly cotangents: Float64Array;
}

/** What a region's hold is, for one step. */
export interface RegionMatter {
  /** Hz and ratio. */
  readonly hold: number;
  readonly damping: number;
  /** How far a bump carries over the skin, m. */
  readonly spread: number;
  /** How many times as stiff it is along the normal. */
  readonly along: number;
  /** Share of the volume that is kept, 0..1. */
  readonly volume: number;
  /** m: how far it rests outside of its skin where it is painted full. */
  readonly swell: number;
}

/** A region in motion. Arrays hold 3 numbers a point, in world axes; they are the same for life. */
export interface Region {
  /** How far each point is from its skin, m, and its state beside. */
  readonly u: Float64Array;
  readonly moving: readonly Float64Array[];
  /** To be filled in before a step: what drives each point (m/s²), normals by area, turns since one and two steps. */
  readonly drive: Float64Array;
  readonly normal: Float64Array;
  readonly turns: Float64Array;
  /** How the paint is read, for one step: see {@link RegionMesh.share}. */
  readonly share: Float64Array;
  step(matter: RegionMatter): void;
  /** How much more than its own acceleration drives a region, so that its pole is met. */
  driven(matter: RegionMatter): number;
  /** Rounds that the last solve took. */
  readonly rounds: number;
}

const MOST_ROUNDS = 40;
/** What a solve may leave of its load, where the hold is all of the system. */
const LEAVES = 3e-3;

/** A pole as fast as this in a step is met exactly; from the second on it is left to the step, which damps it. */
const MET = 0.3;
const LEFT = 0.6;

/**
 * Hold (1/s²) and damping (1/s) for which a BDF2 step of h has the poles of an oscillator: D(e^{λh}) for both λ, D(z) =
 * (3/2 − 2/z + 1/(2z²)) / h. Poles that are too fast for the step have no such match.
 */
export function matchPoles(hold: number, damping: number, h: number): { k: number; c: number } {
  const w = 2 * Math.PI * hold;
  const root = Math.sqrt(Math.abs(damping * damping - 1));
  const fastest = w * h * (damping < 1 ? 1 : damping + root);
  const met = Math.min(1, Math.max(0, (LEFT - fastest) / (LEFT - MET)));
  const plain = { k: w * w, c: 2 * damping * w };
  if (met === 0) return plain;
  const exact = damping < 1 ? swinging(damping * w * h, w * root * h, h) : creeping(w, damping, root, h);
  return { k: met * exact.k + (1 - met) * plain.k, c: met * exact.c + (1 - met) * plain.c };
}

/** Of a pair λh = −a ± ib. */
function swinging(a: number, b: number, h: number): { k: number; c: number } {
  const [e1, e2] = [exp(a), exp(2 * a)];
  const re = (1.5 - 2 * e1 * cos(b) + 0.5 * e2 * cos(2 * b)) / h;
  const im = (2 * e1 * sin(b) - 0.5 * e2 * sin(2 * b)) / h;
  return { k: re * re + im * im, c: -2 * re };
}

/** Of two real ones, −ω (ζ ± √(ζ² − 1)). */
function creeping(w: number, damping: number, root: number, h: number): { k: number; c: number } {
  const [p, q] = [damping - root, damping + root].map((z) => {
    const e = exp(z * w * h);
    return (1.5 - 2 * e + 0.5 * e * e) / h;
  }) as [number, number];
  return { k: p * q, c: -(p + q) };
}

/** Numbers a region of so many points takes of an arena. */
export const regionNumbers = ({ points, beside }: Pick<RegionMesh, 'points' | 'beside'>): number =>
  48 * points + 2 * beside.length + 200;

/** Makes a region that takes steps of h seconds, compiled where there is an arena. */
export function makeRegion(mesh: RegionMesh, h: number, arena: Arena | null): Region {
  const n = mesh.points;
  const make = (size: number) => (arena ? arena.alloc(size) : new Float64Array(size));
  const ints = (list: Int32Array) => {
    const out = arena ? arena.allocInts(list.length) : new Int32Array(list.length);
    out.set(list);
    return out;
  };
  const kept = (list: Float64Array) => {
    const out = make(list.length);
    out.set(list);
    return out;
  };
  const three = () => make(3 * n);
  const fields = Object.assign(new RegionStep(), {
    ...{ points: n, h, most: MOST_ROUNDS },
    ...{ u: three(), older: three(), x: three(), v: three(), vOld: three() },
    ...{ drive: three(), turns: make(8), normal: three() },
    ...{ area: kept(mesh.area), share: kept(mesh.share), sums: kept(mesh.sums) },
    ...{ from: ints(mesh.from), beside: ints(mesh.beside), cotangents: kept(mesh.cotangents) },
    ...{
      own: make(n),
      inverse: make(n),
      b: three(),
      r: three(),
      z: three(),
      p: three(),
      q: three(),
      y: three(),
    },
  });
  fields.turns.set([0, 0, 0, 1, 0, 0, 0, 1]);
  const placed = arena?.place(fields);
  const poles = new Map<string, { k: number; c: number }>();
  const polesOf = ({ hold, damping }: RegionMatter) => {
    const key = `${hold} ${damping}`;
    const known = poles.get(key) ?? matchPoles(hold, damping, h);
    // Keyed settings differ on every step.
    if (poles.size > 64) poles.clear();
    poles.set(key, known);
    return known;
  };
  return {
    ...{ u: fields.u, drive: fields.drive, normal: fields.normal, turns: fields.turns, share: fields.share },
    moving: [fields.u, fields.older, fields.v, fields.vOld],
    step: (matter) => {
      const { k, c } = polesOf(matter);
      const inert = 9 / (4 * h * h);
      const put = {
        ...{ k, c, spread: k * matter.spread * matter.spread, along: matter.along },
        ...{ volume: matter.volume, swell: matter.swell },
        tolerance: Math.max(1e-6, (LEAVES * k) / (inert + k)),
      };
      for (const name of Object.keys(put) as (keyof typeof put)[]) {
        fields[name] = put[name];
        if (placed) placed.numbers[AT[name]] = put[name];
      }
      if (placed) arena!.region(placed.at);
      else stepRegion(fields);
    },
    driven: (matter) => {
      const w = 2 * Math.PI * matter.hold;
      return w > 0 ? polesOf(matter).k / (w * w) : 1;
    },
    get rounds() {
      return placed ? placed.numbers[AT.rounds]! : fields.rounds;
    },
  };
}

const NAMES = ['k', 'c', 'spread', 'along', 'volume', 'swell', 'tolerance', 'rounds'] as const;
const AT = Object.fromEntries(NAMES.map((k) => [k, numberAt(new RegionStep(), k)])) as Record<
  (typeof NAMES)[number],
  number
>;
