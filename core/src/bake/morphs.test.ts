import { describe, expect, it } from 'vitest';
import { rowOfJoints, tilt } from '../../test/maker';
import { bake } from '../../test/bakes';
import { makePose, samplePose } from '../character/index';
import { readGltf } from '../formats/gltf/index';
import { makeChainPart } from '../parts/chain/shared';
import { makePendulumPart, type PendulumPart } from '../parts/pendulum/document';
import { editShot, makeShot, type Shot } from '../shot/index';
import { simulateAll } from '../simulate/index';

/** Four joints with a mesh of two morph targets, both keyed over two seconds, the second joint turned. */
function swelling() {
  const { m, joints } = rowOfJoints();
  m.skinned(joints);
  const target = () => ({
    POSITION: m.accessor([0, 0, 1, 0, 0, 1, 0, 0, 1], 'VEC3', 5126, { min: [0, 0, 1], max: [0, 0, 1] }),
  });
  m.json.meshes[0].primitives[0].targets = [target(), target()];
  m.clip('swell', [
    {
      ...{ node: 4, path: 'weights', input: m.times([0, 1, 2]) },
      output: m.accessor([0, 0.5, 1, 0.25, 0, 0.5], 'SCALAR'),
    },
    {
      ...{ node: joints[1]!, path: 'rotation', input: m.times([0, 1, 2]) },
      output: m.accessor([...tilt(0), ...tilt(0.6), ...tilt(0)], 'VEC4'),
    },
  ]);
  return m.glb();
}
const bytes = swelling();
const character = readGltf(bytes, 'swell.glb');
const MESH = 4;

function shotWith(part: Shot['parts'][string]): Shot {
  const clip = character.clips[0]!;
  const base = makeShot({
    ...{ name: 'Swell', hash: 'a'.repeat(64), fileName: 'swell.glb' },
    clip: { index: 0, name: clip.name, duration: clip.duration },
  });
  return editShot(base, 'edit-00001', 'Add', (d) => void (d.parts[part.id] = part)).shot;
}
/** The weights of a clip, by frame. */
function weightsOf(file: Uint8Array<ArrayBuffer>, clip: number, shot: Shot): number[][] {
  const c = readGltf(file, 'baked.glb');
  const pose = makePose(c);
  return Array.from({ length: shot.range.last + 1 }, (_, f) => {
    samplePose(c, c.clips[clip]!, Math.fround(f / shot.fps), pose);
    return [...pose.morphs.get(MESH)!];
  });
}
const expectSame = (a: readonly number[][], b: readonly number[][]) =>
  a.forEach((w, f) => w.forEach((x, k) => expect(x, `frame ${f}, weight ${k}`).toBeCloseTo(b[f]![k]!, 5)));
const joint = (node: number) => ({ node, name: `joint ${node + 1}` });
const pendulum = (more: Pick<PendulumPart, 'input'> & { outputs: PendulumPart['outputs'] }) =>
  makePendulumPart({ id: 'swell', name: 'Swell', noOvershoot: true, ...more });
const drives = (target: PendulumPart['outputs'][number]['target'], gain: number) => ({
  ...{ id: 'out', target, pendulum: 1 as const, delay: 0, gain, offset: 0, low: null, high: null },
  order: 'on top' as const,
});
const morph = (target: number) => ({ node: MESH, name: character.nodes[MESH]!.name, target });

describe('morph weights', () => {
  it('of a source clip survive a bake of something else', () => {
    const shot = shotWith(
      makeChainPart({ id: 'chain', name: 'Row', joints: [1, 2, 3].map(joint) }) as Shot['parts'][string],
    );
    const source = weightsOf(bytes, 0, shot);
    expect(source[15]).toEqual([0.5, 0.375]);
    expectSame(weightsOf(bake(bytes, 'swell.glb', shot), 1, shot), source);
  });

  it('are driven on top of their keys; the other weight of the mesh keeps its own; the bake is what was shown', () => {
    const shot = shotWith(
      pendulum({
        input: { from: 'turn', joint: joint(1), axis: 'z' },
        outputs: [drives({ does: 'morph', morph: morph(1) }, 0.01)],
      }),
    );
    const frames = simulateAll(character, shot);
    const column = (t: number) => frames.morphs.findIndex((m) => m.node === MESH && m.target === t);
    const source = weightsOf(bytes, 0, shot);
    const shown = source.map((_, f) =>
      [0, 1].map((t) => frames.weights[(f - frames.first) * frames.morphs.length + column(t)]!),
    );
    const answer = frames.readoutNames.indexOf('out');
    const added = source.map((_, f) => frames.readouts[f * frames.readoutNames.length + answer]!);
    expect(Math.max(...added.map(Math.abs))).toBeGreaterThan(0.1);
    expectSame(
      shown,
      source.map(([a, b], f) => [a!, b! + added[f]!]),
    );
    expectSame(weightsOf(bake(bytes, 'swell.glb', shot), 1, shot), shown);
  });

  it('can be followed: a joint turns later than the shape swells', () => {
    const shot = shotWith(
      pendulum({
        input: { from: 'morph', morph: morph(0) },
        outputs: [drives({ does: 'turn', joint: joint(2), axis: 'x' }, 10)],
      }),
    );
    const frames = simulateAll(character, shot);
    const names = frames.readoutNames;
    const row = Array.from(
      { length: frames.count },
      (_, f) => frames.readouts[f * names.length + names.indexOf('out')]!,
    );
    const top = row.indexOf(Math.max(...row));
    // The weight is 1 on frame 30, and 0 at both ends.
    expect(top).toBeGreaterThan(30);
    expect(row[top]!).toBeGreaterThan(3);
    expect(row[top]!).toBeLessThanOrEqual(10);
  });
});
