import { NONE } from '../numbers';
import type { Floats, Index } from '../numbers';

/**
 * What the search of a row of links for what they may touch reads and writes; see `makeSearch`. Numbers first. "Pair"
 * is link · bodies + body.
 */
export class SearchStep {
  links: number = 0;
  bodies: number = 0;
  /** Rows of `found` there is room for. */
  room: number = 0;
  /** Length of the step, s, and of all links, m. */
  h: number = 0;
  length: number = 0;
  /** Rows of `found` written. */
  used: number = 0;
  /** See `OUT`. */
  hurry: number = 0;
  parts: number = 0;
  order: number = 0;
  /** A box round all points, and the thickest link. */
  loX: number = 0;
  loY: number = 0;
  loZ: number = 0;
  hiX: number = 0;
  hiY: number = 0;
  hiZ: number = 0;
  thickest: number = 0;
  /** Farthest a point may go in the step. */
  reach: number = 0;
  /** Of the body at hand: whether distances to it last, how far it may come nearer by itself, m. */
  lasting: number = 0;
  turned: number = 0;
  /** Least distance found to it, and how deep the root stands inside it (NaN: not known yet). */
  least: number = 0;
  rooted: number = 0;
  /** The link that begins where the one last placed ends. */
  carried: number = 0;
  /** Of the pair at hand: how far link and body have gone, farthest way of an end in the step, its thickness. */
  moved: number = 0;
  heads: number = 0;
  thickness: number = 0;
  /** Its distance at the start, the least on its way and at which share; 1 or 0: whether it hits, and goes away. */
  gap: number = 0;
  closest: number = 0;
  first: number = 0;
  hits: number = 0;
  leaves: number = 0;

  x: Floats = NONE;
  v: Floats = NONE;
  fall: Floats = NONE;
  source: Floats = NONE;
  thick: Floats = NONE;
  /** Rows of {@link BODY_ROW} numbers. */
  table: Floats = NONE;
  /** By pair: whether it pressed in the step before, 1, or 2 in its first step. */
  pressed: Floats = NONE;
  /** Bodies that were near. */
  minded: Floats = NONE;
  /** Where the points go. */
  ahead: Floats = NONE;
  /**
   * Least distance of each pair as last measured, and how far link and body had gone by then (`drift`, last for the
   * whole row, and `gone`): it has come nearer at most by what they went since. `nearby` is the least of them for each
   * body.
   */
  clear: Floats = NONE;
  nearby: Floats = NONE;
  gone: Floats = NONE;
  drift: Floats = NONE;
  /** How far each point goes, m. */
  way: Floats = NONE;
  /** Where the points and the bodies were when last looked at. */
  seen: Floats = NONE;
  stood: Floats = NONE;
  /** Nearest place last measured, and the nearest so far: share, distance, normal. */
  near: Floats = NONE;
  best: Floats = NONE;
  /** Two ends of a link in the body's space: being measured, at the start of the step, at its end. */
  segment: Floats = NONE;
  start: Floats = NONE;
  end: Floats = NONE;
  /** Rows of {@link FOUND_ROW} numbers. */
  found: Floats = NONE;
  out: Floats = NONE;
}

/** Numbers of a row of found pairs: see `FOUND` of solver/search.ts. */
export const FOUND_ROW: Index = 22;
/**
 * Numbers of a row of the table of bodies: kind, three sizes, bound (−1: none), whether it gives way, where it was and
 * is (7 each), whether it stands for good, friction.
 */
export const BODY_ROW: Index = 22;
/** Share of the first link, from the root, that touches nothing. */
export const ROOT_PART: number = 0.3;
/** Longest step (s) while something that can give way is struck: what first order loses of momentum falls with it. */
export const STRIKE_STEP: number = 1 / 3840;
/** Share of the row's length by which a measured distance may be off (a box's is looked for). */
export const SURE: number = 1e-4;
