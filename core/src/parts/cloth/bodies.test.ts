import { describe, expect, it } from 'vitest';
import { boxMesh, placesOn, softBodies } from '../../../test/parcel';
import { nodeNamed } from '../../../test/figure';
import { simulateAll } from '../../simulate/index';
import { makeClothPart } from './shared';

const TOP = 0.15;

/** A flat felt of half a metre that lies 2 cm over a soft block, so many kg/m². */
function felt(weight: number, touches: boolean) {
  const n = 16;
  const places: number[] = [];
  const triangles: number[] = [];
  for (let j = 0; j <= n; j++)
    for (let i = 0; i <= n; i++) places.push(0.5 * (i / n - 0.5), TOP + 0.02, 0.5 * (j / n - 0.5));
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
        settings: { hold: 6, holdDamping: 0.7, droop: 8, gravity: 0, density: 0.2 },
      },
    },
    (d) => {
      const cloth = makeClothPart({
        ...{ id: 'felt', name: 'Felt', order: 0, mesh: { node: 2, name: 'felt' }, holds: [] },
        collidesWith: { colliders: [], parts: touches ? ['block'] : [] },
      });
      Object.assign(cloth.settings, { hold: 0, weight, thickness: 0.006, friction: 0.8, drag: 0, lift: 0 });
      d.parts.felt = cloth;
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

  it('a heavy cloth presses the body down, a light one hardly', () => {
    const [light, heavy] = [felt(0.05, true), felt(8, true)];
    const low = (x: Float64Array) => Math.min(...x.filter((_, o) => o % 3 === 1));
    expect(height(light.block)).toBeGreaterThan(TOP - 0.002);
    // 2 kg on 5.4 kg that are held at 6 Hz, beside what they are pressed together by.
    expect(low(heavy.block)).toBeLessThan(-TOP - 0.001);
    expect(height(heavy.block)).toBeLessThan(TOP - 0.002);
    expect(heavy.frames.points.every(Number.isFinite)).toBe(true);
  });
});
