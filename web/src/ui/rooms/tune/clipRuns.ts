import type { Character } from '@oscillum/core/character';
import type { Frames } from '@oscillum/core/frames';
import type { Shot } from '@oscillum/core/shot';
import { carryTo } from '@oscillum/core/simulate';
import { NOTHING, type Picture } from '../../../sim/picture';

/** The set-up of a shot on one clip of its character, simulated. */
export interface ClipRun {
  readonly clip: number;
  readonly name: string;
  readonly shot: Shot;
  readonly picture: Picture;
  /** The frame on which the chosen parts are farthest from their source, and how far, m. */
  readonly worst: number;
  readonly far: number;
}

/** A shot on each clip of its character that stands by itself; its own is as it is. */
export function shotsOnClips(character: Character, shot: Shot): { clip: number; name: string; shot: Shot }[] {
  return character.clips.flatMap(({ name, over }, clip) => {
    if (over) return [];
    const on = clip === shot.clip?.index ? shot : carryTo(shot, character, shot.character, clip).shot;
    return [{ clip, name, shot: on }];
  });
}

/** What came of one: the worst frame of some parts, or of all where none are chosen. */
export function clipRun(
  { clip, name, shot }: { clip: number; name: string; shot: Shot },
  frames: Frames,
  chosen: readonly string[],
): ClipRun {
  const all = frames.parts.map((p) => p.partId);
  const columns = [...all.keys()].filter((c) => chosen.length === 0 || chosen.includes(all[c]!));
  let [worst, far] = [0, 0];
  for (let f = 0; f < frames.done; f++)
    for (const c of columns) {
      const off = frames.tipOffSource[f * all.length + c]!;
      if (off > far) [worst, far] = [f, off];
    }
  return { clip, name, shot, picture: { ...NOTHING, frames }, worst: frames.first + worst, far };
}
