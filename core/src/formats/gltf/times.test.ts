import { describe, expect, it } from 'vitest';
import { rowOfJoints, tilt } from '../../../test/maker';

import { openContainer, readGltf, readMotion, toGlb, writeGlb } from './index';

const turns = (n: number) => Array.from({ length: n }, (_, k) => tilt(0.2 * k)).flat();

/** A row of joints whose second turns at these times. */
function turning(times: readonly number[], name = 'turns') {
  const { m, joints } = rowOfJoints();
  m.skinned(joints);
  const channel = { node: joints[1]!, path: 'rotation' as const, input: m.times(times) };
  m.clip(name, [{ ...channel, output: m.accessor(turns(times.length), 'VEC4') }]);
  return { bytes: m.glb(), joints };
}

describe('key times', () => {
  it('beyond what a clip can last are said, with the place, before anything is made of them', () => {
    for (const wild of [1e30, 1e6])
      expect(() => readGltf(turning([0, wild]).bytes, 'wild.glb')).toThrow(
        /wild\.glb: has a key at .*; a clip may be 10 hours long/,
      );
  });
  it('two at one time are told apart in what is written beside a bake, with the same motion', () => {
    const { bytes, joints } = turning([0, 1, 1, 2]);
    const container = openContainer(bytes, 'jump.glb');
    const written = toGlb(
      openContainer(
        writeGlb(container, {
          ...{ name: 'baked', source: 0, replace: false, shift: 0, extras: {} },
          channels: [
            {
              ...{ node: joints[2]!, path: 'rotation', interpolation: 'LINEAR' },
              times: Float64Array.from([0, 2]),
              values: Float64Array.from([...tilt(0), ...tilt(0.5)]),
            },
          ],
        }),
        'jump.glb',
      ),
    );
    const { clips } = readGltf(written, 'jump.glb');
    const carried = clips[1]!.channels.find((c) => c.node === joints[1])!;
    const { times } = carried;
    for (let k = 1; k < times.length; k++) expect(times[k]).toBeGreaterThan(times[k - 1]!);
    expect(times[1]).toBeCloseTo(1, 5);
    expect(carried.values).toEqual(clips[0]!.channels[0]!.values);
  });
  it('of a BVH file are bounded too', () => {
    const bvh = (frame: string) =>
      new TextEncoder().encode(
        [
          ...['HIERARCHY', 'ROOT a', '{', 'OFFSET 0 0 0', 'CHANNELS 3 Zrotation Xrotation Yrotation'],
          ...['End Site', '{', 'OFFSET 0 1 0', '}', '}'],
          ...['MOTION', 'Frames: 1', `Frame Time: ${frame}`, '0 0 0', ''],
        ].join('\n'),
      );
    for (const frame of ['100', '0', '-1', '0.00001'])
      expect(() => readMotion(bvh(frame), 'a.bvh'), frame).toThrow(/a\.bvh.* says a frame takes/);
    expect(readMotion(bvh('0.0333333'), 'a.bvh')!.fps).toBe(30);
  });
});

it('names of joints and clips are shown without control and direction marks', () => {
  const { m, joints } = rowOfJoints();
  m.skinned(joints);
  (m.json.nodes as { name: string }[])[joints[1]!]!.name = 'tail\u0007\u202e two\n';
  m.clip('turn\u0000ing', [
    { node: joints[1]!, path: 'rotation', input: m.times([0, 1]), output: m.accessor(turns(2), 'VEC4') },
  ]);
  const c = readGltf(m.glb(), 'marks.glb');
  expect(c.nodes[joints[1]!]!.name).toBe('tail two');
  expect(c.clips[0]!.name).toBe('turning');
});
