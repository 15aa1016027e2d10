import { describe, expect, it } from 'vitest';
import { readGltf } from '../formats/gltf/index';
import { rowOfJoints } from '../../test/maker';
import { rowLength } from './size';
import { unitFrom } from './unit';

const row = (link: number) => {
  const { m, joints } = rowOfJoints(5, link);
  m.skinned(joints);
  return readGltf(m.glb(), 'row.glb');
};

describe('the unit of a file', () => {
  it('is told by its size where the format does not say', () => {
    const tall = (units: number) => row(units / 4);
    expect(unitFrom('walk.BVH', tall(170))).toMatchObject({ metres: 0.01 });
    expect(unitFrom('walk.bvh', tall(1.7))).toMatchObject({ metres: 1 });
    expect(unitFrom('walk.bvh', tall(1700))).toMatchObject({ metres: 0.001 });
    expect(unitFrom('walk.bvh', tall(90_000)).why).toMatch(/may be in another unit/);
    expect(unitFrom('walk.glb', tall(170))).toMatchObject({ metres: 1 });
  });
});

it('one joint is as long as its end link', () => {
  const character = row(0.25);
  const last = character.joints.at(-1)!;
  expect(rowLength(character, [last])).toBeCloseTo(0.25, 6);
});
