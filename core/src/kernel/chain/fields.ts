import { NONE } from '../numbers';
import type { Floats, Index } from '../numbers';

/**
 * All that a step of one chain of n links reads and writes. Points are 0 (the root, carried) to n (the tip); arrays are
 * 3 numbers a point or a link vector, or one a link, unless told otherwise. Numbers stand first, arrays after them:
 * that is how the fields lie in memory.
 */
export class ChainStep {
  /** Links. */
  n: number = 0;
  /** Length of the step, s. */
  h: number = 0;
  /** What a force counts for: 4/9 h² of second order, h² of first. */
  H: number = 0;
  /** Velocity of the step: b0 · next − b1 · now + b2 · before. */
  b0: number = 0;
  b1: number = 0;
  b2: number = 0;
  /** Place without forces: c43 · x − c13 · xOld + c89 · v − c29 · vOld. */
  c43: number = 0;
  c13: number = 0;
  c89: number = 0;
  c29: number = 0;
  /** What damping counts for: ⅔ h of second order, h of first. */
  touch: number = 0;
  /** Contact rows in use. */
  contacts: number = 0;
  /** 1 or 0: whether there is damping, bending, a soft length, a limit of angle, a plane, air. */
  damped: number = 0;
  bending: number = 0;
  soft: number = 0;
  coned: number = 0;
  planar: number = 0;
  airy: number = 0;
  /** The last row of the source motion. */
  lastRow: number = 0;
  /** Share of its load by which what a contact rubs with may still change when a step is called done. */
  rub: number = 0;
  /** Contacts that came or went when last read. */
  toggled: number = 0;

  /** Length at rest and its inverse. */
  rest: Floats = NONE;
  perRest: Floats = NONE;
  /** kg of points 1..n. */
  mass: Floats = NONE;
  /** N/m and N·m, see {@link ChainCoefficients}. */
  hold: Floats = NONE;
  bend: Floats = NONE;
  /** Damping of points (1/s) and of links (s). */
  dampMass: Floats = NONE;
  dampStiff: Floats = NONE;
  /** Largest share by which each link may stretch, and least cosine to its source. */
  limits: Floats = NONE;
  cone: Floats = NONE;
  /** Acceleration from outside on points 1..n, and how firmly air holds them (kg/s). */
  fall: Floats = NONE;
  grip: Floats = NONE;
  /** Unit normal of the plane the links stay parallel to. */
  plane: Floats = NONE;
  /** Rows of {@link CONTACT_ROW} numbers. */
  contact: Floats = NONE;
  /** Stiffness along each link in units of the matrix, and what it comes from, m/N. */
  lengthwise: Floats = NONE;
  compliance: Floats = NONE;
  /** Length now, length to keep, and its inverse. */
  length: Floats = NONE;
  aim: Floats = NONE;
  perAim: Floats = NONE;
  /** Tension of each link in units of the matrix. */
  tension: Floats = NONE;
  x: Floats = NONE;
  xOld: Floats = NONE;
  v: Floats = NONE;
  vOld: Floats = NONE;
  /** Points and world turns (4 numbers a link) the source has at the moment being stepped to. */
  source: Floats = NONE;
  sourceTurn: Floats = NONE;
  /** Turns of the source in the step before, link vectors one and two steps before, and where damping wants them. */
  turnOld: Floats = NONE;
  past1: Floats = NONE;
  past2: Floats = NONE;
  carried: Floats = NONE;
  /** Points 1..n relative to the new root: being found, and without forces. */
  y: Floats = NONE;
  target: Floats = NONE;
  /** Link vectors and unit directions of y, unit directions of the source. */
  u: Floats = NONE;
  d: Floats = NONE;
  s: Floats = NONE;
  /** Gradient by link vector. */
  f: Floats = NONE;
  /** The matrix (see factor.ts), its part that the shape does not change, and the right-hand side. */
  band: Floats = NONE;
  base: Floats = NONE;
  rhs: Floats = NONE;
  /** Rows of the source motion: points and turns. */
  points: Floats = NONE;
  turnRows: Floats = NONE;
  /** All that is remembered from step to step, and the same before the last step, when something was near in it. */
  state: Floats = NONE;
  before: Floats = NONE;
}

/** Numbers of a column of the matrix: its diagonal and the eight below. */
export const ROW: Index = 9;
/** Numbers of a contact row: see `CONTACT` of solver/contactRow.ts. */
export const CONTACT_ROW: Index = 20;
/** How much stiffer a hard length is than anything else in its chain: leaves 1e-7 of a step to the re-laying. */
export const HARD: number = 1e7;
/** Share by which the most that friction holds may be off. */
export const FRICTION_TOLERANCE: number = 0.2;
