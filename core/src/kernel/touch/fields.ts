import { NO_INTS, NONE } from '../numbers';
import type { Floats, Ints } from '../numbers';

/**
 * One body as the points of a sheet feel it: what {@link findTouches} and the others read and write. Numbers first.
 * Arrays of places have 3 numbers a point or vertex, m. A placement is 7 numbers: place and turn.
 */
export class SheetBody {
  points: number = 0;
  /** Kind of its shape (see `SHAPE`), its sizes, and the radius about its origin that holds all of it, m. */
  kind: number = 0;
  sizeP: number = 0;
  sizeQ: number = 0;
  sizeR: number = 0;
  bound: number = 0;
  /** 1 when it stands where it was first put for good. */
  fixed: number = 0;
  /** Distance that points keep from it, m, and Coulomb μ between them and it. */
  thickness: number = 0;
  friction: number = 0;
  /** s */
  h: number = 0;
  /** 1 in the first step of a frame. */
  fresh: number = 0;
  /** 0 in one frame and 1 in the next: points of even and odd places look all round by turns. */
  turn: number = 0;
  /** The shares of the shot's step at which this one starts and ends. */
  from: number = 0;
  to: number = 1;
  /** How far a body that keeps its shape goes in the step at most, m. */
  moved: number = 0;
  /** Slots in use: one for each point that may touch it. */
  used: number = 0;
  /** What came of the step: deepest inside its thickness (m) and which point, how many press, fastest slide (m/s). */
  depth: number = 0;
  deepest: number = 0;
  pressing: number = 0;
  slip: number = 0;
  /** Of a mesh: how many triangles, vertices and nodes of its tree. */
  triangles: number = 0;
  vertices: number = 0;
  nodes: number = 0;
  /** Shares of the second and third corner at the place found last, and its distance squared, m². */
  second: number = 0;
  third: number = 0;
  squared: number = 0;
  /**
   * How the vertices near the points go in the shot's step on the whole, the farthest one goes beside that, and the
   * farthest any goes, m. Those that are far from all points do not come near them in a step.
   */
  wayX: number = 0;
  wayY: number = 0;
  wayZ: number = 0;
  bending: number = 0;
  farthest: number = 0;
  /** Farthest a vertex near the points may be from where the boxes were fitted, m. */
  drift: number = 0;
  /** Steps since the last in which points look all round. */
  since: number = 0;

  /** Places of the points now and at the start of the step, and inverse masses; see `ClothStep`. */
  x: Floats = NONE;
  old: Floats = NONE;
  w: Floats = NONE;
  touched: Floats = NONE;
  /** How much farther inside than its thickness each may be, m, and the way out of what it began in. */
  allowed: Floats = NONE;
  outward: Floats = NONE;
  /** How far each goes in the step, and how far it has gone since the last, m; where it was then. */
  own: Floats = NONE;
  gone: Floats = NONE;
  seen: Floats = NONE;
  /** How far each is from this body at least, m: one that is far need not be measured. */
  clear: Floats = NONE;
  /** Of each slot: its point, its distance when found, push, friction (3 numbers), slide, and the way given, m. */
  slot: Ints = NO_INTS;
  far: Floats = NONE;
  push: Floats = NONE;
  rub: Floats = NONE;
  slide: Floats = NONE;
  given: Floats = NONE;
  /** Speeds of the points, m/s, and their animation at both ends of the shot's step, m; see `ClothStep`. */
  v: Floats = NONE;
  skinFrom: Floats = NONE;
  skinTo: Floats = NONE;
  /** What the body gets back in the step, 13 numbers: see {@link reactTouches}. */
  back: Floats = NONE;
  /** Where it stands at both ends of the step, and at both ends of the shot's. */
  before: Floats = NONE;
  now: Floats = NONE;
  wholeBefore: Floats = NONE;
  wholeNow: Floats = NONE;
  /** The unit normal out of it at the place found last, and how far the step carries that place, m. */
  normal: Floats = NONE;
  carried: Floats = NONE;
  /** Room for a few numbers. */
  local: Floats = NONE;
  was: Floats = NONE;
  face: Floats = NONE;
  segment: Floats = NONE;
  nearest: Floats = NONE;
  matrix: Floats = NONE;

  /** Of a mesh: its vertices in its own space at both ends of the shot's step. */
  earlier: Floats = NONE;
  later: Floats = NONE;
  /** In the world at both ends of the shot's step, and room for them at two times between. */
  first: Floats = NONE;
  last: Floats = NONE;
  between: Floats = NONE;
  other: Floats = NONE;
  /** Those of the four that are its vertices at both ends of this step. */
  start: Floats = NONE;
  end: Floats = NONE;
  /** Sums of the normals of the triangles about each vertex, by area, at the start of the frame. */
  normals: Floats = NONE;
  /** Vertices of its triangles, 3 each; the triangle behind each side, itself where there is none. */
  corners: Ints = NO_INTS;
  beside: Ints = NO_INTS;
  /** Triangles about each vertex: where its list begins, and all lists. */
  about: Ints = NO_INTS;
  aboutFrom: Ints = NO_INTS;
  /** Its tree of boxes: see `Tree`. */
  order: Ints = NO_INTS;
  firsts: Ints = NO_INTS;
  counts: Ints = NO_INTS;
  box: Floats = NONE;
  /** Nodes that are still to be looked at, and the square of how far each is, m². */
  stack: Ints = NO_INTS;
  away: Floats = NONE;
  /** The triangle of each point (−1 when it has none), and where the point was last asked about. */
  at: Floats = NONE;
  asked: Floats = NONE;
  /** Lowest and highest corner of the box about the points in which vertices are near. */
  region: Floats = NONE;
}
