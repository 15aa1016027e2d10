import { NO_INTS, NONE } from '../numbers';
import type { Floats, Ints } from '../numbers';

/**
 * What a step of a region of skin reads and writes. Arrays of a point hold 3 numbers each unless said; lengths are m.
 * Points that are not free have no place here: what lies beside them counts in `sums` alone.
 */
export class RegionStep {
  points: number = 0;
  /** s: one step. */
  h: number = 0;
  /** 1/s² and 1/s: hold and damping, matched to the poles of the step. */
  k: number = 0;
  c: number = 0;
  /** m²/s²: hold times the square of the spread. */
  spread: number = 0;
  /** How many times as stiff the hold is along the normal. */
  along: number = 1;
  /** Share of the volume that is kept, 0..1. */
  volume: number = 0;
  /** m: how far it rests outside of its skin where it is painted full. */
  swell: number = 0;
  /** Rounds of the solve at most, and the share of the load it may leave. */
  most: number = 0;
  tolerance: number = 0;
  /** Rounds that were taken. */
  rounds: number = 0;
  /** Displacements now, one and two steps before, and the solution; speeds now and one step before. */
  u: Floats = NONE;
  older: Floats = NONE;
  x: Floats = NONE;
  v: Floats = NONE;
  vOld: Floats = NONE;
  /** What the skin's own motion and gravity drive each point by, m/s². */
  drive: Floats = NONE;
  /** Turns since the last step and since the one before it, x y z w each. */
  turns: Floats = NONE;
  /** Normals in the world now, as long as their area is large. */
  normal: Floats = NONE;
  /** A number a point: area (m²), hold by paint (0..1], and half the cotangents at its edges summed. */
  area: Floats = NONE;
  share: Floats = NONE;
  sums: Floats = NONE;
  /** Free points beside each: where its list begins (points + 1), their places, and half the cotangents. */
  from: Ints = NO_INTS;
  beside: Ints = NO_INTS;
  cotangents: Floats = NONE;
  /** Room for the solve: diagonals and their inverses a number a point, the rest 3. */
  own: Floats = NONE;
  inverse: Floats = NONE;
  b: Floats = NONE;
  r: Floats = NONE;
  z: Floats = NONE;
  p: Floats = NONE;
  q: Floats = NONE;
  y: Floats = NONE;
}
