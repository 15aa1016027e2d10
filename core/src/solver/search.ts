import { askMeshes } from '../kernel/host';
import { BODY_ROW, FOUND_ROW, SearchStep, STRIKE_STEP } from '../kernel/search/fields';
import { searchLinks } from '../kernel/search/search';
import { numberAt, type Arena } from './arena';
import type { Body } from './bodies';
import { HOLDER_ROWS, mostContacts } from './contactRow';
import type { LinkedPoints } from './points';
import { nearestOnSegment, SHAPE, sizesOf } from './shapes';

export { FOUND_ROW, STRIKE_STEP };

/** Looks for what a chain may touch in the step to come. */
export interface Search {
  /**
   * Looks through a step of h seconds: the bodies stand where they go, the root is on its source. Returns how many rows
   * of `found` it wrote.
   */
  run(thickness: Float64Array, h: number): number;
  /** Rows of {@link FOUND_ROW} numbers: pairs of a link and a body that may touch. */
  readonly found: Float64Array;
  /** Rows of {@link BODY_ROW} numbers, one for each body. */
  readonly table: Float64Array;
  /** Whether a link pressed on a body in the step before, by link · bodies + body: 1, or 2 in its first step. */
  readonly pressed: Float64Array;
  /** Load of each pair in the step before, N: friction starts from it. */
  readonly loads: Float64Array;
  /** `pressed`, then `loads`, as one array. */
  readonly touched: Float64Array;
  /** Bodies that were near in the step before. */
  readonly minded: Float64Array;
  /** See {@link OUT}. */
  readonly out: Float64Array;
}

export const FOUND = {
  link: 0,
  body: 1,
  /** Share along the (outer part of the) link, signed distance, and normal in the body's space: see `nearestTo`. */
  near: 2,
  /** Signed distance between surfaces at the start of the step. */
  gap: 7,
  /** Share of the step after which they touch or come nearest. */
  first: 8,
  /** The link's two ends in the body's space before the step, and where it heads. */
  start: 9,
  end: 15,
  /** How thick the link is here, less what it may stand inside. */
  thickness: 21,
} as const;

/**
 * Numbers of {@link Search.out}: fastest way of a link past a body as a share of its length; parts a blow asks for;
 * whether a step of first order is due (1) or not (2).
 */
export const OUT = { hurry: 0, least: 1, order: 2 } as const;

const STEP = numberAt(new SearchStep(), 'h');

/** Numbers of an arena that the search of a chain among so many bodies takes, with its rows (touches.ts). */
export const searchNumbers = (links: number, bodies: number): number =>
  bodies === 0
    ? 0
    : 3 * links * bodies +
      (BODY_ROW + 10) * bodies +
      links +
      8 * (links + 1) +
      (FOUND_ROW + 6) * mostContacts(links) +
      links +
      bodies +
      200;

/** The fields of a search: kinds, sizes and friction of the bodies are written, places are not. */
function makeFields(
  points: LinkedPoints,
  list: readonly Body[],
  length: number,
  make: (size: number) => Float64Array,
) {
  const { links, x, v, fall, source } = points;
  const bodies = list.length;
  const room = mostContacts(links) - HOLDER_ROWS;
  const table = make(BODY_ROW * bodies);
  const touched = make(2 * links * bodies);
  const fields = Object.assign(new SearchStep(), {
    ...{ links, bodies, room, length, x, v, fall, source, table },
    ...{ pressed: touched.subarray(0, links * bodies), minded: make(bodies), thick: make(links) },
    ...{ ahead: make(3 * (links + 1)), seen: make(3 * (links + 1)), stood: make(7 * bodies) },
    ...{ drift: make(links + 1), way: make(links + 1), gone: make(bodies) },
    clear: make(links * bodies).fill(-Infinity),
    nearby: make(bodies).fill(-Infinity),
    ...{ near: make(5), best: make(5), segment: make(6), start: make(6), end: make(6) },
    ...{ found: make(FOUND_ROW * room), out: make(3) },
  });
  list.forEach(({ shape, free, link, friction }, b) => {
    table.set([SHAPE[shape.kind], ...sizesOf(shape), 0, free || link ? 1 : 0], BODY_ROW * b);
    table[BODY_ROW * b + 21] = friction;
  });
  return { fields, touched, loads: touched.subarray(links * bodies) };
}

/**
 * The search of a chain's links, as capsules of their thickness, among bodies: compiled when there is an arena, to the
 * same bits.
 *
 * For each link and body near enough the link's way through the step is followed in the body's own space (where the
 * body stands still) by conservative advancement; the normal at the first touch, or where they come nearest when they
 * do not, is what the half space is made from that the link must not leave. So nothing passes through, whatever the
 * speed. Source: conservative advancement (Mirtich 1996), for convex shapes with the motion along the normal only.
 */
export function makeSearch(
  points: LinkedPoints,
  list: readonly Body[],
  length: number,
  arena: Arena | null,
): Search {
  const make = (size: number) => (arena ? arena.alloc(size) : new Float64Array(size));
  const { fields, touched, loads } = makeFields(points, list, length, make);
  const { thick, table, pressed, minded, near, segment, found, out } = fields;
  const placed = arena?.place(fields);
  let known: Float64Array | null = null;
  let stands = false;
  const all = list.map((_, b) => b);
  const moving = all.filter((b) => !list[b]!.fixed);
  const nearestMesh = (b: number): void => nearestOnSegment(near, list[b]!.shape, segment);

  /** Where the bodies that may have moved stand. */
  function readBodies(): void {
    for (const b of stands ? moving : all) {
      const { bound, places, fixed } = list[b]!;
      const r = b * BODY_ROW;
      table[r + 4] = bound < Infinity ? bound : -1;
      table[r + 20] = fixed ? 1 : 0;
      table.set(places, r + 6);
    }
    stands = true;
  }

  return {
    found,
    table,
    pressed,
    loads,
    touched,
    minded,
    out,
    run: (thickness, h) => {
      if (thickness !== known) thick.set((known = thickness));
      readBodies();
      fields.h = h;
      if (placed) {
        placed.numbers[STEP] = h;
        return arena!.search(placed.at, nearestMesh);
      }
      askMeshes(nearestMesh);
      return searchLinks(fields);
    },
  };
}
