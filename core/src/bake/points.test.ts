import { describe, expect, it } from 'vitest';
import { rowOfJoints, tilt } from '../../test/maker';
import { makePose, samplePose, type Character } from '../character/index';
import { openContainer, readGltf, writeGlb } from '../formats/gltf/index';
import { emptyFrames, layoutOf, type Frames } from '../frames/index';
import { makeChainPart } from '../parts/chain/shared';
import { editShot, makeShot } from '../shot/index';
import { simulateAll } from '../simulate/index';
import { bakeClip } from './bake';
import { defaultBake } from './options';

/** Four joints with a skinned mesh of three vertices; a chain of the last two. */
const { m, joints } = rowOfJoints();
m.skinned(joints);
m.clip('turn', [
  {
    ...{ node: joints[0]!, path: 'rotation', input: m.times([0, 1]) },
    output: m.accessor([...tilt(0), ...tilt(0.5)], 'VEC4'),
  },
]);
const bytes = m.glb();
const character: Character = readGltf(bytes, 'sheet.glb');
const MESH = 4;
const shot = editShot(
  makeShot({
    ...{ name: 'Sheet', hash: 'a'.repeat(64), fileName: 'sheet.glb' },
    clip: { index: 0, name: 'turn', duration: 1 },
  }),
  'edit-00001',
  'Add',
  (d) => {
    const row = [2, 3].map((node) => ({ node, name: character.nodes[node]!.name }));
    d.parts.row = makeChainPart({ id: 'row', name: 'Row', joints: row });
  },
).shot;

/** The simulated frames, with the vertices of the mesh as if the part moved them too: vertex v at (f, v, 0.5 f). */
function withPoints(): Frames {
  const simulated = simulateAll(character, shot);
  const layout = layoutOf(simulated);
  const parts = layout.parts.map((p) => ({ ...p, points: { from: 0, length: 3 } }));
  const frames = emptyFrames({ ...layout, pointed: [{ node: MESH, vertices: 3 }], parts }, simulated);
  for (let f = 0; f < frames.count; f++)
    for (let v = 0; v < 3; v++) frames.points.set([f, v, 0.5 * f], 3 * (3 * f + v));
  frames.done = frames.count;
  return frames;
}

describe('vertices that are moved one by one', () => {
  const frames = withPoints();
  const { clip } = bakeClip(character, shot, frames, defaultBake(shot));
  const points = clip.channels.find((c) => c.path === 'points')!;

  it('are baked as one key a frame, all vertices of a mesh in it, beside the joints', () => {
    expect(points.node).toBe(MESH);
    expect(points.times.length).toBe(frames.count);
    expect([...points.values.subarray(9 * 5, 9 * 6)]).toEqual([5, 0, 2.5, 5, 1, 2.5, 5, 2, 2.5]);
    expect(clip.channels.some((c) => c.path === 'rotation' && c.node === 3)).toBe(true);
  });

  it('stay on every frame when the joints are thinned', () => {
    const thin = { kind: 'linear' as const, degrees: 5, millimetres: 50 };
    const thinned = bakeClip(character, shot, frames, { ...defaultBake(shot), thin });
    const rotation = thinned.clip.channels.find((c) => c.path === 'rotation' && c.node === 3)!;
    expect(rotation.times.length).toBeLessThan(frames.count);
    expect(thinned.clip.channels.find((c) => c.path === 'points')!.times.length).toBe(frames.count);
  });

  it('are left out when their part or their mesh is', () => {
    const none = bakeClip(character, shot, frames, { ...defaultBake(shot), joints: [3] });
    expect(none.clip.channels.some((c) => c.path === 'points')).toBe(false);
  });

  it('stand in a pose where the clip has them, straight from key to key, and in no other', () => {
    const pose = makePose(character);
    expect(pose.points.size).toBe(0);
    const baked = { name: 'baked', duration: 1, over: null, channels: clip.channels };
    samplePose(character, baked, 5.5 / shot.fps, pose);
    expect([...pose.points.get(MESH)!].map((x) => Number(x.toFixed(6)))).toEqual([
      ...[5.5, 0, 2.75, 5.5, 1, 2.75, 5.5, 2, 2.75],
    ]);
    samplePose(character, character.clips[0]!, 0.5, pose);
    expect(pose.points.size).toBe(0);
  });

  it('are refused by glTF in a sentence that says what to do, not written wrong', () => {
    const container = openContainer(bytes, 'sheet.glb');
    expect(() => writeGlb(container, clip)).toThrow(/no keys for the vertices of/);
    const others = { ...clip, channels: clip.channels.filter((c) => c.path !== 'points') };
    expect(readGltf(writeGlb(container, others), 'baked.glb').clips.length).toBe(2);
  });
});
