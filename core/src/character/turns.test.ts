import { expect, test } from 'vitest';
import { rowOfJoints } from '../../test/maker';
import { readGltf } from '../formats/gltf/index';
import { quatFromAxis, quatMultiply } from '../math/index';
import { makePose, turnAbout } from './index';

/** A joint whose rest is a quarter turn about z, turned from it by so many degrees about an axis of its own. */
function turned(axis: number, degrees: number) {
  const { m } = rowOfJoints(2);
  m.json.nodes[1].rotation = [0, 0, Math.SQRT1_2, Math.SQRT1_2];
  const c = readGltf(m.glb(), 'row.glb');
  const pose = makePose(c);
  const q = new Float64Array(4);
  const unit = [0, 1, 2].map((a) => (a === axis ? 1 : 0));
  quatFromAxis(q, 0, unit[0]!, unit[1]!, unit[2]!, (degrees * Math.PI) / 180);
  quatMultiply(pose.r, 4, c.nodes[1]!.r, 0, q, 0);
  return { pose, rest: c.nodes[1]!.r };
}

test('a turn is read about the axis of the joint itself, whatever way it lies at rest', () => {
  for (const axis of [0, 1, 2])
    for (const degrees of [30, -75, 170, -170]) {
      const { pose, rest } = turned(axis, degrees);
      const read = [0, 1, 2].map((a) => turnAbout(pose, 1, rest, a));
      read.forEach((v, a) =>
        expect(v, `axis ${axis}, read about ${a}`).toBeCloseTo(a === axis ? degrees : 0, 9),
      );
    }
});

test('the same turn written with the opposite quaternion reads the same', () => {
  const { pose, rest } = turned(0, 40);
  for (let k = 4; k < 8; k++) pose.r[k] = -pose.r[k]!;
  expect(turnAbout(pose, 1, rest, 0)).toBeCloseTo(40, 9);
});
