import { describe, expect, it } from 'vitest';
import { mulberry32, quatNormalise, quatRotate } from '../math/index';
import { chainNumbers, makeArena, type Arena } from './arena';
import { makeLinkTurns } from './turns';

const random = mulberry32(31);
const around = (size: number) => size * (2 * random() - 1);

/** A chain of random joints under a random (scaled) parent, its points anywhere. */
function scatter(arena: Arena | null, links: number, fill: () => number) {
  const points = arena ? arena.alloc(3 * links + 3) : new Float64Array(3 * links + 3);
  const made = makeLinkTurns(points, [0.1, 0.02, 0], arena);
  for (let k = 0; k < points.length; k++) points[k] = fill();
  for (let k = 0; k < 3 * links; k++) made.place[k] = fill();
  for (let k = 0; k < 3 * links; k++) made.scale[k] = 1 + 0.5 * fill();
  for (let k = 0; k < 4 * links; k++) made.turn[k] = fill();
  for (let j = 0; j < links; j++) quatNormalise(made.turn, 4 * j);
  for (let k = 0; k < 12; k++) made.world[k < 9 ? k + Math.floor(k / 3) : k + 3] = fill();
  made.world[15] = 1;
  return { points, made };
}

describe('turns of joints from simulated points', () => {
  it('have the bits of the reference when they are found by the compiled kernel', () => {
    for (let n = 0; n < 200; n++) {
      const links = 1 + Math.floor(random() * 9);
      const list = Array.from({ length: 400 }, () => around(1));
      const filler = () => {
        let at = 0;
        return () => list[at++]!;
      };
      const a = scatter(null, links, filler());
      const b = scatter(makeArena(chainNumbers(links)), links, filler());
      for (const stretch of [true, false])
        for (const key of ['turned', 'placed', 'world'] as const) {
          a.made.find(stretch);
          b.made.find(stretch);
          expect(b.made[key], key).toEqual(a.made[key]);
        }
    }
  });

  it('point every joint along its link, whatever stands above it', () => {
    const links = 5;
    const { points, made } = scatter(null, links, () => around(1));
    made.find(true);
    const way = new Float64Array(3);
    const end = new Float64Array(3);
    for (let j = 0; j < links; j++) {
      // The end of the link in its joint's space, taken to the world, lies where the simulated point does, in
      // direction.
      const m = made.world.subarray(16 * j + 16, 16 * j + 32);
      const e = made.place.subarray(3 * j + 3, 3 * j + 6);
      for (let a = 0; a < 3; a++) {
        end[a] = m[a]! * e[0]! + m[4 + a]! * e[1]! + m[8 + a]! * e[2]!;
        way[a] = points[3 * j + 3 + a]! - points[3 * j + a]!;
      }
      const dot = end[0]! * way[0]! + end[1]! * way[1]! + end[2]! * way[2]!;
      expect(dot / (Math.hypot(...end) * Math.hypot(...way))).toBeCloseTo(1, 9);
    }
  });

  it('are those of the source where the points are', () => {
    const { points, made } = scatter(null, 1, () => around(1));
    made.scale.fill(1);
    made.world.set([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]);
    const end = new Float64Array(3);
    quatRotate(end, 0, made.turn, 0, made.place, 3);
    for (let a = 0; a < 3; a++) points[3 + a] = points[a]! + end[a]!;
    made.find(false);
    made.turned.forEach((q, k) => expect(q).toBeCloseTo(made.turn[k]!, 12));
    expect(made.placed).toEqual(made.place.slice(0, 3));
  });
});
