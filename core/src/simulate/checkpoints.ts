import type { Collider, Force } from '../model/index';
import type { ChainPart } from '../parts/chain/shared';
import type { Shot } from '../shot/index';
import type { Frames, StartReport } from './frames';
import type { SourceTrack } from './track';
import type { Memory } from './world';

/** What a run left behind of one group, so that the next one need not begin at the start. */
export interface Kept {
  /** Which chains it has. */
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

interface Key {
  readonly frame: number;
}

/** The last frame up to which two lists of keys give the same curve; −∞ when the curves differ from the start. */
export function sameUntil(a: readonly Key[], b: readonly Key[]): number {
  const sort = (keys: readonly Key[]) => [...keys].sort((p, q) => p.frame - q.frame);
  const [s, t] = [sort(a), sort(b)];
  const text = (k: Key | undefined) => JSON.stringify(k);
  let i = 0;
  while (i < Math.max(s.length, t.length) && text(s[i]) === text(t[i])) i++;
  if (i === Math.max(s.length, t.length)) return Infinity;
  // A smooth span depends on the keys before and after it.
  return i === 0 ? -Infinity : s[Math.max(0, i - 2)]!.frame;
}

/** Earliest frame of things that are in one list only or differ. */
function firstOf<T>(a: readonly T[], b: readonly T[], begins: (x: T) => number): number {
  const all = new Map<string, { x: T; n: number }>();
  for (const [list, n] of [
    [a, 1],
    [b, -1],
  ] as const)
    for (const x of list) {
      const key = JSON.stringify(x);
      all.set(key, { x, n: (all.get(key)?.n ?? 0) + n });
    }
  return Math.min(Infinity, ...[...all.values()].filter((v) => v.n !== 0).map((v) => begins(v.x)));
}

const partUntil = (a: ChainPart, b: ChainPart): number =>
  Math.min(
    ...[...new Set([...Object.keys(a.keys), ...Object.keys(b.keys)])].map((k) =>
      sameUntil(a.keys[k as 'hold'] ?? [], b.keys[k as 'hold'] ?? []),
    ),
    firstOf(a.anchors, b.anchors, (x) => x.frame - x.easeIn),
    firstOf(a.pulls, b.pulls, (x) => x.first),
    same(a, b, { keys: 0, anchors: 0, pulls: 0, name: 0 }),
  );

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

/** Infinity when two things are the same but for some of their fields, else −Infinity. */
const same = <T extends object>(a: T, b: T, but: Partial<Record<keyof T | string, 0>>): number =>
  JSON.stringify({ ...a, ...but }) === JSON.stringify({ ...b, ...but }) ? Infinity : -Infinity;

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
