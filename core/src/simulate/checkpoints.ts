import type { Frames, StartReport } from '../frames/index';
import { same, sameUntil } from '../model/alike';
import type { Collider, Force } from '../model/index';
import { kindOf, type SourceTrack } from '../parts/index';
import type { Part, Shot } from '../shot/index';
import type { Memory } from './engine';

const partUntil = (a: Part, b: Part): number => (a.kind === b.kind ? kindOf(a).alikeUntil(a, b) : -Infinity);

/** What a run left behind of one group, so that the next one need not begin at the start. */
export interface Kept {
  /** Which parts it has. */
  readonly key: string;
  readonly shot: Shot;
  /** Rows that are written. */
  done: number;
  /** Rising frames of the range (from 0), each with what the group remembered after it was written. */
  readonly states: { readonly f: number; readonly memory: Memory }[];
  start: StartReport;
}

/** A run, whole or stopped. */
export interface LastRun {
  readonly track: SourceTrack;
  readonly asked: Shot;
  readonly frames: Frames;
  readonly groups: readonly Kept[];
}

/** Checkpoints a range has at most, and frames between two at least. */
const MOST_CHECKPOINTS = 12;
const LEAST_SPACING = 8;

/** Frames from one checkpoint to the next. */
export const spacing = (frames: number): number =>
  Math.max(LEAST_SPACING, Math.ceil(frames / MOST_CHECKPOINTS));

const colliderUntil = (a: Collider, b: Collider): number =>
  Math.min(sameUntil(a.keys, b.keys), same(a, b, { keys: 0, name: 0 }));

function forceUntil(a: Force, b: Force): number {
  if (a.kind === 'burst' && b.kind === 'burst')
    return JSON.stringify(a) === JSON.stringify(b) ? Infinity : Math.min(a.frame, b.frame);
  if (a.kind === 'wind' && b.kind === 'wind')
    return Math.min(sameUntil(a.speedKeys, b.speedKeys), same(a, b, { speedKeys: 0, name: 0 }));
  if (a.kind === 'attractor' && b.kind === 'attractor')
    return Math.min(sameUntil(a.strengthKeys, b.strengthKeys), same(a, b, { strengthKeys: 0, name: 0 }));
  return -Infinity;
}

function eachUntil<T>(
  a: Record<string, T>,
  b: Record<string, T>,
  until: (x: T, y: T) => number,
  alone: (x: T) => number,
): number {
  let least = Infinity;
  for (const id of new Set([...Object.keys(a), ...Object.keys(b)])) {
    const [x, y] = [a[id], b[id]];
    least = Math.min(least, x && y ? until(x, y) : alone((x ?? y)!));
  }
  return least;
}

/**
 * The last frame up to which two shots simulate alike: the frames before the first that a key, an anchor pose, a pull
 * or a burst changed; −∞ when something changed that holds for the whole range, Infinity when nothing did.
 */
export function alikeUntil(a: Shot, b: Shot): number {
  if (a === b) return Infinity;
  return Math.min(
    same(a, b, { name: 0, takes: 0, gravityKeys: 0, parts: 0, colliders: 0, forces: 0 }),
    sameUntil(a.gravityKeys, b.gravityKeys),
    eachUntil(a.parts, b.parts, partUntil, () => -Infinity),
    eachUntil(a.colliders, b.colliders, colliderUntil, () => -Infinity),
    eachUntil(a.forces, b.forces, forceUntil, (f) => (f.kind === 'burst' ? f.frame : -Infinity)),
  );
}
