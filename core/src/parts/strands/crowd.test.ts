import { describe, expect, it } from 'vitest';
import { makeFigure, nodeNamed } from '../../../test/figure';
import type { Way } from '../../../test/parcel';
import { pointSpans, sizesOf, type Frames } from '../../frames/index';
import { Force } from '../../model/index';
import type { Character } from '../../character/index';
import { editShot, parseShot, type Shot } from '../../shot/index';
import { simulateAll, type TrackCache } from '../../simulate/index';
import { growGuides } from './grow';
import { makeGroom, makeStrandsPart, strandSettingsFor, type StrandsPart } from './shared';

const POINTS = 9;
const LONG = 0.08;
/** A tenth of a metre square that hair hangs from. */
const SIDE = 6;
const square = Array.from({ length: (SIDE + 1) ** 2 }, (_, k) => [
  0.1 * ((k % (SIDE + 1)) / SIDE - 0.5),
  0,
  0.1 * (Math.floor(k / (SIDE + 1)) / SIDE - 0.5),
]).flat();
const triangles = Array.from({ length: SIDE * SIDE }, (_, k) => {
  const q = Math.floor(k / SIDE) * (SIDE + 1) + (k % SIDE);
  return [q, q + 1, q + SIDE + 2, q, q + SIDE + 2, q + SIDE + 1];
}).flat();

/** Sixty guides that hang from a square, whose crowd does something; where the square is, by time. */
function made(
  settings: Partial<StrandsPart['settings']>,
  more: Partial<Shot> = {},
  way: Way = () => [0, 0, 0],
): { character: Character; shot: Shot } {
  const { character, shot } = makeFigure({ scalp: { places: square, triangles } }, 2, 24, way);
  const mesh = nodeNamed(character, 'scalp');
  const growth = { count: 60, length: LONG, points: POINTS, lean: 0, seed: 3, mirrored: false };
  const guides = growGuides(character, mesh.node, 1, [0, -1, 0], growth, null);
  const hair = makeStrandsPart({
    ...{ id: 'hair', name: 'Hair', mesh, groom: makeGroom(guides) },
    settings: { ...strandSettingsFor(LONG), hold: 0.5, bend: 1, damping: 0.3, drag: 0, ...settings },
  });
  return {
    character,
    shot: parseShot({
      ...{ ...shot, parts: { hair }, colliders: {}, range: { first: 0, last: 36 } },
      ...{ substeps: 4, preRollSeconds: 0, loop: false, ...more },
    }),
  };
}

function brush(...of: Parameters<typeof made>): Frames {
  const { character, shot } = made(...of);
  return simulateAll(character, shot);
}

/** Places of the tips on a frame, m. */
function tips(frames: Frames, f: number): Float64Array[] {
  const [span] = pointSpans(frames, 0);
  const wide = sizesOf(frames).points;
  const guides = (span!.to - span!.from) / POINTS;
  return Array.from({ length: guides }, (_, g) => {
    const at = 3 * (f * wide + span!.from + POINTS * g + POINTS - 1);
    return Float64Array.from(frames.points.subarray(at, at + 3));
  });
}
const far = (a: ArrayLike<number>, b: ArrayLike<number>) =>
  Math.hypot(...[0, 1, 2].map((k) => a[k]! - b[k]!));
/** Mean distance of the tips from their middle, m. */
function spread(of: readonly Float64Array[]): number {
  const middle = [0, 1, 2].map((a) => of.reduce((s, t) => s + t[a]!, 0) / of.length);
  return of.reduce((s, t) => s + far(t, middle), 0) / of.length;
}

describe('hair against hair', () => {
  const middle = tips(brush({}), 0).reduce((s, t) => s.map((x, a) => x + t[a]! / 60), [0, 0, 0]);
  const drawn = {
    forces: {
      pull: Force.parse({ kind: 'attractor', id: 'pull', name: 'Pull', t: middle, strength: 6, radius: 0.2 }),
    } as unknown as Shot['forces'],
  };

  it('that is drawn together keeps more of its room the more it keeps apart', () => {
    const of = (crowd: number) => spread(tips(brush({ crowd, along: 4 }, drawn), 36));
    const [none, some, much] = [of(0), of(2), of(5)] as const;
    const rest = spread(tips(brush({}), 0));
    expect(none).toBeLessThan(0.8 * rest);
    expect(some).toBeGreaterThan(none);
    expect(much).toBeGreaterThan(some);
  });

  it('rests in its groom as if it were alone', () => {
    const frames = brush({ crowd: 5, along: 20 });
    const [first, last] = [tips(frames, 0), tips(frames, 36)];
    first.forEach((t, k) => expect(far(t, last[k]!)).toBeLessThan(1e-4 * LONG));
  });

  it('that goes along with its neighbours passes them more slowly', () => {
    // Small swirls blow each another way.
    const wind = Force.parse({
      kind: 'wind',
      id: 'wind',
      name: 'Wind',
      speed: 4,
      turbulence: 1,
      swirl: 0.02,
    });
    const passes = (along: number) => {
      const frames = brush(
        { along, drag: 1, damping: 0.05 },
        { forces: { wind } as unknown as Shot['forces'] },
      );
      let sum = 0;
      for (let f = 1; f < frames.count; f++) {
        const [a, b] = [tips(frames, f - 1), tips(frames, f)];
        const ways = b.map((t, k) => [0, 1, 2].map((c) => t[c]! - a[k]![c]!));
        const mean = [0, 1, 2].map((c) => ways.reduce((s, w) => s + w[c]!, 0) / ways.length);
        sum += ways.reduce((s, w) => s + far(w, mean), 0) / ways.length;
      }
      return sum;
    };
    const [alone, together] = [passes(0), passes(30)];
    expect(together).toBeLessThan(0.85 * alone);
  });

  it('goes on from a frame that is kept to the same bits', () => {
    const key = (frame: number, value: number) => ({ frame, value, kind: 'smooth' as const });
    const withKeys = (shot: Shot, last: number) =>
      editShot(shot, 'keys-0001', 'Set keys', (d) => {
        (d.parts.hair as StrandsPart).keys.amount = [key(0, 100), key(30, 100), key(34, last)];
      }).shot;
    const { character, shot } = made({ crowd: 3, along: 5 }, drawn);
    const cache: TrackCache = { reuse: true };
    simulateAll(character, withKeys(shot, 80), cache);
    const again = simulateAll(character, withKeys(shot, 120), cache);
    expect(again.points).toEqual(simulateAll(character, withKeys(shot, 120)).points);
  });

  it('does the same wherever it stands', () => {
    const swing: Way = (t) => [0.1 * Math.sin(6 * t), 0, 0];
    const there: Way = (t) => [3.21 + 0.1 * Math.sin(6 * t), 1.07, 0.4];
    const [here, else_] = [swing, there].map((way) => tips(brush({ crowd: 3, along: 5 }, {}, way), 30));
    here!.forEach((t, k) => {
      const away = [t[0]! + 3.21, t[1]! + 1.07, t[2]! + 0.4];
      expect(far(away, else_![k]!)).toBeLessThan(0.005 * LONG);
    });
  });
});
