import type { Sheet } from '../sheets/index';

/** A ball at rest: its middle and reaches, m, and whether there is another on the other side of x = 0. */
export interface Ball {
  readonly at: readonly [number, number, number];
  /** Full up to here, and nothing from there on. */
  readonly inner: number;
  readonly outer: number;
  readonly mirrored: boolean;
}

/** 1 at 0 and 0 at 1, with no kick at either end. */
const fall = (t: number): number => 1 - t * t * t * (10 + t * (6 * t - 15));

/** How much a ball reaches each point of a sheet (file units of so many m) at rest, 0..1. */
export function fromBall({ rest, points }: Sheet, ball: Ball, metresPerUnit: number): Float64Array {
  const { at, inner, outer, mirrored } = ball;
  const reach = (o: number, side: number) => {
    const d = Math.sqrt(
      (rest[o]! * metresPerUnit - side * at[0]) ** 2 +
        (rest[o + 1]! * metresPerUnit - at[1]) ** 2 +
        (rest[o + 2]! * metresPerUnit - at[2]) ** 2,
    );
    return d <= inner ? 1 : d >= outer ? 0 : fall((d - inner) / (outer - inner));
  };
  return Float64Array.from({ length: points }, (_, p) =>
    mirrored ? Math.max(reach(3 * p, 1), reach(3 * p, -1)) : reach(3 * p, 1),
  );
}
