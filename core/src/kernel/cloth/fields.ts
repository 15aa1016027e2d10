import { NONE } from '../numbers';
import type { Floats } from '../numbers';

/** What the step of a sheet reads and writes: numbers first. Arrays of places have 3 numbers a point. */
export class ClothStep {
  points: number = 0;
  paths: number = 0;
  triangles: number = 0;
  /** s */
  h: number = 0;
  /** 1 in the first step after it was put somewhere, which is first order. */
  first: number = 0;
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
  /** The animation at the start and the end of the step, m. */
  before: Floats = NONE;
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
  /** Of each path where its edges begin, where its points begin, how many edges, and 1 when it is closed. */
  path: Floats = NONE;
  /** Points of all paths, one path after the other. */
  pointAt: Floats = NONE;
  /** Of all their edges: length (m), and how much they give when longer and when shorter (m/N). */
  length: Floats = NONE;
  gives: Floats = NONE;
  giving: Floats = NONE;
  /** Of the points of all paths: weights of the points before and after in the second difference, and stiffness. */
  bends: Floats = NONE;
  /** Rest curvature along the normal and across it; what the second difference aims at now, 3 numbers. */
  curve: Floats = NONE;
  aims: Floats = NONE;
  /** Factors of each path's pentadiagonal matrix: two below the diagonal, and one over it. */
  factors: Floats = NONE;
  /** Points of the triangles, 3 each; unit normals of the points. */
  triangle: Floats = NONE;
  normal: Floats = NONE;
  /** Wind at each point, m/s. */
  wind: Floats = NONE;
  /** Room for the longest path: 7 numbers an edge or point. */
  rows: Floats = NONE;
}
