import type { Frames } from '../frames/index';
import { inOrder, lengthText, minds, type Collider } from '../model/index';
import type { Diagnosis, SourceTrack } from '../parts/index';
import type { Shot } from '../shot/index';
import { clearances } from '../simulate/index';
import type { Character } from '../character/index';

/** Deeper than this a vertex shows inside what it touches, m. */
const DEEP = 0.002;
/** A step for the way out, m, and how far beyond the surface it leads. */
const LITTLE = 1e-4;
const OUT = 1e-3;
/** Thinner than this a cloth is not made for a pinch, m. */
const THIN = 1e-3;

/** Moves a place (3 numbers, m) out of what it stands in by the shortest way. */
function wayOut(place: readonly number[], clear: (at: readonly number[]) => number): number[] {
  const depth = clear(place);
  const slope = [0, 1, 2].map((a) => {
    const [more, less] = [1, -1].map((s) => clear(place.map((x, b) => (a === b ? x + s * LITTLE : x))));
    return (more! - less!) / (2 * LITTLE);
  });
  const steep = Math.sqrt(slope.reduce((sum, s) => sum + s * s, 0)) || 1;
  return place.map((x, a) => x + ((OUT - depth) * slope[a]!) / steep);
}

/**
 * Says where the vertices of a part sink because what they touch leaves them no room: the shortest way out of one side
 * leads into another. Looks at the frame on which it is deepest; nothing where it does not sink, or has room.
 */
export function pinched(
  character: Character,
  shot: Shot,
  frames: Frames,
  track: SourceTrack,
  index: number,
): Diagnosis[] {
  const { partId, points } = frames.parts[index]!;
  const part = shot.parts[partId]!;
  if (points.length === 0 || !('collidesWith' in part)) return [];
  let deepest = 0;
  for (let f = 1; f < frames.done; f++)
    if (frames.depth[f * frames.parts.length + index]! > frames.depth[deepest * frames.parts.length + index]!)
      deepest = f;
  if (!(frames.depth[deepest * frames.parts.length + index]! > DEEP)) return [];
  const wide = frames.pointed.reduce((n, p) => n + p.vertices, 0);
  const from = 3 * (deepest * wide + points.from);
  const places = frames.points.subarray(from, from + 3 * points.length);
  const touched = inOrder(shot.colliders).filter(
    (c) => !c.muted && minds(part.collidesWith.colliders, c.id) && frames.colliders.includes(c.id),
  );
  const { world } = track.poseAt(deepest);
  const { metresPerUnit } = shot.character;
  const from7 = (c: Collider) => 7 * (deepest * frames.colliders.length + frames.colliders.indexOf(c.id));
  const clear = (of: readonly Collider[], at: ArrayLike<number>) =>
    clearances(
      character,
      of.map((collider) => ({
        collider,
        placed: frames.placements.subarray(from7(collider), from7(collider) + 7),
      })),
      ...([world, metresPerUnit, at] as const),
    );
  const all = clear(touched, places);
  const worst = all.reduce((w, d, p) => (d < all[w]! ? p : w), 0);
  const place = [...places.subarray(3 * worst, 3 * worst + 3)];
  const out = wayOut(place, (at) => clear(touched, at)[0]!);
  if (!(all[worst]! < -DEEP) || clear(touched, out)[0]! > -DEEP) return [];
  const alone = (at: readonly number[]) =>
    touched.reduce((a, b) => (clear([b], at)[0]! < clear([a], at)[0]! ? b : a));
  const [one, other] = [alone(place), alone(out)];
  const between = one === other ? `folds of ${one.name}` : `${one.name} and ${other.name}`;
  const frame = frames.first + deepest;
  const thickness = part.settings.thickness ?? 0;
  if (one === other && thickness <= THIN) return [];
  return [
    {
      ...{ cause: 'pinched', partId, frames: [frame, frame] },
      sentence: `${part.name} sinks ${lengthText(-all[worst]!)} where it is pinched between ${between}: there is no room for it.`,
      remedy:
        one === other
          ? {
              says: `Half the thickness: ${lengthText(thickness / 2)}`,
              change: { kind: 'setting', key: 'thickness', value: Number((thickness / 2).toPrecision(2)) },
            }
          : { says: `Leave ${other.name} out`, change: { kind: 'leave out', colliders: [other.id] } },
    },
  ];
}
