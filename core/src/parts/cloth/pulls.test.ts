import { expect, it } from 'vitest';
import { character, ponchoShot, sheet, vertices } from '../../../test/poncho';
import type { Frames } from '../../frames/index';
import { coarseShot, simulateAll, type TrackCache } from '../../simulate/index';
import type { ClothPart, ClothPull } from './document';

const RANGE = { first: 20, last: 43 };
/** The vertex of the hem that is farthest in front. */
const HEM = [...sheet.pointOf.keys()].reduce((best, v) => {
  const of = (k: number, a: number) => sheet.rest[3 * sheet.pointOf[k]! + a]!;
  return of(v, 2) - of(v, 1) > of(best, 2) - of(best, 1) ? v : best;
});
const shotOf = (...pulls: ClothPull[]) =>
  ponchoShot((p: ClothPart) => void (p.pulls = pulls), { range: RANGE });
const at = (f: Frames, frame: number, v = HEM) => {
  const o = 3 * ((frame - RANGE.first) * vertices + v);
  return [...f.points.subarray(o, o + 3)];
};
const apart = (a: readonly number[], b: readonly number[]) => Math.hypot(...a.map((x, k) => x - b[k]!));
const plain = simulateAll(character, shotOf());
/** Lifts the hem by half a metre to the front within ten frames, and lets go. */
const pull = (more: Partial<ClothPull> = {}): ClothPull => {
  const [x, y, z] = at(plain, 26) as [number, number, number];
  const path = Array.from({ length: 11 }, (_, k): [number, number, number] => [
    x,
    y + 0.02 * k,
    z + 0.02 * k,
  ]);
  return { id: 'hand', vertex: HEM, reach: 0.08, first: 26, path, strength: 8, slip: 1e5, ...more };
};

it('a hand draws the hem along its path, the more firmly the nearer, and lets go of it where the path ends', () => {
  const held = simulateAll(character, shotOf(pull()));
  // Before it begins nothing is changed, to the bit.
  const wide = 3 * vertices;
  expect([...held.points.subarray(0, 6 * wide)]).toEqual([...plain.points.subarray(0, 6 * wide)]);
  const hand = pull().path.at(-1)!;
  expect(apart(at(held, 36), hand)).toBeLessThan(0.5 * apart(at(plain, 36), hand));
  const firm = simulateAll(character, shotOf(pull({ strength: 24 })));
  expect(apart(at(firm, 36), hand)).toBeLessThan(apart(at(held, 36), hand));
  // It falls back once it is let go.
  expect(apart(at(held, 43), at(plain, 43))).toBeLessThan(0.6 * apart(at(held, 36), at(plain, 36)));
  expect([...held.points].every(Number.isFinite)).toBe(true);
});

it('a hand that is too far away slips off for good, and a coarse cloth is pulled as the whole one is', () => {
  const slips = simulateAll(character, shotOf(pull({ strength: 0.5, slip: 0.03 })));
  const holds = simulateAll(character, shotOf(pull({ strength: 0.5 })));
  expect(apart(at(slips, 36), at(plain, 36))).toBeLessThan(apart(at(holds, 36), at(plain, 36)));
  const shot = shotOf(pull());
  const rough = simulateAll(character, coarseShot(character, shot), { coarse: true });
  expect(apart(at(rough, 36), at(simulateAll(character, shot), 36))).toBeLessThan(0.06);
});

it('goes on from the frame on which another pull begins, to the same bits as from the start', () => {
  const cache: TrackCache = {};
  simulateAll(character, shotOf(pull()), cache);
  const more = pull({ id: 'two', first: 31, vertex: 40 });
  const resumed = simulateAll(character, shotOf(pull(), more), cache);
  const fresh = simulateAll(character, shotOf(pull(), more));
  expect([...resumed.points]).toEqual([...fresh.points]);
});

it('a hand that stays behind while she walks away stretches the cloth, and does not tear it to pieces', () => {
  const stays = pull({
    path: Array.from({ length: 18 }, () => [0, 0.3, -6] as [number, number, number]),
    reach: 0.15,
  });
  for (const strength of [6, 30]) {
    const held = simulateAll(character, shotOf({ ...stays, strength }));
    expect(apart(at(held, 40), at(plain, 40))).toBeGreaterThan(0.02);
    expect(Math.max(...held.tipOffSource)).toBeLessThan(1.5);
    expect(Math.max(...held.stretch)).toBeLessThan(0.3);
  }
});
