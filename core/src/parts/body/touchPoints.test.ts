import { describe, expect, it } from 'vitest';
import { boxMesh, ground, middleOf, placesOn, softBodies } from '../../../test/parcel';
import { nodeNamed } from '../../../test/figure';
import { sheetOf } from '../../sheets/index';
import { simulateAll, type TrackCache } from '../../simulate/index';
import { touchPoints } from './touchPoints';
import type { BodyLayout } from './layout';

const HIGH = 0.4;

/** A parcel of n × n squares a side that falls on a slope of ground. */
function falls(n: number) {
  const { character, shot } = softBodies(
    { parcel: boxMesh([0.3, 0.3, 0.3], n, [0, HIGH, 0]) },
    () => [0, 0, 0],
    { parcel: { cells: 3, settings: { hold: 0, droop: 3, friction: 0.4, damping: 0.3 } } },
    (d) => {
      d.colliders.ground = ground();
      d.gravity = [2, -9.6, 0];
    },
    { seconds: 1 },
  );
  const cache: TrackCache = {};
  const frames = simulateAll(character, shot, cache);
  const { touch, sheet } = cache.entry!.track.parts[0]!.layout as BodyLayout;
  return { frames, touch, sheet, character };
}

describe('where a soft body may touch something', () => {
  const [plain, dense] = [falls(4), falls(24)];

  it('is fewer places where the mesh is much finer than its cells, which stand for all of it', () => {
    expect(plain.touch.points).toBeGreaterThanOrEqual(plain.sheet.points);
    expect(dense.touch.points).toBeLessThan(0.4 * dense.sheet.points);
    expect(dense.touch.area.reduce((a, b) => a + b, 0)).toBeCloseTo(6 * 0.3 * 0.3, 6);
    expect(dense.touch.place.length).toBe(dense.sheet.points);
    expect(Math.max(...dense.touch.place)).toBe(dense.touch.points - 1);
  });

  it('leaves no vertex shown inside of what it touches, and the way it goes as it is', () => {
    for (const f of [6, 12, 23]) {
      const places = placesOn(dense.frames, f);
      expect(Math.min(...places.filter((_, o) => o % 3 === 1))).toBeGreaterThan(-1e-4);
      middleOf(places).forEach((x, a) =>
        expect(Math.abs(x - middleOf(placesOn(plain.frames, f))[a]!)).toBeLessThan(0.05 * 0.3),
      );
    }
    expect(Math.max(...dense.frames.contacts)).toBeGreaterThan(0);
  });

  it('faces outwards, however the mesh is wound', () => {
    const sheet = sheetOf(plain.character, nodeNamed(plain.character, 'parcel').node);
    const inward = { ...sheet, triangles: sheet.triangles.slice().reverse() };
    const volume = ({ places, points }: ReturnType<typeof touchPoints>) => {
      let sum = 0;
      for (let t = 0; t < points.triangles.length; t += 3) {
        const [a, b, c] = [0, 1, 2].map((k) =>
          places.slice(3 * points.triangles[t + k]!, 3 * points.triangles[t + k]! + 3),
        );
        sum += a![0]! * (b![1]! * c![2]! - b![2]! * c![1]!) - a![1]! * (b![0]! * c![2]! - b![2]! * c![0]!);
        sum += a![2]! * (b![0]! * c![1]! - b![1]! * c![0]!);
      }
      return sum / 6;
    };
    for (const s of [sheet, inward])
      expect(volume(touchPoints(s, Float64Array.from(s.rest), 0.1))).toBeCloseTo(0.027, 6);
  });
});
