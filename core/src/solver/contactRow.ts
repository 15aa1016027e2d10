export { CONTACT_ROW } from '../kernel/chain/fields';

/** Where the numbers of a contact row stand. Places are relative to the root at the moment being stepped to. */
export const CONTACT = {
  /** Link, and the share along it from its root end. */
  link: 0,
  along: 1,
  /** Unit normal away from what is touched; the point must stay where normal · place ≥ offset. */
  normal: 2,
  offset: 5,
  /** Stiffness against the normal, and at most along the surface, in units of the step's matrix. */
  stiffness: 6,
  friction: 7,
  /** Place the point would have if it stuck to what it touches (or is pulled to, for a pull). */
  anchor: 8,
  /**
   * Found by the step: stiffness along the surface, force along the normal (units of the step; begins as it was in the
   * step before), whole force.
   */
  sticking: 11,
  load: 12,
  /** 0: touches from one side. 1: is pulled to the anchor from anywhere. */
  kind: 13,
  force: 14,
  /** Found by the step: whether it slides. */
  slides: 17,
  hardest: 18,
  /** The most that friction holds along the surface, in units of the step: begins as it was in the step before. */
  grip: 19,
} as const;

/** Rows kept for what holds a row of links beside what it touches: a tie and pulls by hand. */
export const HOLDER_ROWS = 8;
/** Contact rows there is room for. */
export const mostContacts = (links: number): number => 4 * links + HOLDER_ROWS;
