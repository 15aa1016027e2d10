import type { Character } from '../character/index';
import type { Frames } from '../frames/index';
import { AddedMotion, AddedMotionId, Force, ForceId, minds } from '../model/index';
import { kindOf, type Diagnosis, type Remedy, type SourceTrack } from '../parts/index';
import { pinched } from './pinched';
import { partsInOrder, setScale, type Shot } from '../shot/index';

/** Looks at a simulated shot and says what is wrong, per part, worst causes first. */
export function diagnose(character: Character, shot: Shot, frames: Frames, track: SourceTrack): Diagnosis[] {
  const out: Diagnosis[] = [];
  const range = [frames.first, frames.first + frames.count - 1] as const;
  for (const part of partsInOrder(shot)) {
    if (part.muted) {
      if (Object.values(part.keys).some((keys) => keys?.length))
        out.push({
          cause: 'keyed but muted',
          partId: part.id,
          frames: range,
          sentence: `${part.name} has keys but is muted, so they do nothing.`,
          remedy: { says: 'Unmute it', change: { kind: 'unmute' } },
        });
      continue;
    }
    const index = frames.parts.findIndex((c) => c.partId === part.id);
    if (index < 0) continue;
    out.push(...kindOf(part).diagnose({ shot, part, frames, track, index }));
    out.push(...pinched(character, shot, frames, track, index));
  }
  return out;
}

/** Makes the change of a remedy to a draft of the shot. */
export function applyRemedy(draft: Shot, partId: string, remedy: Remedy): void {
  const part = draft.parts[partId];
  const { change } = remedy;
  if (change.kind === 'shot') Object.assign(draft, change.set);
  if (change.kind === 'unit') setScale(draft, change.metres);
  if (!part) return;
  if (change.kind === 'setting') (part.settings as Record<string, number>)[change.key] = change.value;
  if (change.kind === 'part') Object.assign(part, structuredClone(change.set));
  if (change.kind === 'unmute') {
    part.muted = false;
    part.bakedInto = null;
  }
  if (change.kind === 'breeze') {
    const id = ForceId.parse(`breeze-${partId}`.slice(0, 40));
    draft.forces[id] = Force.parse({
      id,
      name: `Light wind on ${part.name}`.slice(0, 200),
      kind: 'wind',
      speed: 2,
      parts: [partId],
    });
    const settings = part.settings as Record<string, number>;
    if (settings.thickness === 0) settings.thickness = change.thickness;
  }
  if (change.kind === 'swing') {
    const id = AddedMotionId.parse(`swing-${partId}`.slice(0, 40));
    draft.addedMotions[id] = AddedMotion.parse({
      id,
      name: `Small swing for ${part.name}`.slice(0, 200),
      ...{ joint: change.joint, axis: change.axis, kind: 'swing', amount: 5, count: draft.cycle.repeats },
    });
  }
  if (change.kind === 'leave out' && 'collidesWith' in part) {
    const { collidesWith } = part;
    const minded = Object.keys(draft.colliders).filter((id) => minds(collidesWith.colliders, id));
    collidesWith.colliders = minded.filter((id) => !change.colliders.some((c) => c === id));
  }
}
