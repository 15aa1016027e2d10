import type { Character } from '@oscillum/core/character';
import type { Shot } from '@oscillum/core/shot';
import { clipOf, findCycle, makeCycle } from '@oscillum/core/simulate';
import type { Recipe } from './edits';

/** A clip as its file has it. */
export const PLAIN_CYCLE: Shot['cycle'] = { repeats: 1, missingFrame: false, blend: 0, frames: null };

/** The clip of a shot, or null where it has none on this character. */
export const clipIn = (character: Character, shot: Shot) =>
  shot.clip && character.clips[shot.clip.index] ? clipOf(character, shot) : null;

export const cycleOf = (character: Character, shot: Shot) =>
  findCycle(character, clipIn(character, shot), shot);

/** Frames of one time of the clip, as the shot plays it. */
export const timeOf = (character: Character, shot: Shot): number =>
  makeCycle(character, clipIn(character, shot), shot).length;

/** Most cures that are tried one after another. */
const MOST = 3;

/** The cycle with all that closes it, and what was found on the way; null when there is nothing to cure. */
export function curesFor(character: Character, shot: Shot): { cycle: Shot['cycle']; found: string[] } | null {
  let { cycle } = shot;
  const found: string[] = [];
  for (let k = 0; k < MOST; k++) {
    const finding = cycleOf(character, { ...shot, cycle });
    if (!finding?.cure) break;
    found.push(finding.sentence);
    cycle = { ...cycle, ...finding.cure };
  }
  return found.length > 0 ? { cycle, found } : null;
}

/** Has the clip played so, over a range of all its times. */
export function withCycle(character: Character, shot: Shot, cycle: Shot['cycle'], loop = shot.loop): Recipe {
  const length = timeOf(character, { ...shot, cycle });
  return (d) => {
    d.cycle = cycle;
    d.loop = loop;
    d.settleFrames = 0;
    if (length > 0) d.range = { first: 0, last: Math.max(1, Math.round(cycle.repeats * length)) };
  };
}
