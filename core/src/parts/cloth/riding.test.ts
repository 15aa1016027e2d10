import { expect, it } from 'vitest';
import { character, clipNamed, ponchoShot } from '../../../test/poncho';
import { simulateAll } from '../../simulate/index';
import type { ClothSettings } from './settings';

/** How far the poncho strays on each of 12 frames of a clip. */
function strays(clip: string, settings: Partial<ClothSettings>, first = 4): Float32Array {
  const shot = ponchoShot((p) => void Object.assign(p.settings, settings), {
    ...{ clip: clipNamed(clip), range: { first, last: first + 11 }, start: 'wait', preRollSeconds: 0 },
  });
  return simulateAll(character, shot).tipOffSource;
}
const apart = (a: Float32Array, b: Float32Array) => Math.max(...a.map((x, f) => Math.abs(x - b[f]!)));

it('a cloth that feels no travel moves alike on the spot and on the way; one that feels it is left behind', () => {
  const still = { travel: 0, drag: 0, lift: 0 };
  expect(apart(strays('Stride', still), strays('Stride away', still))).toBeLessThan(1e-6);
  const felt = { travel: 100 };
  expect(apart(strays('Stride', felt), strays('Stride away', felt))).toBeGreaterThan(0.01);
});

it('turn response changes how a turning body swings it, and 100 of both is the world', () => {
  const plain = strays('Leap', {}, 20);
  expect([...strays('Leap', { travel: 100, turn: 100 }, 20)]).toEqual([...plain]);
  const calm = strays('Leap', { travel: 0, turn: 0 }, 20);
  expect([...calm].every(Number.isFinite)).toBe(true);
  expect(apart(calm, plain)).toBeGreaterThan(1e-3);
});
