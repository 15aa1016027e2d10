import { makeArena, type Arena } from '../solver/index';
import type { SourceTrack } from './kind';

const arenas = new WeakMap<SourceTrack, Map<string, { arena: Arena; numbers: number }>>();

/**
 * The arena of a part on a track, with room for so many numbers. It is kept and used again: a run that is asked for
 * later takes the place of the one before it.
 */
export function ownArena(track: SourceTrack, partId: string, numbers: number): Arena {
  const own = arenas.get(track) ?? new Map<string, { arena: Arena; numbers: number }>();
  arenas.set(track, own);
  const known = own.get(partId);
  if (known && known.numbers >= numbers) {
    known.arena.release(0);
    return known.arena;
  }
  const arena = makeArena(numbers);
  own.set(partId, { arena, numbers });
  return arena;
}
