import { partsInOrder, type Part, type Shot } from '@oscillum/core/shot';

/** Whether a bake has muted a part, so that it does not move twice. */
export const wasBaked = (part: Part): boolean => part.muted && part.bakedInto !== null;

/** Parts that can be baked: those that move, and those that only a bake before has muted. */
export const bakeable = (shot: Shot): Part[] => partsInOrder(shot).filter((p) => !p.muted || wasBaked(p));

/** The shot as it is baked: what an earlier bake muted moves. */
export function unmuted(shot: Shot, ids: readonly string[]): Shot {
  const parts = { ...shot.parts };
  for (const id of ids)
    parts[id as Part['id']] = { ...parts[id as Part['id']]!, muted: false, bakedInto: null };
  return { ...shot, parts };
}
