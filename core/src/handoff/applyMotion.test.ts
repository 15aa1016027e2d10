import { describe, expect, it } from 'vitest';
import { demoFiles } from '../../../demo/src/index';
import { rootMatrix, type Character } from '../character/index';
import { readBvh, writeBvh } from '../formats/bvh/index';
import { openContainer, readContainer, readGltf } from '../formats/gltf/index';
import { motionOf, worldOf, type Motion } from '../formats/motion/index';
import { quatFromAxis, quatMultiply } from '../math/index';
import { applyMotion, compareMotions } from './index';

const [brindle] = await demoFiles();
const container = openContainer(brindle!.bytes, 'brindle.glb');
const character = readContainer(container, {}, { skeletonOnly: true });
const motionIn = (c: Character, clip: number) =>
  motionOf(c, clip, { fps: 30, first: 0, last: 96, root: rootMatrix(1, 'Y') });
const leap = motionIn(character, 2);
const played = (bytes: Uint8Array) => {
  const c = readGltf(bytes, 'a.glb');
  return motionIn(c, c.clips.length - 1);
};

describe('a motion applied to a character', () => {
  it('of its own skeleton is that motion, also by way of BVH, which has no turns at rest', () => {
    const direct = applyMotion(container, character, leap, 'Again');
    expect(direct.missed).toEqual([]);
    expect(compareMotions(leap, played(direct.bytes)).share).toBeLessThan(1e-5);
    const bvh = readBvh(writeBvh(leap).text, 'leap.bvh');
    const around = applyMotion(container, character, bvh, 'By BVH');
    expect(around.matched).toBe(80);
    expect(compareMotions(leap, played(around.bytes)).share).toBeLessThan(1e-4);
  });

  it('of a skeleton that rests otherwise and is twice as large points its bones the same way', () => {
    const wing = leap.joints.findIndex((j) => j.name === 'wing left');
    const turn = [0, 0, 0, 1];
    quatFromAxis(turn, 0, 0, 0, 1, 0.8);
    const other: Motion = {
      ...leap,
      t: leap.t.map((x) => 2 * x),
      joints: leap.joints.map((j, i) => {
        const r = [...j.r];
        if (i === wing) quatMultiply(r, 0, turn, 0, j.r, 0);
        return { ...j, r, t: j.t.map((x) => 2 * x) };
      }),
    };
    const back = played(applyMotion(container, character, other, 'Other').bytes);
    const directions = (m: Motion, f: number) => {
      const { places } = worldOf(m, f);
      return m.joints.flatMap(({ parent }, i) => {
        if (parent < 0) return [0, 0, 0];
        const way = [0, 1, 2].map((a) => places[3 * i + a]! - places[3 * parent + a]!);
        const l = Math.hypot(...way);
        return l > 1e-6 ? way.map((x) => x / l) : [0, 0, 0];
      });
    };
    for (const f of [0, 30, 60, 96]) {
      const [a, b] = [directions(leap, f), directions(back, f)];
      // The hips hang from the root by a place that moves, so their way is scaled with the figure.
      expect(Math.max(...a.map((x, k) => Math.abs(x - b[k]!)))).toBeLessThan(0.02);
    }
  });

  it('leaves out what has no like, and refuses a motion of somebody else entirely', () => {
    const some: Motion = {
      ...leap,
      joints: leap.joints.map((j, i) => (i === 5 ? { ...j, name: 'rudder' } : j)),
    };
    expect(applyMotion(container, character, some, 'Some').missed).toEqual(['rudder']);
    const none: Motion = { ...leap, joints: leap.joints.map((j, i) => ({ ...j, name: `x${i}` })) };
    expect(() => applyMotion(container, character, none, 'None')).toThrow('No joint of the motion');
  });
});
