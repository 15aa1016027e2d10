import { expect, it } from 'vitest';
import { boxMesh, ground, placesOn, softBodies } from '../../../test/parcel';
import { Collider } from '../../model/index';
import { simulateAll } from '../../simulate/index';

const still = () => [0, 1, 0] as const;
const framesOf = (...of: Parameters<typeof softBodies>) => {
  const { character, shot } = softBodies(...of);
  return simulateAll(character, shot);
};

it('meshes without a triangle, without an area, or with too many vertices are refused in a sentence', () => {
  const one = { places: [0, 0, 0], triangles: [0, 0, 0] };
  expect(() => framesOf({ a: one }, still, { a: {} })).toThrow(/a: a has no triangle with an area/);
  const line = { places: [0, 0, 0, 1, 0, 0, 2, 0, 0], triangles: [0, 1, 2] };
  expect(() => framesOf({ a: line }, still, { a: {} })).toThrow(/no triangle with an area/);
  // Six faces of 83 squares a side.
  expect(() =>
    framesOf({ a: boxMesh([1, 1, 1], 83) }, still, { a: {} }, undefined, { seconds: 0.2 }),
  ).toThrow(/a: a has 42336 vertices, more than the 40000/);
});

it('a figure whose scale is keyed to 0 and back leaves numbers, and its body comes back', () => {
  const size = (t: number) => (t > 0.5 && t < 0.8 ? 0 : 1);
  for (const hold of [2, 30]) {
    const frames = framesOf(
      { a: boxMesh([0.3, 0.3, 0.3], 2) },
      still,
      { a: { cells: 3, settings: { hold } } },
      undefined,
      {
        seconds: 4,
        size,
      },
    );
    expect(frames.points.every(Number.isFinite)).toBe(true);
    const wide = placesOn(frames, frames.count - 1).filter((_, k) => k % 3 === 0);
    expect(Math.max(...wide) - Math.min(...wide)).toBeCloseTo(0.3, 1);
  }
});

it('a heavy ball at 14 m/s does not come out on the other side of a body that is held', () => {
  const frames = framesOf(
    { a: boxMesh([0.4, 0.4, 0.4], 3) },
    still,
    { a: { cells: 5, settings: { hold: 8, droop: 2 } } },
    (d) => {
      d.gravity = [0, 0, 0];
      d.colliders.ball = Collider.parse({
        ...{ id: 'ball', name: 'Ball', shape: { kind: 'sphere', radius: 0.12 }, t: [-2, 1, 0] },
        free: { mass: 1, velocity: [14, 0, 0] },
      });
    },
  );
  expect(frames.points.every(Number.isFinite)).toBe(true);
  const x = Array.from({ length: frames.count }, (_, f) => frames.placements[7 * f]!);
  expect(Math.max(...x)).toBeLessThan(0.2);
  expect(x.at(-1)).toBeLessThan(-0.3);
});

it('any stuff on the ground leaves numbers: soft as water, hard as wood, swelling and crushed', () => {
  const settings = [
    { droop: 60, volume: 0, damping: 0 },
    { droop: 0.01, volume: 100, damping: 4 },
    { droop: 20, volume: 100, density: 20, swell: 20 },
    { droop: 5, density: 0.001, gravity: -4, friction: 4 },
    { droop: 3, thickness: 0.2 },
  ];
  for (const own of settings) {
    const frames = framesOf(
      { a: boxMesh([0.3, 0.3, 0.3], 1) },
      () => [0, 0.3, 0],
      { a: { cells: 3, settings: { hold: 0, ...own } } },
      (d) => void (d.colliders.ground = ground()),
    );
    expect(frames.points.every((p) => Math.abs(p) < 500)).toBe(true);
  }
});
