import type { Character, Clip } from '../character/index';
import { OscillumError } from '../model/index';
import { channelsOf, liveAgain, preRollFrames, type Shot } from '../shot/index';

/**
 * The clip a shot plays, or null for the rest pose. Parts that were baked into it and are live again move in it as in
 * the clip before. Throws OscillumError('shot.invalid') when the character does not have it.
 */
export function clipOf(character: Character, shot: Shot): Clip | null {
  if (!shot.clip) return null;
  const clip = found(character, shot.clip);
  const live = liveAgain(shot);
  if (live.length === 0) return clip;
  const { over } = shot.clip.baked!;
  const before = over ? found(character, over).channels : [];
  const theirs = channelsOf(live);
  return {
    ...clip,
    channels: [...clip.channels.filter((c) => !theirs(c)), ...before.filter((c) => theirs(c))],
  };
}

function found(character: Character, { index, name }: { index: number; name: string }): Clip {
  const clip = character.clips[index];
  if (clip) return clip;
  throw new OscillumError(
    'shot.invalid',
    `This character has no clip ${index} (${name})`,
    '/clip',
    'Choose one of its clips in Prepare.',
  );
}

/** Frames before the range that the clip is run up over. */
export const runUp = (shot: Shot): number =>
  shot.start === 'run up' && !shot.loop ? preRollFrames(shot) : 0;
