import { expect, it } from 'vitest';
import { cubeRoot } from './root';

it('a cube root times itself twice is the number, and of a cube it is exact', () => {
  for (const x of [1e-30, 1e-3, 0.3, 1, 2, 27, 1234.5, 1e40])
    for (const s of [1, -1]) expect(cubeRoot(s * x) ** 3 / (s * x)).toBeCloseTo(1, 14);
  expect([0, 1, 8, -27, 1000].map(cubeRoot)).toEqual([0, 1, 2, -3, 10]);
  expect(cubeRoot(Infinity)).toBe(Infinity);
});
