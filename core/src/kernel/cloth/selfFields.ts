import { NO_INTS, NONE } from '../numbers';
import type { Floats, Ints } from '../numbers';

/** What the contact of a sheet with itself reads and writes: points are balls. Numbers first; lengths in m. */
export class SelfStep {
  points: number = 0;
  /** Diameter of the balls, how far apart pairs are looked for, and how far points may move before the next look. */
  across: number = 0;
  reach: number = 0;
  margin: number = 0;
  /** Points nearer than this at rest are of one layer. */
  beside: number = 0;
  /** What layers that are in each other may come apart by in a step, and Coulomb μ between them. */
  apart: number = 0;
  friction: number = 0;
  /** 1 when pairs are to be looked for whatever has moved. */
  fresh: number = 0;
  /** Pairs found, and how many there is room for. */
  count: number = 0;
  room: number = 0;
  /** Slots of the hashed grid less one: a power of 2 less one. */
  mask: number = 0;

  /** See `ClothStep`; places at rest, and where points were when pairs were looked for. */
  x: Floats = NONE;
  old: Floats = NONE;
  w: Floats = NONE;
  touched: Floats = NONE;
  rest: Floats = NONE;
  seen: Floats = NONE;
  pairs: Ints = NO_INTS;
  /** The grid: the cell of each point (3 numbers), where the points of each slot begin, and all points by slot. */
  cell: Ints = NO_INTS;
  from: Ints = NO_INTS;
  order: Ints = NO_INTS;
}
