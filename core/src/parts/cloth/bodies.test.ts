import { describe, expect, it } from 'vitest';
import { boxMesh, placesOn, softBodies } from '../../../test/parcel';
import { nodeNamed } from '../../../test/figure';
import { simulateAll } from '../../simulate/index';
import { makeClothPart } from './shared';

const TOP = 0.15;

/** A flat felt that lies 2 cm over a soft block, so many kg/m²; `across` is gravity along x, m/s². */
function felt(weight: number, touches: boolean, { across = 0, hold = 6, friction = 0.8, size = 0.5 } = {}) {
  const n = 16;
  const places: number[] = [];
  const triangles: number[] = [];
  for (let j = 0; j <= n; j++)
    for (let i = 0; i <= n; i++) places.push(size * (i / n - 0.5), TOP + 0.02, size * (j / n - 0.5));
  for (let j = 0; j < n; j++)
    for (let i = 0; i < n; i++) {
      const q = j * (n + 1) + i;
      triangles.push(q, q + n + 1, q + n + 2, q, q + n + 2, q + 1);
    }
  const { character, shot } = softBodies(
    { block: boxMesh([0.3, 0.3, 0.3], 3), felt: { places, triangles } },
    () => [0, 0, 0],
    {
      block: {
        cells: 4,
        order: 1,
        settings: { hold, holdDamping: 0.7, droop: 8, gravity: 0, density: 0.2 },
      },
    },
    (d) => {
      const cloth = makeClothPart({
        ...{ id: 'felt', name: 'Felt', order: 0, mesh: { node: 2, name: 'felt' }, holds: [] },
        collidesWith: { colliders: [], parts: touches ? ['block'] : [] },
      });
      Object.assign(cloth.settings, { hold: 0, weight, thickness: 0.006, friction, drag: 0, lift: 0 });
      d.parts.felt = cloth;
      if (across > 0) d.gravity = [across, -9.81, 0];
    },
    { seconds: 1.5 },
  );
  expect(nodeNamed(character, 'felt').node).toBe(2);
  const frames = simulateAll(character, shot);
  const part = (id: string) => frames.parts.findIndex((p) => p.partId === id);
  const last = frames.count - 1;
  return {
    ...{ frames, felt: placesOn(frames, last, part('felt')), block: placesOn(frames, last, part('block')) },
    contacts: frames.contacts[last * frames.parts.length + part('felt')]!,
  };
}
const height = (places: Float64Array) => Math.max(...places.filter((_, o) => o % 3 === 1));

describe('a cloth and a soft body', () => {
  it('the cloth falls past a body that it does not mind, and lies on one that it does', () => {
    expect(height(felt(0.4, false).felt)).toBeLessThan(-1);
    const lies = felt(0.4, true);
    expect(lies.contacts).toBeGreaterThan(30);
    const middle = lies.felt.subarray(3 * (8 * 17 + 8), 3 * (8 * 17 + 8) + 3);
    expect(middle[1]! - height(lies.block)).toBeGreaterThan(0);
    expect(middle[1]! - height(lies.block)).toBeLessThan(0.03);
  });

  const block = { weight: 0.2 * 1000 * 0.3 ** 3, rate: (hz: number) => (2 * Math.PI * hz) ** 2 };
  const middle = (x: Float64Array, axis: number) =>
    x.reduce((sum, p, o) => (o % 3 === axis ? sum + p : sum), 0) / (x.length / 3);

  it('presses the body down by its weight', () => {
    const low = (weight: number) => -middle(felt(weight, true, { size: 0.24 }).block, 1);
    for (const weight of [2, 8]) {
      const expected = (weight * 0.24 ** 2 * 9.81) / (block.weight * block.rate(6));
      expect(Math.abs(low(weight) - expected)).toBeLessThan(0.15 * expected);
    }
  });

  it('does not throw the body, however heavy it is and however it hangs over its edges', () => {
    for (const weight of [8, 30]) {
      const { frames, block } = felt(weight, true);
      expect(frames.points.every(Number.isFinite)).toBe(true);
      for (const x of block) expect(Math.abs(x)).toBeLessThan(TOP + 0.012);
    }
  });

  it('what friction holds the cloth back by, the body feels: it is drawn along by as much', () => {
    const across = (weight: number, friction: number) =>
      middle(felt(weight, true, { across: 1.5, hold: 2, friction, size: 0.24 }).block, 0);
    expect(Math.abs(across(4, 0))).toBeLessThan(1e-6);
    for (const weight of [1, 4, 30]) {
      const expected = (weight * 0.24 ** 2 * 1.5) / (block.weight * block.rate(2));
      // The skin goes a little farther than the middle of the mass.
      expect(Math.abs(across(weight, 0.8) - expected)).toBeLessThan(0.12 * expected);
    }
  });
});
