import { expect, it } from 'vitest';
import { findPaths, makeSheet } from '../../sheets/index';
import { groupPaths, makeIn } from './setup';
import { threadFields } from './threads';

const N = 24;
const places = Float64Array.from({ length: 3 * N }, (_, k) =>
  k % 3 === 2 ? 0 : (k % 3 === 0 ? Math.cos : Math.sin)((2 * Math.PI * Math.floor(k / 3)) / N),
);
const ring = makeSheet(places, [], Array.from({ length: N }, (_, i) => [i, (i + 1) % N]).flat());
const straight = (stiffer: Float64Array | null, rigidity = 1e-6) =>
  threadFields(
    ring,
    groupPaths(findPaths(ring), N),
    { rigidity, stiffer, mass: new Float64Array(N).fill(1), perStep: 1 },
    makeIn(null),
  ).straight;

it('a closed row of lines is one ring that bends at each of its points, by the cube of what is painted', () => {
  const plain = straight(null);
  expect(plain.length).toBe(N);
  const half = straight(new Float64Array(N).fill(0.5));
  plain.forEach((k, i) => expect(half[i]!).toBeCloseTo(k / 8, 12));
  expect(Math.max(...straight(new Float64Array(N)))).toBe(0);
});

it('is bent back no harder than half of what inertia holds it by', () => {
  expect(Math.max(...straight(null, 1e6))).toBe(0.5);
});
