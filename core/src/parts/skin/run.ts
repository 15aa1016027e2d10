import type { Frames } from '../../frames/index';
import { sizesOf } from '../../frames/index';
import { norm } from '../../math/index';
import { bearing } from '../borne';
import { drivenBy } from '../driven';
import { anchorShare, type Env, type PartRun, type RunNeeds, type Shows } from '../kind';
import { keyedValues } from '../keyed';
import { rowAt } from '../rows';
import { farthest } from '../stray';
import { smoothWays } from './bind';
import type { SkinPart } from './document';
import type { SkinLayout } from './layout';
import { SKIN_SETTING_KEYS, SKIN_SETTINGS } from './settings';
import type { SkinSource } from './source';
import { turnWithTriangle } from './turned';

const nothing = (): undefined => undefined;

/**
 * A skin among the things that step. It has no state: on every frame it stands as far from its animation as the bodies
 * below it are shown from theirs.
 */
export function makeSkinRun(
  { part, index, track, runs }: RunNeeds<SkinPart, SkinLayout, SkinSource>,
  env: Env,
): PartRun {
  const { layout, source } = track;
  const { bound, boundOfPicked, size } = layout;
  const n = bound.points.length;
  const value = drivenBy(keyedValues(SKIN_SETTING_KEYS, part), part.id, SKIN_SETTINGS, env.track.drivers);
  // A body that is muted is not there, and moves nothing.
  const below = part.below.map(
    (b): Shows | null => runs.find((r) => env.track.parts[r.index]!.layout.part.id === b.part)?.shows ?? null,
  );
  const bear = bearing(env.character, layout.node, layout.boundOf, track, runs);
  const beforeRange = env.track.first - env.track.from + 1;
  const places = new Float64Array(3 * n);
  const ways = new Float64Array(3 * n);
  const offset = new Float64Array(3);

  /** Where the skin is animated on frame f of the range, m. */
  function pose(f: number): void {
    rowAt(places, source.skin, places.length, beforeRange + f, 0);
    bear?.(places);
  }

  /** How far each point goes along: with the place below it, turned as the triangle there is. */
  function follow(f: number): void {
    const frame = env.track.first + f;
    pose(f);
    ways.fill(0);
    const { corners, shares, weight } = bound;
    for (let i = 0; i < n; i++) {
      const shows = below[bound.below[i]!];
      if (!shows) continue;
      const own = corners.subarray(3 * i, 3 * i + 3);
      for (let a = 0; a < 3; a++) {
        let [at, off] = [0, 0];
        own.forEach((p, k) => {
          at += shares[3 * i + k]! * shows.places[3 * p + a]!;
          off += shares[3 * i + k]! * shows.off[3 * p + a]!;
        });
        ways[3 * i + a] = off;
        offset[a] = places[3 * i + a]! - at;
      }
      const [x, y, z] = offset as unknown as [number, number, number];
      turnWithTriangle(offset, shows, own);
      [x, y, z].forEach((v, a) => (ways[3 * i + a] = weight[i]! * (ways[3 * i + a]! + offset[a]! - v)));
    }
    smoothWays(ways, bound, value('smoothing', frame));
    const amount = (value('amount', frame) / 100) * anchorShare(part.anchors, frame);
    for (let o = 0; o < ways.length; o++) ways[o]! *= amount;
  }

  return {
    index,
    ...{ begin: nothing, advance: nothing, gather: nothing, loaded: nothing, recalled: nothing },
    ...{ travel: nothing, calm: nothing, note: nothing, writeAt: nothing },
    ...{ moving: [], slips: [], points: null, bodies: [] },
    asides: () => [],
    still: () => true,
    speed: () => 0,
    anchorAt: () => null,
    write: (frames: Frames, f: number) => {
      follow(f);
      let at = 3 * (f * sizesOf(frames).points + frames.parts[index]!.points.from);
      for (const i of boundOfPicked) for (let a = 0; a < 3; a++) frames.points[at++] = ways[3 * i + a]!;
      const cell = f * frames.parts.length + index;
      const where = farthest(ways);
      const far = n > 0 ? norm(ways.subarray(where, where + 3)) : 0;
      frames.offSource[cell] = (100 * far) / size;
      frames.tipOffSource[cell] = far;
      for (let a = 0; a < 3; a++)
        frames.tips[3 * cell + a] = (places[where + a] ?? 0) + (ways[where + a] ?? 0);
      for (const name of ['contacts', 'contactAt', 'depth', 'deepIn', 'slip', 'stretch', 'energy'] as const)
        frames[name][cell] = 0;
    },
  };
}
