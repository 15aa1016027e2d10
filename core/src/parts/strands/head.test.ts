import { describe, expect, it } from 'vitest';
import { nodeNamed } from '../../../test/figure';
import { character, clipNamed, lookout } from '../../../test/poncho';
import { pointSpans, sizesOf } from '../../frames/index';
import { Collider } from '../../model/index';
import { parseShot, type Shot } from '../../shot/index';
import { simulateAll, type TrackCache } from '../../simulate/index';
import { growGuides } from './grow';
import { makeGroom, makeStrandsPart, strandSettingsFor, type StrandsPart } from './shared';

const SCALP = nodeNamed(character, 'fringe scalp mesh');
const LONG = 0.14;
const POINTS = 13;
const BALLS = [
  ['head', 0.1],
  ['neck', 0.09],
  ['chest', 0.17],
] as const;

/** A head of 200 guides that lies on balls about her head, neck and chest. */
function headOfHair(
  clip: string,
  substeps: number,
  change: (p: StrandsPart) => void = () => undefined,
): Shot {
  const growth = { count: 200, length: LONG, points: POINTS, lean: 0.5, seed: 3, mirrored: false };
  const guides = growGuides(character, SCALP.node, 1, [0, -1, 0], growth, null);
  const hair = makeStrandsPart({
    ...{ id: 'hair', name: 'Hair', mesh: SCALP, groom: makeGroom(guides) },
    settings: { ...strandSettingsFor(LONG), thickness: 0.005 },
  });
  change(hair);
  const colliders = Object.fromEntries(
    BALLS.map(([name, radius]) => [
      name,
      Collider.parse({
        ...{ id: name, name, attachedTo: nodeNamed(character, name) },
        shape: { kind: 'sphere', radius },
      }),
    ]),
  );
  const named = clipNamed(clip);
  const last = Math.floor(character.clips[named.index]!.duration * lookout.fps);
  return parseShot({
    ...{ ...lookout, clip: named, parts: { hair }, colliders, range: { first: 0, last } },
    ...{ substeps, preRollSeconds: 1, loop: false },
  });
}

/** How deep points and the middles of links stand in a ball, m, where the groom does not; and creep at the end, m. */
function measured(shot: Shot) {
  const cache: TrackCache = {};
  const frames = simulateAll(character, shot, cache);
  const { track } = cache.entry!;
  const [span] = pointSpans(frames, 0);
  const wide = 3 * sizesOf(frames).points;
  const count = (span!.to - span!.from) / POINTS;
  const placeAt = (f: number, i: number) =>
    [0, 1, 2].map((a) => frames.points[f * wide + 3 * (span!.from + i) + a]!);
  const hair = shot.parts.hair as StrandsPart;
  const bare = simulateAll(character, {
    ...shot,
    parts: { hair: { ...hair, settings: { ...hair.settings, amount: 0 } } },
  });
  let [points, middles, creep] = [-1, -1, 0];
  const free = new Set<number>();
  for (let f = 0; f < frames.count; f++) {
    const { world } = track.poseAt(f);
    for (const [name, radius] of BALLS) {
      const o = 16 * nodeNamed(character, name).node + 12;
      const deep = (p: readonly number[]) =>
        radius - Math.hypot(...[0, 1, 2].map((a) => p[a]! - world[o + a]!));
      const groomed = (i: number) =>
        deep([0, 1, 2].map((a) => bare.points[f * wide + 3 * (span!.from + i) + a]!));
      for (let g = 0; g < count; g++) {
        // Where the groom itself stands inside, hair may too.
        const all = Array.from({ length: POINTS }, (_, i) => POINTS * g + i);
        if (all.some((i) => groomed(i) > 0)) continue;
        free.add(g);
        for (let i = 1; i < POINTS; i++) {
          const [p, q] = [placeAt(f, all[i - 1]!), placeAt(f, all[i]!)];
          points = Math.max(points, deep(q));
          middles = Math.max(middles, deep(p.map((x, a) => (x + q[a]!) / 2)));
        }
      }
    }
  }
  const end = frames.count - 1;
  for (let i = 0; i < count * POINTS; i++) {
    const [p, q] = [placeAt(end - 1, i), placeAt(end, i)];
    creep = Math.max(creep, Math.hypot(...p.map((x, a) => x - q[a]!)));
  }
  return { free: free.size, points, middles, creep, frames };
}

describe('a head of 200 guides', () => {
  it.each(['Lookout', 'Leap'])('stands out of her head on %s, points and the middles of links', (clip) => {
    const { free, points, middles, creep, frames } = measured(headOfHair(clip, 8));
    expect(free).toBeGreaterThan(150);
    expect(Math.max(...frames.contacts)).toBeGreaterThan(100);
    expect(points).toBeLessThan(-0.0049);
    expect(middles).toBeLessThan(-0.002);
    // She stands still at the end of her leap.
    if (clip === 'Leap') expect(creep).toBeLessThan(1e-5);
  });
});
