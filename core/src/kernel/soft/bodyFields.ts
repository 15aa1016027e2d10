import { NO_INTS, NONE } from '../numbers';
import type { Floats, Ints } from '../numbers';

/**
 * What a step of a soft body reads and writes: a lattice of cubic cells. Node arrays hold 3 numbers each unless said;
 * lengths are m, masses kg, moduli Pa.
 */
export class BodyStep {
  cells: number = 0;
  nodes: number = 0;
  /** Edge of a cell at rest. */
  size: number = 0;
  /** Young's modulus and Poisson's ratio, and Lamé's two. */
  young: number = 0;
  poisson: number = 0;
  mu: number = 0;
  lambda: number = 0;
  /** s: damping by stiffness. */
  beta: number = 0;
  /** 1/s² and 1/s: what inertia and speed are times a place, in this step. */
  inert: number = 0;
  speed: number = 0;
  /** Rounds of Newton and of conjugate gradients at most, and at least in the first; what may be left. */
  newton: number = 0;
  most: number = 0;
  least: number = 0;
  enough: number = 0;
  /** Touches in use, and how thick the layer is in which they press, m. */
  touches: number = 0;
  layer: number = 1;
  /** Rounds of conjugate gradients that were taken. */
  rounds: number = 0;
  /** 8 nodes a cell: x, then y, then z counts up. */
  corners: Ints = NO_INTS;
  /** A number a cell: its filled share, its modulus as a multiple, the length its edges want times the rest's, 1/s. */
  fill: Floats = NONE;
  stiff: Floats = NONE;
  grow: Floats = NONE;
  growing: Floats = NONE;
  /** Its turn, 4 numbers (w x y z) and 9 (row after row); cofactor of its gradient; J, and what λ is times it. */
  quat: Floats = NONE;
  turn: Floats = NONE;
  cofactor: Floats = NONE;
  ratio: Floats = NONE;
  bulk: Floats = NONE;
  /** A number a node: mass, 1 where it is free, hold to the animation (1/s²). */
  mass: Floats = NONE;
  free: Floats = NONE;
  hold: Floats = NONE;
  /** Its own part of the diagonal, the inverse of all of it, and what touches add to it. */
  own: Floats = NONE;
  diagonal: Floats = NONE;
  pressing: Floats = NONE;
  /** Places, where inertia alone would take them, the animation's, and the part of the speed that x does not make. */
  x: Floats = NONE;
  goal: Floats = NONE;
  shown: Floats = NONE;
  drift: Floats = NONE;
  /** Forces, those of damping, and room for the solve. */
  f: Floats = NONE;
  damped: Floats = NONE;
  dx: Floats = NONE;
  r: Floats = NONE;
  p: Floats = NONE;
  q: Floats = NONE;
  /**
   * Of each touch: 8 nodes and how much of each the place is; the plane it may not pass (normal and distance); its
   * stiffness (N/m), Coulomb's μ, the place that friction holds it to, and whether it has one.
   */
  rowNode: Ints = NO_INTS;
  rowShare: Floats = NONE;
  plane: Floats = NONE;
  stiffness: Floats = NONE;
  rub: Floats = NONE;
  anchor: Floats = NONE;
  held: Floats = NONE;
  /** What comes of it: load (N), stiffness now (N/m), whether it sticks, and the force on the body (3 numbers). */
  loads: Floats = NONE;
  hard: Floats = NONE;
  sticks: Floats = NONE;
  pushes: Floats = NONE;
  place: Floats = NONE;
  /** Room for two cells of 8 modes, and for one: gradient, and hourglass modes and their stresses, 3 numbers each. */
  modes: Floats = NONE;
  gradient: Floats = NONE;
  bent: Floats = NONE;
  stress: Floats = NONE;
}
