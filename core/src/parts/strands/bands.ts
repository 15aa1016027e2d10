import { quatRotate } from '../../math/index';
import type { Strands } from '../../solver/strands/index';
import type { StrandBand } from './document';

/** Damping ratio of what a band holds together. */
const CALM = 0.7;
/** A band holds by a spring of at most so many radians a step: what is firmer would ring. */
const FIRMEST = 0.6;

/** The points that one band holds together. */
interface Bundle {
  /** Points, and the strand of each. */
  readonly points: readonly number[];
  readonly strands: readonly number[];
  /** Where its numbers begin in the memory. */
  readonly from: number;
}

/**
 * Bands about hair: at a share of the way from root to tip guides are held together in bundles, as a tail is by a
 * ribbon, and a plait by several. Each point is pulled by a damped spring to where it stands in its bundle when it is
 * groomed, which goes and turns with their roots. What they give each other adds up to nothing.
 */
export class Bands {
  /** Of each point that is held: where it stands from the middle of its bundle in its root's space, m. */
  readonly memory: Float64Array;
  /** kg that bands put on each point. */
  readonly ride: Float64Array;
  private readonly place = new Float64Array(3);
  private readonly way = new Float64Array(3);
  private readonly want = new Float64Array(3);
  /** Place and way of the middle of a bundle. */
  private readonly sum = new Float64Array(6);
  /** By band: told by the groom alone. */
  private readonly bundles: readonly (readonly Bundle[])[];

  constructor(
    private readonly strands: Strands,
    private readonly bands: readonly StrandBand[],
    private readonly h: number,
    /** Roots at rest in m, 3 numbers a strand: bundles are told by what is near there. */
    roots: Float64Array,
  ) {
    let from = 0;
    this.bundles = bands.map(({ at, bundles }) => {
      const points = pointsAt(strands, at);
      return bundlesOf(roots, points, bundles).map((own) => {
        const made = { strands: own, points: own.map((k) => points[k]!), from };
        from += 3 * own.length;
        return made;
      });
    });
    this.memory = new Float64Array(from);
    this.ride = new Float64Array(strands.links);
    for (const [b, all] of this.bundles.entries())
      for (const { points } of all)
        for (const i of points) this.ride[i]! += bands[b]!.weight / 1000 / points.length;
  }

  /** Takes where points stand in their bundles: to be called where hair stands as it was combed. */
  begin(): void {
    const { memory, place, want } = this;
    const back = new Float64Array(4);
    for (const [b, bundles] of this.bundles.entries())
      for (const bundle of bundles) {
        this.middle(bundle);
        bundle.points.forEach((i, n) => {
          const k = bundle.strands[n]!;
          this.stand(k, i);
          const { roots } = this.strands;
          back.set([-roots[7 * k + 3]!, -roots[7 * k + 4]!, -roots[7 * k + 5]!, roots[7 * k + 6]!]);
          const wide = 1 - this.bands[b]!.drawn / 100;
          for (let a = 0; a < 3; a++) want[a] = wide * (place[a]! - this.sum[a]!);
          quatRotate(memory, bundle.from + 3 * n, back, 0, want, 0);
        });
      }
  }

  /** Pushes points for the coming step. */
  push(): void {
    for (const [b, bundles] of this.bundles.entries()) {
      const rate = Math.min(2 * Math.PI * this.bands[b]!.firmness, FIRMEST / this.h);
      for (const bundle of bundles) this.pushBundle(bundle, rate);
    }
  }

  private pushBundle(bundle: Bundle, rate: number): void {
    const { strands, memory, place, way, want, sum } = this;
    const { push, roots, masses } = strands;
    const mass = this.middle(bundle);
    let gx = 0,
      gy = 0,
      gz = 0;
    // First what they give each other on the mean, which is taken off.
    for (let round = 0; round < 2; round++)
      for (let n = 0; n < bundle.points.length; n++) {
        const i = bundle.points[n]!,
          k = bundle.strands[n]!;
        this.stand(k, i);
        quatRotate(want, 0, roots, 7 * k + 3, memory, bundle.from + 3 * n);
        const ax = rate * rate * (sum[0]! + want[0]! - place[0]!) - 2 * CALM * rate * (way[0]! - sum[3]!);
        const ay = rate * rate * (sum[1]! + want[1]! - place[1]!) - 2 * CALM * rate * (way[1]! - sum[4]!);
        const az = rate * rate * (sum[2]! + want[2]! - place[2]!) - 2 * CALM * rate * (way[2]! - sum[5]!);
        if (round === 0) {
          gx += (masses[i]! * ax) / mass;
          gy += (masses[i]! * ay) / mass;
          gz += (masses[i]! * az) / mass;
        } else {
          push[3 * i]! += ax - gx;
          push[3 * i + 1]! += ay - gy;
          push[3 * i + 2]! += az - gz;
        }
      }
  }

  /** Where the middle of the masses of a bundle is (m), and how fast (m/s). Returns their mass, kg. */
  private middle({ points, strands }: Bundle): number {
    const { sum, place, way } = this;
    const { masses } = this.strands;
    sum.fill(0);
    let mass = 0;
    for (let n = 0; n < points.length; n++) {
      const m = masses[points[n]!]!;
      this.stand(strands[n]!, points[n]!);
      mass += m;
      for (let a = 0; a < 3; a++) {
        sum[a]! += m * place[a]!;
        sum[3 + a]! += m * way[a]!;
      }
    }
    for (let a = 0; a < 6; a++) sum[a]! /= mass;
    return mass;
  }

  /** Where a point is, m, and how fast, m/s. */
  private stand(k: number, i: number): void {
    const { x, roots, way, went } = this.strands;
    for (let a = 0; a < 3; a++) {
      this.place[a] = x[3 * i + a]! + roots[7 * k + a]!;
      this.way[a] = (way[3 * i + a]! + went[3 * k + a]!) / this.h;
    }
  }
}

/** The point of each strand that is nearest to a share of its length from the root; −1 where it has none. */
function pointsAt({ first, fields }: Strands, at: number): number[] {
  return Array.from({ length: first.length - 1 }, (_, k) => {
    const [lo, hi] = [first[k]!, first[k + 1]!];
    let whole = 0;
    for (let i = lo; i < hi; i++) whole += fields.span[i]!;
    let [best, least, along] = [-1, Infinity, 0];
    for (let i = lo; i < hi; i++) {
      along += fields.span[i]!;
      const off = Math.abs(along - at * whole);
      if (off < least) [best, least] = [i, off];
    }
    return best;
  });
}

/**
 * Strands in so many bundles by where their roots are at rest: seeds as far apart as can be, each strand with the
 * nearest. Bundles of one strand are left out.
 */
function bundlesOf(roots: Float64Array, points: readonly number[], count: number): number[][] {
  const some = points.flatMap((i, k) => (i >= 0 ? [k] : []));
  const apart = (p: number, q: number) =>
    [0, 1, 2].reduce((sum, a) => sum + (roots[3 * p + a]! - roots[3 * q + a]!) ** 2, 0);
  const near = new Map(some.map((k) => [k, { seed: 0, apart: Infinity }]));
  const bundles: number[][] = [];
  for (let seed = some[0]; seed !== undefined && bundles.length < count;) {
    let [next, most]: [number | undefined, number] = [undefined, 0];
    for (const [k, of] of near) {
      const d = apart(k, seed);
      if (d < of.apart) Object.assign(of, { seed: bundles.length, apart: d });
      if (of.apart > most) [next, most] = [k, of.apart];
    }
    bundles.push([]);
    seed = next;
  }
  for (const [k, { seed }] of near) bundles[seed]!.push(k);
  return bundles.filter((b) => b.length > 1);
}
