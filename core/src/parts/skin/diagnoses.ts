import { lengthText } from '../../model/index';
import type { Diagnosis, Remedy } from '../diagnosis';
import type { Simulated } from '../kind';
import { MOST_BELOW, type SkinPart } from './document';
import type { SkinLayout } from './layout';

/** How many times farther it is to reach where nothing is near enough. */
const FARTHER = 2;

/** What keeps a skin from going along with what is below it. */
export function diagnoseSkin({ part, frames, track, index, shot }: Simulated<SkinPart>): Diagnosis[] {
  const at = [frames.first, frames.first + frames.count - 1] as const;
  const { bound } = track.parts[index]!.layout as SkinLayout;
  const say = (cause: string, sentence: string, says: string, change: Remedy['change']): Diagnosis => ({
    ...{ cause, partId: part.id, frames: at, sentence, remedy: { says, change } },
  });
  const bodies = Object.values(shot.parts).flatMap((p) =>
    p.kind === 'body' && !p.muted ? [{ part: p.id, mesh: p.mesh }] : [],
  );
  const live = part.below.filter((b) => bodies.some((o) => o.part === b.part));
  if (live.length === 0) {
    if (bodies.length === 0) return [];
    return [
      say(
        'nothing below',
        `No soft body that moves is below ${part.name}, so that it stays as it is animated.`,
        'Lay it over all soft bodies',
        { kind: 'part', set: { below: bodies.slice(0, MOST_BELOW) } },
      ),
    ];
  }
  if (bound.points.length > 0) return [];
  const reach = Number((FARTHER * part.reach).toPrecision(2));
  return [
    say(
      'out of reach',
      `Nothing of ${part.name} is within ${lengthText(part.reach)} of what is below it.`,
      `Reach ${lengthText(reach)}`,
      { kind: 'part', set: { reach } },
    ),
  ];
}
