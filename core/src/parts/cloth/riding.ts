import {
  atan2,
  quatConjugate,
  quatFromAxis,
  quatMultiply,
  quatNormalise,
  quatRotate,
} from '../../math/index';
import type { Field } from '../../solver/index';

const step = new Float64Array(4);
const back = new Float64Array(4);
const v = new Float64Array(3);

/** out = p and then q: placements of 7 numbers (place, turn), of which q comes second. */
function followedBy(out: Float64Array, p: ArrayLike<number>, q: ArrayLike<number>): void {
  quatRotate(v, 0, q, 3, p, 0);
  for (let a = 0; a < 3; a++) out[a] = v[a]! + q[a]!;
  quatMultiply(out, 3, q, 3, p, 3);
  quatNormalise(out, 3);
}

/**
 * A space that takes a share of what carries a sheet's way and turn along, so that a sheet that moves in it feels the
 * rest alone: travel and turn response. Places are m.
 */
export class Riding {
  /** Takes places of this space into the world, now and at the start of the shot's step: place and turn. */
  readonly now = Float64Array.of(0, 0, 0, 0, 0, 0, 1);
  readonly before = Float64Array.of(0, 0, 0, 0, 0, 0, 1);
  /** From the world into it. */
  private readonly back = Float64Array.of(0, 0, 0, 0, 0, 0, 1);
  private readonly backBefore = Float64Array.of(0, 0, 0, 0, 0, 0, 1);
  private readonly by = new Float64Array(7);

  /** Whether it is another space than the world, now or at the start of the step. */
  get apart(): boolean {
    const { now, before } = this;
    return now[6] !== 1 || before[6] !== 1 || now[0] !== 0 || now[1] !== 0 || now[2] !== 0;
  }

  /** Makes it the world. */
  reset(): void {
    for (const p of [this.now, this.before, this.back, this.backBefore]) p.set([0, 0, 0, 0, 0, 0, 1]);
  }

  /**
   * Goes along: what carries the sheet goes from `from` to `to` (m) and turns from q to r (unit quaternions). `travel`
   * and `turn` are the shares of both that are felt.
   */
  go(
    from: ArrayLike<number>,
    to: ArrayLike<number>,
    q: Float64Array,
    r: Float64Array,
    felt: { readonly travel: number; readonly turn: number },
  ): void {
    const { now, before, by, backBefore } = this;
    before.set(now);
    backBefore.set(this.back);
    if (felt.travel === 1 && felt.turn === 1) return;
    quatConjugate(back, 0, q, 0);
    quatMultiply(step, 0, r, 0, back, 0);
    if (step[3]! < 0) for (let k = 0; k < 4; k++) step[k] = -step[k]!;
    const half = Math.sqrt(step[0]! * step[0]! + step[1]! * step[1]! + step[2]! * step[2]!);
    const angle = 2 * atan2(half, step[3]!) * (1 - felt.turn);
    const size = half > 1e-12 ? half : 1;
    quatFromAxis(by, 3, step[0]! / size, step[1]! / size, step[2]! / size, half > 1e-12 ? angle : 0);
    // About where it is carried at, and on with it.
    for (let a = 0; a < 3; a++) by[a] = from[a]! + (1 - felt.travel) * (to[a]! - from[a]!);
    quatRotate(v, 0, by, 3, Float64Array.from(from), 0);
    for (let a = 0; a < 3; a++) by[a]! -= v[a]!;
    followedBy(now, now, by);
    this.turnBack();
  }

  /** Takes up what stands in `now`. */
  turnBack(): void {
    quatConjugate(this.back, 3, this.now, 3);
    quatRotate(v, 0, this.back, 3, this.now, 0);
    for (let a = 0; a < 3; a++) this.back[a] = -v[a]!;
  }

  /** Where a body stands in this space, at the start of the shot's step and at its end. */
  bodyBefore(out: Float64Array, placed: ArrayLike<number>): void {
    followedBy(out, placed, this.backBefore);
  }
  bodyNow(out: Float64Array, placed: ArrayLike<number>): void {
    followedBy(out, placed, this.back);
  }

  /** Places of the world in this space; the other way; and a direction of the world in it, 3 numbers each. */
  into(out: Float64Array, places: ArrayLike<number>): void {
    carried(out, places, this.back);
  }
  out(out: Float64Array, places: ArrayLike<number>): void {
    carried(out, places, this.now);
  }
  turnedInto(out: Float64Array, direction: Float64Array): void {
    quatRotate(out, 0, this.back, 3, direction, 0);
  }
  turnedOut(list: Float64Array): void {
    for (let o = 0; o < list.length; o += 3) quatRotate(list, o, this.now, 3, list, o);
  }
}

const spot = new Float64Array(3);

/** Wind and pulls of the world in a space that rides along. */
export function fieldIn(riding: Riding, field: Field): Field {
  if (!riding.apart) return field;
  return (out, x, y, z) => {
    spot.set([x, y, z]);
    riding.out(spot, spot);
    field(out, spot[0]!, spot[1]!, spot[2]!);
    for (const part of [out.subarray(0, 3), out.subarray(3, 6)]) riding.turnedInto(part, part);
  };
}

/** Places (3 numbers each) carried by a placement. */
export function carried(out: Float64Array, places: ArrayLike<number>, by: ArrayLike<number>): void {
  for (let o = 0; o < places.length; o += 3) {
    quatRotate(out, o, by, 3, places, o);
    for (let a = 0; a < 3; a++) out[o + a]! += by[a]!;
  }
}
