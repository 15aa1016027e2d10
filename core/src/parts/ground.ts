import type { Body } from '../solver/index';

/** The share of what leans on something that it gets in a step: at once, what is as heavy as it is would throw it. */
export const GIVEN = 0.2;

/** A mesh whose vertices are moved, for what grows on it. */
export interface Ground {
  /** Takes up how far its vertices are from where they are animated, at a frame, which may be a part of one. */
  stand(frame: number): void;
  /** Adds that of a vertex to a place (3 numbers at `o`, m). */
  add(place: Float64Array, o: number, vertex: number): void;
  /** What feels what grows on it; null for what does not. */
  readonly body: Body | null;
}

/** A ground whose vertices go with points (−1 for none), and how far those are at a frame: 3 numbers each, m. */
export function groundOf(
  pointOf: ArrayLike<number>,
  strays: (frame: number) => Float64Array,
  body: Body | null,
): Ground {
  let off: Float64Array = new Float64Array(0);
  return {
    body,
    stand: (frame) => void (off = strays(frame)),
    add: (place, o, vertex) => {
      const p = 3 * (pointOf[vertex] ?? -1);
      if (p >= 0) for (let a = 0; a < 3; a++) place[o + a]! += off[p + a]!;
    },
  };
}
