import { NO_INTS, NONE } from '../numbers';
import type { Floats, Ints } from '../numbers';

/** What the step of a sheet reads and writes: numbers first. Arrays of places have 3 numbers a point. */
export class ClothStep {
  points: number = 0;
  groups: number = 0;
  rims: number = 0;
  triangles: number = 0;
  /** Edges without triangles, and points of closed rows of them. */
  threads: number = 0;
  knots: number = 0;
  /** s */
  h: number = 0;
  /** 1 in the first step after it was put somewhere, which is first order. */
  first: number = 0;
  /** The shares of the shot's step at which this one starts and ends. */
  from: number = 0;
  to: number = 1;
  /** m/s² */
  gx: number = 0;
  gy: number = 0;
  gz: number = 0;
  /** kg/m³, and the coefficients of drag and lift. */
  density: number = 0;
  drag: number = 0;
  lift: number = 0;
  /** Places now, at the start of the step and one step before, m; speeds at the last two, m/s. */
  x: Floats = NONE;
  old: Floats = NONE;
  older: Floats = NONE;
  v: Floats = NONE;
  vOld: Floats = NONE;
  /** Acceleration by air and attractors, m/s². */
  push: Floats = NONE;
  /** Inverse masses, 1/kg; 0 for what is held. */
  w: Floats = NONE;
  /** The animation at both ends of the shot's step, and at the end of this one, m. */
  skinFrom: Floats = NONE;
  skinTo: Floats = NONE;
  now: Floats = NONE;
  /** Pull to it (1/s²), damping against it (1/s) and farthest from it (m); one a point. */
  pull: Floats = NONE;
  damp: Floats = NONE;
  leash: Floats = NONE;
  /** Farthest inward of it, m, against its unit normals (3 numbers). */
  inner: Floats = NONE;
  outward: Floats = NONE;
  /** Whether a point touched something: 4 in this step, 2 in the last, 1 in the one before. */
  touched: Floats = NONE;
  /** How far each goes in the step, and how far it has gone since the last, m; where it was then. */
  own: Floats = NONE;
  gone: Floats = NONE;
  seen: Floats = NONE;
  /**
   * Open paths go in groups of four that share no point, as many slots as the longest has points. What stands by slot
   * has a number for each of the four: of quantity q of path l in slot s at 4 (n s + q) + l, with n quantities.
   * Of each group its first slot and the edges of its longest path; of each of its paths how many edges (0 for none).
   */
  group: Ints = NO_INTS;
  lanes: Ints = NO_INTS;
  /** Of each closed path where its edges and points begin, behind those of the groups, and how many. */
  rim: Ints = NO_INTS;
  /** By slot, then by edge of the closed paths: the point, `points` for none. */
  pointAt: Ints = NO_INTS;
  /** By slot the edge to the next: length (m), and how much it gives when longer and when shorter (m/N). */
  length: Floats = NONE;
  gives: Floats = NONE;
  giving: Floats = NONE;
  /** By slot, where there are edges without triangles: how hard the edge pulled its ends in the step, kg m, below 0. */
  pulls: Floats = NONE;
  /** By slot: weights of the points before and after in the second difference, and stiffness. */
  bends: Floats = NONE;
  /** By slot: rest curvature along the normal and across it; what the second difference aims at now, 3 numbers. */
  curve: Floats = NONE;
  aims: Floats = NONE;
  /** By slot: factors of each path's pentadiagonal matrix, two below the diagonal and one over it. */
  factors: Floats = NONE;
  /** Points of the triangles, 3 each; unit normals of the points. */
  triangle: Ints = NO_INTS;
  normal: Floats = NONE;
  /** Ends of the edges without triangles, 2 each, and how large each is as a strip, m². */
  thread: Ints = NO_INTS;
  strip: Floats = NONE;
  /** Points of closed rows of such edges with the one before and after, 3 each, and B / l³ of each, N/m. */
  knot: Ints = NO_INTS;
  straight: Floats = NONE;
  /** Wind at each point, and the wind past it as it moves, m/s. */
  wind: Floats = NONE;
  past: Floats = NONE;
  /** Room for the longest path: 20 numbers a slot, 7 an edge of a closed one. */
  rows: Floats = NONE;
}
