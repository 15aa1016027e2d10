import type { Frames } from '../frames/index';
import {
  kindOf,
  type AskedFeel,
  type Feel,
  type FittedFeel,
  type ShotFeel,
  type SourceTrack,
} from '../parts/index';
import type { Part, Shot } from '../shot/index';

const partOf = (shot: Shot, track: SourceTrack, index: number): Part =>
  shot.parts[track.parts[index]!.layout.part.id]!;

/** The feel of a part of the shot on the standard quick turn, in frames of the shot. */
export function partFeel(shot: Shot, track: SourceTrack, index: number): Feel {
  const part = partOf(shot, track, index);
  const kind = kindOf(part);
  const as = kind.answersAs?.(part).flatMap((id) => {
    const at = track.parts.findIndex((p) => p.layout.part.id === id);
    return at >= 0 && at !== index ? [at] : [];
  });
  return as?.[0] === undefined ? kind.feel(shot, track, index) : partFeel(shot, track, as[0]);
}

/** Settings that give a part of the shot an asked feel. */
export function fitPartFeel(shot: Shot, track: SourceTrack, index: number, asked: AskedFeel): FittedFeel {
  return kindOf(partOf(shot, track, index)).fit(shot, track, index, asked);
}

/** What a part does on the shot: its largest swing away from the source, how long that takes to die, how it trails. */
export function measureShot(shot: Shot, frames: Frames, track: SourceTrack, index: number): ShotFeel {
  const part = partOf(shot, track, index);
  return kindOf(part).measureShot({ shot, part, frames, track, index });
}
