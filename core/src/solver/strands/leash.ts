import { quatRotate } from '../../math/index';
import type { StrandShape, Strands } from './strands';

/** A slide so far that it does not rub, m. */
const SMOOTH = 1e12;

/** Keeps the points of strands within a distance of their groom: a contact with a ball from inside. */
export class StrandLeash {
  /** Where the groom has each point in the frame of its root, for good, and where it had it before the step, m. */
  private readonly groom: Float64Array;
  private readonly was: Float64Array;

  constructor(
    private readonly strands: Strands,
    shapes: readonly StrandShape[],
  ) {
    this.groom = new Float64Array(3 * strands.links);
    this.was = new Float64Array(3 * strands.links);
    shapes.forEach(({ lengths, directions }, k) => {
      const from = strands.first[k]!;
      lengths.forEach((l, i) => {
        for (let a = 0; a < 3; a++) {
          const o = 3 * (from + i) + a;
          this.groom[o] = (i > 0 ? this.groom[o - 3]! : 0) + l * directions[3 * i + a]!;
        }
      });
    });
  }

  /** Takes up where the groom stands, before a step is predicted. */
  ready(): void {
    const { strands, was, groom } = this;
    const { first, roots } = strands;
    for (let k = 0; k + 1 < first.length; k++)
      for (let o = 3 * first[k]!; o < 3 * first[k + 1]!; o += 3)
        quatRotate(was, o, roots, 7 * k + 3, groom, o);
  }

  /**
   * Holds points to a leash (m) in the coming step, once it is predicted and contacts are found. `others` are those;
   * null where nothing else is touched. A point has one contact, the deepest.
   */
  hold(leash: number, others: { drop(point: number): void } | null): void {
    const { strands, groom, was } = this;
    const { fields, first, near } = strands;
    const { y, gap, give, cn, ct, cw, slip } = fields;
    if (!others) {
      gap.fill(Infinity);
      give.fill(0);
      near.fill(0);
    }
    const stands = [0, 0, 0];
    for (let k = 0; k + 1 < first.length; k++)
      for (let i = first[k]!; i < first[k + 1]!; i++) {
        const o = 3 * i;
        this.standing(k, i, stands);
        let far = 0;
        for (let a = 0; a < 3; a++) far += (groom[o + a]! - y[o + a]!) ** 2;
        far = Math.sqrt(far);
        if (leash - far < gap[i]! && far > 0) {
          near[k] = 1;
          others?.drop(i);
          gap[i] = leash - far;
          give[i] = 0;
          slip[i] = SMOOTH;
          for (let a = 0; a < 3; a++) {
            cn[o + a] = (groom[o + a]! - y[o + a]!) / far;
            ct[o + a] = y[o + a]!;
            cw[o + a] = stands[a]! - was[o + a]!;
          }
        }
      }
  }

  /** Where the groom has a point now, from its root, m. */
  private standing(k: number, i: number, out: number[]): void {
    const { turn } = this.strands.fields;
    const { groom } = this;
    for (let a = 0; a < 3; a++)
      out[a] =
        turn[9 * k + 3 * a]! * groom[3 * i]! +
        turn[9 * k + 3 * a + 1]! * groom[3 * i + 1]! +
        turn[9 * k + 3 * a + 2]! * groom[3 * i + 2]!;
  }
}
