import type { Character, Clip } from '../character/index';
import { OscillumError } from '../model/index';
import type { Shot } from '../shot/index';

/** The clip a shot names, or null. Throws OscillumError('shot.invalid') when the character does not have it. */
export function clipOf(character: Character, shot: Shot): Clip | null {
  if (!shot.clip) return null;
  const clip = character.clips[shot.clip.index];
  if (!clip) {
    throw new OscillumError(
      'shot.invalid',
      `This character has no clip ${shot.clip.index} (${shot.clip.name})`,
      '/clip',
      'Choose one of its clips in Prepare.',
    );
  }
  return clip;
}

/** Frames before the range that the clip is run up over. */
export const runUp = (shot: Shot): number => (shot.start === 'run up' && !shot.loop ? shot.preRoll : 0);
