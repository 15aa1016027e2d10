import type { Columns } from '../frames/index';
import { inOrder, minds, type Collider } from '../model/index';
import { kindOf, type SourceTrack } from '../parts/index';
import type { Part, Shot } from '../shot/index';
import { stepsAFrame } from './steps';

/**
 * Parts of a shot that may feel one another, through what they hang from, touch, or strike freely: what they do
 * depends on nothing outside, so groups can be simulated apart, and one that an edit does not concern keeps its frames.
 */
export interface Group {
  /** Indices of its parts in the track, rising. */
  readonly parts: readonly number[];
  /** Whether the colliders that move freely belong to it: they may strike each other, so they stay together. */
  readonly free: boolean;
  /** The part of the shot it depends on, with the substeps it is stepped by. */
  readonly shot: Shot;
}

/** Whether two parts touch each other. */
export const touch = (a: Part, b: Part): boolean =>
  minds(kindOf(a).collidesWith(a).parts, b.id) || minds(kindOf(b).collidesWith(b).parts, a.id);

/** Whether one of two parts is tied to the other, or grows on a mesh whose vertices the other moves. */
const tied = (a: Part, b: Part): boolean =>
  kindOf(a).tied(a).includes(b.id) || kindOf(b).tied(b).includes(a.id) || growsOn(a, b) || growsOn(b, a);

function growsOn(a: Part, b: Part): boolean {
  if (!kindOf(a).fine || kindOf(b).fine || !('mesh' in a) || !('mesh' in b)) return false;
  return a.mesh.node === b.mesh.node || ('also' in b && b.also.some((m) => m.node === a.mesh.node));
}

/** Whether what a collider does may change what a part does. */
export const concerns = (c: Collider, part: Part): boolean => !c.muted && kindOf(part).concerns(part, c);

/**
 * The groups of a shot, in the order of their first parts; free colliders that nothing minds are a group of no part.
 */
export function groupsOf(shot: Shot, track: SourceTrack): Group[] {
  const parts = track.parts.map((c) => shot.parts[c.layout.part.id]!);
  const free = inOrder(shot.colliders).filter((c) => c.free && !c.muted);
  const sorts = parts.map((_, i) => i);
  const join = (a: number, b: number) => {
    const [from, to] = [Math.max(sorts[a]!, sorts[b]!), Math.min(sorts[a]!, sorts[b]!)];
    sorts.forEach((s, i) => s === from && (sorts[i] = to));
  };
  const striking = parts.flatMap((p, i) => (free.some((c) => concerns(c, p)) ? [i] : []));
  for (const i of striking) join(i, striking[0]!);
  track.parts.forEach((c, i) => {
    for (const { part } of [c.hanging, ...c.bearers.flatMap((b) => b.links)]) if (part >= 0) join(i, part);
    for (let j = 0; j < i; j++) if (touch(parts[i]!, parts[j]!) || tied(parts[i]!, parts[j]!)) join(i, j);
  });
  const substeps = stepsAFrame(shot.fps, shot.substeps, free.length > 0);
  const group = (members: readonly number[], strikes: boolean): Group => ({
    parts: members,
    free: strikes,
    shot: concerning(
      { ...shot, substeps },
      members.map((i) => parts[i]!),
      strikes,
    ),
  });
  const groups = [...new Set(sorts)].map((s) => {
    const members = sorts.flatMap((t, i) => (t === s ? [i] : []));
    return group(members, striking.length > 0 && members.includes(striking[0]!));
  });
  return free.length > 0 && striking.length === 0 ? [group([], true), ...groups] : groups;
}

/** What of a shot concerns some of its parts, and all colliders when they move freely among them. */
function concerning(shot: Shot, parts: readonly Part[], free: boolean): Shot {
  const only = <T>(all: Record<string, T>, is: (x: T) => boolean): Record<string, T> =>
    Object.fromEntries(Object.entries(all).filter(([, x]) => is(x)));
  return {
    ...shot,
    parts: Object.fromEntries(parts.map((p) => [p.id, p])),
    colliders: only(shot.colliders, (c) => !c.muted && (free || parts.some((p) => concerns(c, p)))),
    forces: only(shot.forces, (f) => !f.muted && parts.some((p) => minds(f.parts, p.id))),
  };
}

/** One worker's share of a simulation: number `index` of `of`. */
export interface Share {
  readonly index: number;
  readonly of: number;
}

/** The groups of a share: the largest go first, each to the share with the least links yet. */
export function groupsInShare(groups: readonly Group[], track: SourceTrack, { index, of }: Share): Group[] {
  const links = (g: Group) => g.parts.reduce((n, i) => n + track.parts[i]!.layout.joints.length, 0);
  const loads = Array.from({ length: of }, () => 0);
  const mine = new Set<Group>();
  for (const g of [...groups].sort((a, b) => links(b) - links(a))) {
    const least = loads.indexOf(Math.min(...loads));
    loads[least]! += links(g);
    if (least === index) mine.add(g);
  }
  return groups.filter((g) => mine.has(g));
}

/** The columns of frames that some groups fill; colliders that do not move freely are filled by the first share. */
export function columnsOf(shot: Shot, groups: readonly Group[], first: boolean): Columns {
  const free = groups.some((g) => g.free);
  return {
    parts: groups.flatMap((g) => g.parts).sort((a, b) => a - b),
    colliders: inOrder(shot.colliders)
      .filter((c) => !c.muted)
      .flatMap((c, k) => ((c.free ? free : first) ? [k] : [])),
  };
}
