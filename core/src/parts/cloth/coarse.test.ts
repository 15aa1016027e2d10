import { expect, it } from 'vitest';
import { brindle } from '../../../test/bakes';
import { readGltf } from '../../formats/gltf/index';
import { sizesOf, type Frames } from '../../frames/index';
import { editShot } from '../../shot/index';
import { coarseShot, couldBeCoarse, simulate, simulateAll, type TrackCache } from '../../simulate/index';
import type { ClothLayout } from './layout';

const character = readGltf(brindle!.bytes, 'brindle.glb');
const walk = brindle!.shots.find((s) => s.name === 'Brindle, Walk in a poncho')!;
const shot = editShot(walk, 'edit-0001', 'Short', (d) => {
  d.range = { first: 0, last: 23 };
  d.colliders = {};
}).shot;

/** Mean place of all vertices on a frame, m. */
function centre(frames: Frames, f: number): number[] {
  const n = sizesOf(frames).points;
  const sum = [0, 0, 0];
  for (let k = 0; k < 3 * n; k++) sum[k % 3]! += frames.points[3 * n * f + k]! / n;
  return sum;
}

it('a coarse cloth has a quarter of the points and goes where the whole one does, held points to the bit', () => {
  const cache: TrackCache = { coarse: true };
  const rough = simulateAll(character, coarseShot(character, shot), cache);
  const whole = simulateAll(character, shot);
  const layout = cache.entry!.track.parts[0]!.layout as ClothLayout;
  const { sheet, held } = layout.detail!;
  expect(layout.sheet.points).toBeGreaterThan(0.15 * sheet.points);
  expect(layout.sheet.points).toBeLessThan(0.35 * sheet.points);
  expect(rough.points.length).toBe(whole.points.length);
  expect(rough.points.every(Number.isFinite)).toBe(true);
  for (let f = 0; f < whole.count; f++) {
    const [a, b] = [centre(rough, f), centre(whole, f)];
    expect(Math.hypot(...a.map((x, k) => x - b[k]!))).toBeLessThan(0.015);
  }
  const n = sheet.pointOf.length;
  const at = (frames: Frames, v: number) => [...frames.points.subarray(3 * (9 * n + v), 3 * (9 * n + v) + 3)];
  for (let v = 0; v < n; v++) if (held[sheet.pointOf[v]!]) expect(at(rough, v)).toEqual(at(whole, v));
  // It moves, and as far.
  const far = (frames: Frames) => Math.max(...frames.tipOffSource);
  expect(far(rough)).toBeGreaterThan(0.5 * far(whole));
  expect(far(rough)).toBeLessThan(2 * far(whole));
});

it('only what is simulated anew could be had coarse', () => {
  const cache: TrackCache = {};
  const run = simulate(character, shot, cache);
  run.next();
  expect(couldBeCoarse(cache)).toBe(true);
  for (let step = run.next(); !step.done;) step = run.next();
  const again = simulate(character, shot, cache);
  again.next();
  expect(couldBeCoarse(cache)).toBe(false);
  expect(couldBeCoarse({})).toBe(false);
});
