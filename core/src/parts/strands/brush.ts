import { cos, sin } from '../../math/index';
import type { Surface } from '../../solver/index';
import { lengthOfGuide } from './groom';

/** What a brush does to hair. */
export const COMBS = [
  ...(['comb', 'lift', 'smooth', 'clump', 'part', 'straighten'] as const),
  ...(['twist', 'lengthen', 'cut'] as const),
] as const;
export type Comb = (typeof COMBS)[number];

/** One touch of the brush on guides as they stand (places of all their points, m, guide after guide). */
export interface CombDab {
  readonly does: Comb;
  /** How much of the brush each point feels, 0..1; 0 for those it does not reach. */
  readonly felt: ArrayLike<number>;
  /** How far the brush went at each point's depth, m in the world: 3 numbers a point, for what combs. */
  readonly way: ArrayLike<number>;
  /** To which side of the brush each point lies: −1 or 1, and that way as a unit vector; for a parting. */
  readonly side: ArrayLike<number>;
  readonly across: readonly [number, number, number];
}

/** Guides that are brushed: places of their points in the world, m, and the normal of the skin under each. */
export interface Combed {
  readonly places: Float64Array;
  /** The first point of each, and one more. */
  readonly first: Int32Array;
  /** 3 numbers a guide. */
  readonly normals: Float64Array;
  /** Guides that are left alone. */
  readonly frozen: ReadonlySet<number>;
}

/** At the strongest: how much longer a touch makes a guide, and how far it turns one, rad. */
const LONGER = 0.04;
const TURN = 0.12;
/** Of the way to where a touch that shapes is going. */
const SHAPES = 0.25;
/** A guide is cut to no less than this share of its length at a touch. */
const STUB = 0.02;
/** How far out of the skin points keep, as a share of a link. */
const CLEAR = 0.05;

/**
 * Brushes guides in place; the roots stay. Links keep their lengths but for what lengthens and cuts. Points that would
 * enter `out` are put on it. Returns the guides that changed.
 */
export function combHair(hair: Combed, dab: CombDab, out: Surface | null): number[] {
  const { first, frozen } = hair;
  const mean = dab.does === 'clump' ? meanOf(hair, dab) : null;
  const changed: number[] = [];
  for (let g = 0; g + 1 < first.length; g++) {
    if (frozen.has(g)) continue;
    let most = 0;
    for (let i = first[g]!; i < first[g + 1]!; i++) most = Math.max(most, dab.felt[i]!);
    if (!(most > 0)) continue;
    changed.push(g);
    if (dab.does === 'lengthen') scaleGuide(hair, g, 1 + LONGER * most);
    else if (dab.does === 'cut') cutGuide(hair, g, dab);
    else shapeGuide(hair, g, dab, mean);
    if (out) keepOut(hair, g, out);
  }
  return changed;
}

/** Where the points of felt guides are on the mean, share for share along them: 24 places. */
const MEANS = 24;
function meanOf({ places, first, frozen }: Combed, { felt }: CombDab): Float64Array {
  const out = new Float64Array(3 * MEANS);
  let all = 0;
  for (let g = 0; g + 1 < first.length; g++) {
    if (frozen.has(g)) continue;
    const [lo, hi] = [first[g]!, first[g + 1]!];
    let most = 0;
    for (let i = lo; i < hi; i++) most = Math.max(most, felt[i]!);
    if (!(most > 0)) continue;
    all += most;
    for (let k = 0; k < MEANS; k++) {
      const u = (k / (MEANS - 1)) * (hi - lo - 1);
      const i = lo + Math.min(hi - lo - 2, Math.floor(u));
      const f = u - (i - lo);
      for (let a = 0; a < 3; a++)
        out[3 * k + a]! += most * ((1 - f) * places[3 * i + a]! + f * places[3 * i + 3 + a]!);
    }
  }
  return all > 0 ? out.map((x) => x / all) : out;
}

/** Moves the points of a guide as the brush asks, and lays its links toward them. */
function shapeGuide(hair: Combed, g: number, dab: CombDab, mean: Float64Array | null): void {
  const { places, first } = hair;
  const [lo, hi] = [first[g]!, first[g + 1]!];
  const before = places.slice(3 * lo, 3 * hi);
  const to = before.slice();
  const last = hi - lo - 1;
  const gone = [0, 0, 0];
  for (let i = 1; i <= last; i++) {
    const felt = dab.felt[lo + i]!;
    const o = 3 * i;
    if (dab.does === 'comb') {
      // What hangs beyond the brush goes along.
      for (let a = 0; a < 3; a++) {
        gone[a] = felt * dab.way[3 * (lo + i) + a]! + (1 - felt) * gone[a]!;
        to[o + a]! += gone[a]!;
      }
    } else if (felt === 0) continue;
    else if (dab.does === 'part') {
      const by = felt * lengthTo(before, i) * SHAPES * dab.side[lo + i]!;
      for (let a = 0; a < 3; a++) to[o + a]! += by * dab.across[a]!;
    } else if (dab.does === 'clump') {
      const k = 3 * Math.round((i / last) * (MEANS - 1));
      const by = (SHAPES * felt * i) / last;
      for (let a = 0; a < 3; a++) to[o + a]! += by * (mean![k + a]! - before[o + a]!);
    } else if (dab.does === 'smooth') {
      const [p, q] = [o - 3, i === last ? o : o + 3];
      if (i < last)
        for (let a = 0; a < 3; a++)
          to[o + a]! += felt * 0.5 * ((before[p + a]! + before[q + a]!) / 2 - before[o + a]!);
    } else if (dab.does === 'straighten') {
      const along = lengthTo(before, i) / lengthTo(before, last);
      for (let a = 0; a < 3; a++) {
        const aim = before[a]! + along * (before[3 * last + a]! - before[a]!);
        to[o + a]! += SHAPES * felt * (aim - before[o + a]!);
      }
    } else turnPoint(to, o, before, hair.normals.subarray(3 * g, 3 * g + 3), dab.does, felt);
  }
  lay(hair, g, before, to);
}

/** Lifts a point toward where the skin's normal points, or takes it round that. */
function turnPoint(
  to: Float64Array,
  o: number,
  before: Float64Array,
  n: Float64Array,
  does: Comb,
  felt: number,
): void {
  const d = [0, 1, 2].map((a) => before[o + a]! - before[a]!) as [number, number, number];
  const up = d[0] * n[0]! + d[1] * n[1]! + d[2] * n[2]!;
  if (does === 'lift') {
    const size = Math.sqrt(d[0] ** 2 + d[1] ** 2 + d[2] ** 2);
    for (let a = 0; a < 3; a++) to[o + a]! += SHAPES * felt * (size * n[a]! - d[a]!);
    return;
  }
  const [c, s] = [cos(TURN * felt), sin(TURN * felt)];
  for (let a = 0; a < 3; a++) {
    const [p, q] = [(a + 1) % 3, (a + 2) % 3];
    const round = n[p]! * d[q]! - n[q]! * d[p]!;
    to[o + a] = before[a]! + up * n[a]! + c * (d[a]! - up * n[a]!) + s * round;
  }
}

/** How long a guide (places from its root on) is up to a point. */
const lengthTo = (guide: Float64Array, i: number): number => lengthOfGuide(guide.subarray(0, 3 * i + 3));

/** Lays the links of a guide toward places, as long as they were. */
function lay({ places, first }: Combed, g: number, before: Float64Array, to: Float64Array): void {
  const o = 3 * first[g]!;
  for (let i = 3; i < before.length; i += 3) {
    let [long, size] = [0, 0];
    for (let a = 0; a < 3; a++) {
      long += (before[i + a]! - before[i + a - 3]!) ** 2;
      size += (to[i + a]! - places[o + i + a - 3]!) ** 2;
    }
    const by = size > 0 ? Math.sqrt(long / size) : 0;
    for (let a = 0; a < 3; a++) {
      const p = places[o + i + a - 3]!;
      const way = by > 0 ? by * (to[i + a]! - p) : before[i + a]! - before[i + a - 3]!;
      places[o + i + a] = p + way;
    }
  }
}

/** Makes a guide so many times as long. */
function scaleGuide({ places, first }: Combed, g: number, by: number): void {
  const before = places.slice(3 * first[g]!, 3 * first[g + 1]!);
  const o = 3 * first[g]!;
  for (let i = 3; i < before.length; i++)
    places[o + i] = places[o + i - 3]! + by * (before[i]! - before[i - 3]!);
}

/** Cuts a guide where the brush first reaches it: the rest has as many points on what is left. */
function cutGuide(hair: Combed, g: number, { felt }: CombDab): void {
  const { places, first } = hair;
  const [lo, hi] = [first[g]!, first[g + 1]!];
  const guide = places.slice(3 * lo, 3 * hi);
  const at = guide.findIndex((_, o) => o % 3 === 0 && felt[lo + o / 3]! > 0) / 3;
  const whole = lengthTo(guide, hi - lo - 1);
  const left = Math.max(STUB * whole, lengthTo(guide, Math.max(0, at)));
  resample(places, 3 * lo, guide, hi - lo, left);
}

/** Writes so many points, evenly along the first `length` m of a line of places. */
export function resample(
  out: Float64Array,
  at: number,
  line: Float64Array,
  points: number,
  length: number,
): void {
  let [i, from] = [0, 0];
  for (let k = 0; k < points; k++) {
    const s = (length * k) / (points - 1);
    for (;;) {
      const link = Math.sqrt(
        [0, 1, 2].reduce((sum, a) => sum + (line[3 * i + 3 + a]! - line[3 * i + a]!) ** 2, 0),
      );
      if (s <= from + link || 3 * i + 8 >= line.length) {
        const f = link > 0 ? (s - from) / link : 0;
        for (let a = 0; a < 3; a++)
          out[at + 3 * k + a] = line[3 * i + a]! + f * (line[3 * i + 3 + a]! - line[3 * i + a]!);
        break;
      }
      from += link;
      i++;
    }
  }
}

/** Times that a link is turned out of a surface, which may let it in again elsewhere. */
const TRIES = 4;

/** Puts points of a guide that stand inside a surface out of it, link after link, each as long as it was. */
function keepOut({ places, first }: Combed, g: number, surface: Surface): void {
  const [lo, hi] = [3 * first[g]!, 3 * first[g + 1]!];
  const before = places.slice(lo, hi);
  const found = new Float64Array(4);
  for (let i = 3; i < before.length; i += 3) {
    const o = lo + i;
    const link = lengthOfGuide(before.subarray(i - 3, i + 3));
    for (let a = 0; a < 3; a++) places[o + a] = places[o + a - 3]! + before[i + a]! - before[i + a - 3]!;
    for (let k = 0; k < TRIES; k++) {
      surface.nearest(found, places[o]!, places[o + 1]!, places[o + 2]!);
      const deep = CLEAR * link - found[0]!;
      if (!(deep > 0)) break;
      let size = 0;
      for (let a = 0; a < 3; a++) {
        places[o + a]! += deep * found[1 + a]!;
        size += (places[o + a]! - places[o + a - 3]!) ** 2;
      }
      const by = size > 0 ? link / Math.sqrt(size) : 1;
      for (let a = 0; a < 3; a++)
        places[o + a] = places[o + a - 3]! + by * (places[o + a]! - places[o + a - 3]!);
    }
  }
}

/** By guide: the one whose root stands across x = 0, within a distance, or −1; roots at rest, m. */
export function mirrorPartners(guides: readonly ArrayLike<number>[], within: number): Int32Array {
  return Int32Array.from(guides, (g) => {
    let [best, far] = [-1, within * within];
    guides.forEach((q, k) => {
      const d = (g[0]! + q[0]!) ** 2 + (g[1]! - q[1]!) ** 2 + (g[2]! - q[2]!) ** 2;
      if (d < far) [best, far] = [k, d];
    });
    return best;
  });
}

/** A guide on the other side of x = 0, on the root and with the points of its partner. */
export function mirroredOnto(guide: Float64Array, partner: Float64Array): Float64Array {
  const flat = guide.map((x, o) => (o % 3 === 0 ? -x : x));
  const out = flat.length === partner.length ? flat : new Float64Array(partner.length);
  if (out !== flat) resample(out, 0, flat, partner.length / 3, lengthOfGuide(flat));
  const off = [0, 1, 2].map((a) => partner[a]! - out[a]!);
  return out.map((x, o) => x + off[o % 3]!);
}
