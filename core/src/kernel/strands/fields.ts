import { NO_INTS, NONE } from '../numbers';
import type { Floats, Ints } from '../numbers';

/**
 * What a step of strands reads and writes. A strand is a row of links from a root that is carried; its unknowns are the
 * directions of its links in the root's frame, so that lengths are exact. Arrays hold a number a link, or 3 where said;
 * a point is the outer end of its link. Lengths are m, stiffnesses are times what a step makes of them: kg m².
 */
export class StrandStep {
  strands: number = 0;
  /** Coulomb μ on the surfaces that are touched. */
  friction: number = 0;
  /** How the air takes hold of links, and s a step: see {@link blowStrands}. */
  per: number = 0;
  lift: number = 0;
  h: number = 0;
  /** The first link of each strand, and one more. */
  first: Ints = NO_INTS;
  /** Of each strand: damping by mass τα and 1 / (1 + τα). */
  ta: Floats = NONE;
  ia: Floats = NONE;
  /** Of each strand: where its root is, the turn of its frame (9 numbers, row by row), and what the way of its root
   * and gravity add to each point in the step (3 each). */
  place: Floats = NONE;
  turn: Floats = NONE;
  off: Floats = NONE;
  /** 1 for strands of which a point may touch something. */
  near: Ints = NO_INTS;

  /** Length, mass with damping, bend, its damping, hold, its damping, all four, and hardness of contact. */
  span: Floats = NONE;
  mass: Floats = NONE;
  kb: Floats = NONE;
  kd: Floats = NONE;
  kh: Floats = NONE;
  khd: Floats = NONE;
  sum: Floats = NONE;
  hard: Floats = NONE;
  /** Source direction, rest direction against the parent, what holds to the source (3 each), and how far that turns. */
  s: Floats = NONE;
  v: Floats = NONE;
  hv: Floats = NONE;
  sigma: Floats = NONE;

  /** State: direction, direction carried on, place of the point from the root in world axes, its way, speed and what
   * follows from both (3 each); load of its contact, how far it slid, and how the last step shifted it. */
  d: Floats = NONE;
  c: Floats = NONE;
  x: Floats = NONE;
  dx: Floats = NONE;
  w: Floats = NONE;
  q: Floats = NONE;
  load: Floats = NONE;
  slip: Floats = NONE;
  shift: Floats = NONE;

  /** What pushes each point: m/s² that wait for the coming step, and the way in it; and the air there, m/s (3 each). */
  given: Floats = NONE;
  push: Floats = NONE;
  wind: Floats = NONE;
  /** Of each strand: the way of its root in the last step (3). */
  went: Floats = NONE;
  /** Where each point is expected, in the world (3 each). */
  seen: Floats = NONE;
  /** Of the contact of each point: gap, normal in the root's frame, where the surface carries the point in that frame,
   * and the way of the surface against the root in world axes (3 each). A gap of Infinity is none. */
  gap: Floats = NONE;
  /** How far a surface that gives way goes for each kg m that its point is pressed by, 1/kg; 0 for a firm one. */
  give: Floats = NONE;
  /** How hard each contact is in this step. */
  firm: Floats = NONE;
  cn: Floats = NONE;
  ct: Floats = NONE;
  cw: Floats = NONE;

  /** Room for the solve. */
  at: Floats = NONE;
  base: Floats = NONE;
  y: Floats = NONE;
  n0: Floats = NONE;
  n1: Floats = NONE;
  u: Floats = NONE;
  v1: Floats = NONE;
  four: Floats = NONE;
  two: Floats = NONE;
  dn: Floats = NONE;
  yn: Floats = NONE;
  kt: Floats = NONE;
  pressed: Floats = NONE;
  on: Ints = NO_INTS;
  /** By how much more than it went each point goes on with its surface, m. */
  taken: Floats = NONE;
  room: Floats = NONE;
}
