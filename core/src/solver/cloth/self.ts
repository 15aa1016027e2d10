import type { ClothStep } from '../../kernel/cloth/fields';
import { findSelf, partSelf } from '../../kernel/cloth/self';
import { SelfStep } from '../../kernel/cloth/selfFields';
import { numberAt, type Arena } from '../arena';
import type { Sheet } from '../../sheets/index';
import type { Make } from './setup';

/** A sheet's points as balls: two of its layers keep apart. */
export interface SelfContacts {
  /** Finds the pairs that may touch: anew when `fresh`, or when points have moved too far since. */
  find(fresh: boolean): void;
  /** `friction` is Coulomb μ. */
  solve(friction: number): void;
}

/** Diameter of the balls, as a share of the mean edge: smaller ones let layers through between them. */
const ACROSS = 0.9;
/** Points nearer than this many mean edges at rest are of one layer. */
const BESIDE = 1.6;
/** How much farther than their diameter pairs are looked for. */
const LOOK = 1.8;
/** Layers that are in each other come apart at this many m/s: faster ones explode. */
const APART_SPEED = 0.2;
/** Pairs that there is room for, a point. */
const ROOM = 32;

/** How far its layers keep apart, and how near at rest points are of one layer; in the unit of its rest. */
export function layerSize({ length }: Pick<Sheet, 'length'>): { across: number; beside: number } {
  const edge = length.reduce((a, b) => a + b, 0) / Math.max(1, length.length);
  return { across: ACROSS * edge, beside: BESIDE * edge };
}

const slotsFor = (points: number): number => 2 ** Math.max(0, Math.ceil(Math.log2(2 * points)));

/** Numbers that the contact of a sheet with itself takes of an arena at most. */
export const selfNumbers = (points: number): number =>
  (6 + ROOM + 2) * points + slotsFor(points) / 2 + points / 2 + 60;

/**
 * Contact of a sheet with itself: the work is core/src/kernel/cloth/self. `touched` says of each point when it pressed
 * on something, as for bodies.
 */
export function makeSelfContacts(
  sheet: Sheet,
  { x, old, w, touched, h }: Pick<ClothStep, 'x' | 'old' | 'w' | 'touched' | 'h'>,
  make: Make,
  arena: Arena | null,
): SelfContacts {
  const { points, rest } = sheet;
  const { across, beside } = layerSize(sheet);
  const slots = slotsFor(points);
  const fields = Object.assign(new SelfStep(), {
    ...{ points, across, reach: LOOK * across, margin: ((LOOK - 1) / 2) * across, beside },
    ...{ apart: APART_SPEED * h, room: ROOM * points, mask: slots - 1 },
    ...{ x, old, w, touched, rest: make.numbers(3 * points), seen: make.numbers(3 * points) },
    ...{ pairs: make.ints(2 * ROOM * points), cell: make.ints(3 * points) },
    ...{ from: make.ints(slots + 1), order: make.ints(points) },
  });
  fields.rest.set(rest);
  const placed = arena?.place(fields);
  const put = (name: 'fresh' | 'friction', value: number) => {
    if (placed) placed.numbers[numberAt(fields, name)] = value;
    else fields[name] = value;
  };
  return {
    find: (fresh) => {
      put('fresh', Number(fresh));
      if (placed) arena!.cloth.findSelf(placed.at);
      else findSelf(fields);
    },
    solve: (friction) => {
      put('friction', friction);
      if (placed) arena!.cloth.partSelf(placed.at);
      else partSelf(fields);
    },
  };
}
