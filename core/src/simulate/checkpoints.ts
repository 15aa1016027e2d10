import { packRows, unpackRows, type Frames, type StartReport } from '../frames/index';
import { same, sameUntil } from '../model/alike';
import type { Collider, Force } from '../model/index';
import { kindOf, type SourceTrack } from '../parts/index';
import type { Part, Shot } from '../shot/index';
import type { Memory } from './engine';
import { columnsOf, type Group } from './groups';

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

/** Of a run that has not begun. */
export const NO_START: StartReport = { settled: null, loop: null };

/** Groups of the same parts (and free colliders) have the same key. */
export const keyOf = (group: Group, track: SourceTrack): string =>
  JSON.stringify([group.free, ...group.parts.map((i) => track.parts[i]!.layout.part.id)]);

/** What of an earlier run of a group holds for this one: everything, or the states up to a moment. */
export function resumable(
  kept: Kept | undefined,
  group: Group,
  track: SourceTrack,
): { whole: boolean; states: Kept['states']; start: StartReport } {
  if (!kept) return { whole: false, states: [], start: NO_START };
  const until = alikeUntil(kept.shot, group.shot);
  const whole = until === Infinity && kept.done === track.frames;
  // A delayed row looks ahead by the two rows its cubic needs.
  const alike = (s: { f: number }) => whole || s.f <= until - 2 - track.first;
  return { whole, start: kept.start, states: kept.states.filter(alike) };
}

/** Takes the first rows of a group from frames of an earlier run. */
export function copyGroup(frames: Frames, shot: Shot, group: Group, old: LastRun, rows: number): void {
  const { colliders } = columnsOf(old.asked, [group], false);
  // Parts before them may have come or gone.
  const parts = group.parts.map((i) =>
    old.frames.parts.findIndex((p) => p.partId === frames.parts[i]!.partId),
  );
  const packed = packRows(old.frames, { parts, colliders }, 0, rows);
  unpackRows(frames, { ...packed, columns: columnsOf(shot, [group], false) });
  // Colliders that do not concern the group may have come or gone, so theirs are numbered anew.
  const number = [0, ...old.frames.colliders.map((id) => 1 + frames.colliders.indexOf(id))];
  group.parts.forEach((i, k) => {
    frames.startsIn[i] = old.frames.startsIn[parts[k]!]!;
    for (let cell = i; cell < rows * frames.parts.length; cell += frames.parts.length)
      frames.deepIn[cell] = number[frames.deepIn[cell]!]!;
  });
}
