import { quatNormalise, quatRotate } from '../../math/index';
import { wholeStep, type StepBody } from '../../solver/cloth/index';
import { finishBody, type Body, type LinkBody, type SoftBodySkin } from '../../solver/index';
import type { Riding } from './riding';

/** Bodies as a sheet that takes several steps in one of the shot meets them. */
export interface Between {
  readonly bodies: readonly StepBody[];
  /** Takes up where they go in the shot's step, in the space that the sheet moves in. */
  take(riding: Riding): void;
  /** Puts them where they are in step k of n. */
  stand(k: number, n: number): void;
  /** Gives what moves freely what it got back of the sheet in the shot's step. */
  react(riding: Riding): void;
}

/** Between two placements (7 numbers), the turn by the shorter way. */
function placeBetween(out: Float64Array, before: Float64Array, now: Float64Array, share: number): void {
  const sign = before[3]! * now[3]! + before[4]! * now[4]! + before[5]! * now[5]! + before[6]! * now[6]!;
  for (let a = 0; a < 7; a++) {
    const to = a > 2 && sign < 0 ? -now[a]! : now[a]!;
    out[a] = before[a]! + share * (to - before[a]!);
  }
  quatNormalise(out, 3);
}

/** A body of its own that stands and goes apart from another: what it gets back is its own until the step is over. */
function likeBody(b: Body): Body {
  const places = Float64Array.from(b.places);
  const free = b.free
    ? { ...b.free, impulse: new Float64Array(3), twist: new Float64Array(3) }
    : b.link && asFree(b.link);
  return { ...b, places, before: places.subarray(0, 7), now: places.subarray(7), free };
}

/** A soft body that gets its pushes in the space that a sheet moves in. */
function pushedFrom(soft: SoftBodySkin, riding: () => Riding | null): SoftBodySkin {
  const [at, by] = [new Float64Array(3), new Float64Array(3)];
  return {
    ...soft,
    lean: (x, y, z, px, py, pz, most) => {
      const rides = riding();
      if (!rides?.apart) return soft.lean(x, y, z, px, py, pz, most);
      at.set([x, y, z]);
      by.set([px, py, pz]);
      rides.out(at, at);
      rides.turnedOut(by);
      soft.lean(at[0]!, at[1]!, at[2]!, by[0]!, by[1]!, by[2]!, most);
    },
  };
}

/** A link of a chain as what is pushed: as heavy as the ends of it that move. */
function asFree({ gives }: LinkBody): NonNullable<Body['free']> {
  const mass = gives.reduce((sum, g) => sum + (g > 0 ? 1 / g : 0), 0);
  const three = () => new Float64Array(3);
  return {
    ...{ mass, inertia: three(), velocity: three(), spin: three(), start: three(), half: three() },
    ...{ impulse: three(), twist: three() },
  };
}

/** Gives both ends of a link what it got at its middle: an impulse, and a turning impulse as a pair of them. */
function pushLink({ shape, now, link }: Body, impulse: Float64Array, twist: Float64Array): void {
  const along = new Float64Array(3);
  quatRotate(along, 0, now, 3, [0, 2 * (shape as { half: number }).half, 0], 0);
  const size = along.reduce((sum, x) => sum + x * x, 0);
  for (let a = 0; a < 3; a++) {
    const [b, c] = [(a + 1) % 3, (a + 2) % 3];
    const pair = size > 0 ? (twist[b]! * along[c]! - twist[c]! * along[b]!) / size : 0;
    link!.push[a]! += impulse[a]! / 2 - pair;
    link!.push[3 + a]! += impulse[a]! / 2 + pair;
  }
}

/** `h` is the shot's step, s. */
export function makeBetween(bodies: readonly Body[], h: number): Between {
  let rides: Riding | null = null;
  const own = bodies.map((b): StepBody => {
    const places = Float64Array.from(b.places);
    return {
      ...wholeStep(likeBody(b)),
      ...{ places, before: places.subarray(0, 7), now: places.subarray(7) },
      soft: b.soft && pushedFrom(b.soft, () => rides),
    };
  });
  return {
    bodies: own,
    take: (riding) => {
      rides = riding;
      own.forEach(({ whole }, i) => {
        const { before, now, bound } = bodies[i]!;
        whole.bound = own[i]!.bound = bound;
        if (riding.apart) {
          riding.bodyBefore(whole.before, before);
          riding.bodyNow(whole.now, now);
        } else {
          whole.before.set(before);
          whole.now.set(now);
        }
        own[i]!.fixed = bodies[i]!.fixed && !riding.apart;
        if (!bodies[i]!.link) return;
        for (let a = 0; a < 3; a++) own[i]!.free!.velocity[a] = (whole.now[a]! - whole.before[a]!) / h;
      });
    },
    stand: (k, n) => {
      for (const b of own) {
        b.from = k / n;
        b.to = (k + 1) / n;
        placeBetween(b.before, b.whole.before, b.whole.now, k / n);
        placeBetween(b.now, b.whole.before, b.whole.now, (k + 1) / n);
      }
    },
    react: (riding) =>
      own.forEach((b, i) => {
        const { link, free: to } = bodies[i]!;
        const from = b.free;
        if (from && link) {
          riding.turnedOut(from.impulse);
          riding.turnedOut(from.twist);
          pushLink(bodies[i]!, from.impulse, from.twist);
          from.impulse.fill(0);
          from.twist.fill(0);
        }
        if (!from || !to) return;
        for (const [gathered, own] of [
          [from.impulse, to.impulse],
          [from.twist, to.twist],
        ] as const) {
          riding.turnedOut(gathered);
          for (let a = 0; a < 3; a++) own[a]! += gathered[a]!;
          gathered.fill(0);
        }
        finishBody(bodies[i]!, 0);
      }),
  };
}
