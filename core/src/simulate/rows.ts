import type { Character } from '../character/index';
import { emptyFrames, type Frames, type FramesLayout, type PartColumns } from '../frames/index';
import { kindOf, type SourceTrack } from '../parts/index';
import type { Shot } from '../shot/index';
import { collidersOf, whereabouts } from './colliders';

/** Writes where the colliders stand that do not move freely. */
export function placeColliders(character: Character, shot: Shot, track: SourceTrack, frames: Frames): void {
  const place = new Float64Array(7);
  collidersOf(shot).forEach((collider, k) => {
    if (collider.free) return;
    const stand = whereabouts(character, track, collider);
    for (let f = 0; f < frames.count; f++) {
      stand(place, track.first - track.from + 1 + f, 0, track.first + f);
      frames.placements.set(place, 7 * (f * frames.colliders.length + k));
    }
  });
}

/** Empty frames for a shot, over those of an earlier run when they may be written over. */
export function makeFrames(track: SourceTrack, shot: Shot, others: Frames | undefined): Frames {
  return emptyFrames(framesLayout(track, shot), others);
}

/** The columns of all parts, one after the other in the order of the track. */
function framesLayout(track: SourceTrack, shot: Shot): FramesLayout {
  const joints: number[] = [];
  const scaled: number[] = [];
  const morphs: FramesLayout['morphs'][number][] = [];
  const pointed: FramesLayout['pointed'][number][] = [];
  let vertices = 0;
  const readoutNames: string[] = [];
  const add = <T>(all: T[], own: readonly T[]) => {
    const span = { from: all.length, length: own.length };
    all.push(...own);
    return span;
  };
  const parts = track.parts.map(({ layout }): PartColumns => {
    const part = shot.parts[layout.part.id]!;
    const holds = kindOf(part).columns(layout, part);
    const from = vertices;
    for (const p of holds.points) vertices += p.vertices;
    pointed.push(...holds.points);
    return {
      partId: part.id,
      joints: add(joints, Array.from(layout.joints)),
      scaled: add(scaled, holds.scaled),
      morphs: add(morphs, holds.morphs),
      points: { from, length: vertices - from },
      readouts: add(readoutNames, holds.readouts),
      paths: holds.paths,
    };
  });
  return {
    first: track.first,
    count: track.frames,
    joints: Int32Array.from(joints),
    scaled: Int32Array.from(scaled),
    morphs,
    pointed,
    readoutNames,
    parts,
    colliders: collidersOf(shot).map((c) => c.id),
  };
}
