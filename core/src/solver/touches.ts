import { readContactRows, SIDE_ROW, STICK, TouchStep, writeContactRows } from '../kernel/touches';
import { numberAt, type Arena } from './arena';
import { HOLDER_ROWS, mostContacts } from './contactRow';
import type { SteppedPoints } from './points';
import type { Search } from './search';

/** Turns what was found near a chain into its contact rows, and reads what came of them. */
export interface Touches {
  /** Beside each contact row: see {@link SIDE}. */
  readonly side: Float64Array;
  /** What came of the last step: see {@link CAME}. */
  readonly came: Float64Array;
  /** How deep a link stands inside each body, m. */
  readonly depths: Float64Array;
  /**
   * Writes a contact row for each row found, for a step of h seconds of an order; `rough` is the friction of each link.
   */
  write(rows: number, order: 1 | 2, h: number, rough: Float64Array, slippery: boolean): void;
  /** Reads the rows after the step: who presses, with what load. */
  read(): void;
}

export { SIDE_ROW, STICK };
/** Body, speed of the hit (m/s, written by the caller), how deep the half space lies (m), place on the surface (m). */
export const SIDE = { body: 0, hit: 1, sunk: 2, place: 3 } as const;
/**
 * Rows that press, where it presses hardest (links from the root) and how hard (units of the step), deepest (m),
 * fastest along a surface (m/s).
 */
export const CAME = { touching: 0, at: 1, load: 2, depth: 3, slip: 4 } as const;

const AT = new TouchStep();
const USED = numberAt(AT, 'used');
const ORDER = numberAt(AT, 'order');
const STEP = numberAt(AT, 'h');
const HARD = numberAt(AT, 'hard');
const SLIPPERY = numberAt(AT, 'slippery');

/** Compiled when there is an arena, to the same bits. */
export function makeTouches(
  points: SteppedPoints,
  search: Search,
  bodies: number,
  length: number,
  arena: Arena | null,
): Touches {
  const { links, x, source, contact } = points;
  const { found, table, pressed, loads } = search;
  const make = (size: number) => (arena ? arena.alloc(size) : new Float64Array(size));
  const side = make(SIDE_ROW * (mostContacts(links) - HOLDER_ROWS));
  const rough = make(links);
  const depths = make(bodies);
  const came = make(5);
  const fields = Object.assign(new TouchStep(), {
    ...{ bodies, length, x, source, contact, found, table, pressed, loads, side, rough, depths, came },
    point: make(3),
  });
  const placed = arena?.place(fields);
  let known: Float64Array | null = null;

  return {
    side,
    came,
    depths,
    write: (used, order, h, friction, slides) => {
      if (friction !== known) rough.set((known = friction));
      const hard = points.hardness();
      const slippery = slides ? 1 : 0;
      if (!placed) return writeContactRows(Object.assign(fields, { used, order, h, hard, slippery }));
      const { numbers } = placed;
      numbers[USED] = used;
      numbers[ORDER] = order;
      numbers[STEP] = h;
      numbers[HARD] = hard;
      numbers[SLIPPERY] = slippery;
      arena!.writeRows(placed.at);
    },
    read: () => (placed ? arena!.readRows(placed.at) : readContactRows(fields)),
  };
}
