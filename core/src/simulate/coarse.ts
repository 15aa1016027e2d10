import { rigSize, type Character } from '../character/index';
import { kindOf } from '../parts/index';
import type { Shot } from '../shot/index';
import type { TrackCache } from './simulate';

/** How far the mesh of a collider may be simplified for a coarse answer, as a share of the character's size. */
const SIMPLIFIED = 0.006;

/** The shot that a coarse answer is given of: the same, with colliders that cost less. */
export function coarseShot(character: Character, shot: Shot): Shot {
  const least = SIMPLIFIED * rigSize(character) * shot.character.metresPerUnit;
  const colliders = Object.entries(shot.colliders).map(([id, c]) => {
    if (c.shape.kind !== 'mesh') return [id, c];
    return [id, { ...c, shape: { ...c.shape, simplified: Math.max(c.shape.simplified, least) } }];
  });
  return { ...shot, colliders: Object.fromEntries(colliders) as Shot['colliders'] };
}

/** Whether the run that was begun last with a cache has parts before it that could be had with less detail. */
export function couldBeCoarse({ last }: TrackCache): boolean {
  if (!last) return false;
  const { asked, groups, track } = last;
  return groups.some(
    (g) => g.done < track.frames && Object.keys(g.shot.parts).some((id) => kindOf(asked.parts[id]!).coarsen),
  );
}
