import { produceWithPatches, type Draft, type Patch } from 'immer';
import { mendMinds, type There } from '../model/part';
import { documentOf } from '../parts/documents';
import type { Shot } from './shot';

/** What may be tuned: a shot, or what a take keeps of one. */
type Tuned = Pick<Shot, 'parts' | 'colliders' | 'forces'>;

const thereIn = (tuned: Tuned): There => ({
  colliders: new Set(Object.keys(tuned.colliders)),
  parts: new Set(Object.keys(tuned.parts)),
});

/** Whether a part or a force names something that is not there. */
function isBroken(tuned: Tuned): boolean {
  const there = thereIn(tuned);
  return (
    Object.values(tuned.parts).some((part) => {
      const { colliders, parts } = documentOf(part).names(part);
      return colliders.some((id) => !there.colliders.has(id)) || parts.some((id) => !there.parts.has(id));
    }) ||
    Object.values(tuned.forces).some(
      (f) => f.parts !== 'all' && f.parts.some((id) => !there.parts.has(id)),
    ) ||
    Object.values(tuned.colliders).some((c) => c.twin !== null && !there.colliders.has(c.twin))
  );
}

function mend(tuned: Draft<Tuned>): void {
  const there = thereIn(tuned as Tuned);
  for (const part of Object.values(tuned.parts)) documentOf(part).mend(part, there);
  for (const c of Object.values(tuned.colliders))
    if (c.twin !== null && !there.colliders.has(c.twin)) c.twin = null;
  for (const force of Object.values(tuned.forces))
    force.parts = mendMinds(force.parts, there.parts) as typeof force.parts;
}

/** Keeps linked parts alike after an edit of a shot: what was set on one holds for all. */
export function linkShot(
  before: Shot,
  shot: Shot,
): readonly [shot: Shot, patches: Patch[], inverse: Patch[]] {
  if (before.parts === shot.parts) return [shot, [], []];
  const parts = Object.values(shot.parts);
  const changes = [...new Set(parts.map((p) => documentOf(p)))].flatMap((rules) => [
    ...(rules.linked?.(
      parts.filter((p) => documentOf(p) === rules),
      before.parts,
    ) ?? []),
  ]);
  if (changes.length === 0) return [shot, [], []];
  return produceWithPatches(shot, (draft) => {
    for (const [id, change] of changes) Object.assign(draft.parts[id]!, change);
  });
}

/**
 * Keeps a shot whole: whatever a part or a force names that is not there any more is let go, in the shot and in its
 * takes. Returns the shot as it was when nothing is to be done.
 */
export function mendShot(shot: Shot): readonly [shot: Shot, patches: Patch[], inverse: Patch[]] {
  const takes = Object.values(shot.takes).filter((t) => isBroken(t.tuned));
  const own = isBroken(shot);
  if (!own && takes.length === 0) return [shot, [], []];
  return produceWithPatches(shot, (draft) => {
    if (own) mend(draft);
    for (const { id } of takes) mend(draft.takes[id]!.tuned);
  });
}
