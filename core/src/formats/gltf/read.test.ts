import { beforeAll, describe, expect, it } from 'vitest';
import { createDecoderModule, createEncoderModule } from 'draco3dgltf';
import { Document, NodeIO } from '@gltf-transform/core';
import {
  EXTMeshoptCompression,
  KHRDracoMeshCompression,
  KHRMeshQuantization,
} from '@gltf-transform/extensions';
import { meshopt, quantize } from '@gltf-transform/functions';
import { zipSync } from 'fflate';
import { MeshoptEncoder } from 'meshoptimizer';
import { brindleGlb } from '../../../../demo/src/index';
import { Maker, rowOfJoints, tilt } from '../../../test/maker';
import { Player } from '../../../test/player';
import {
  makePose,
  rigSize,
  rootMatrix,
  samplePose,
  worldMatrices,
  type Character,
} from '../../character/index';
import { loadMeshopt, readGltf, type Decoders, type DracoModule } from './index';

let decoders: Decoders;
beforeAll(async () => {
  decoders = { meshopt: await loadMeshopt(), draco: (await createDecoderModule()) as DracoModule };
});

function places(c: Character, clip: number | null, time: number, nodes: readonly number[]): number[] {
  const pose = makePose(c);
  const world = new Float64Array(16 * c.nodes.length);
  samplePose(c, clip === null ? null : c.clips[clip]!, time, pose);
  worldMatrices(c, pose, rootMatrix(1, 'Y'), world);
  return nodes.flatMap((n) => [12, 13, 14].map((k) => world[16 * n + k]!));
}

/** Joint places at many times agree with three's mixer within 1e-4 of the rig's size. */
async function agrees(bytes: Uint8Array<ArrayBuffer>): Promise<Character> {
  const c = readGltf(bytes, 'test.glb', decoders);
  const player = await Player.open(bytes);
  const nodes = [...c.joints];
  const size = rigSize(c);
  const check = (clip: number | null, time: number) => {
    const ours = places(c, clip, time, nodes);
    const theirs = player.places(clip, time, nodes);
    ours.forEach((x, i) =>
      expect(
        Math.abs(x - theirs[i]!) / size,
        `clip ${clip} at ${time} s, node ${nodes[Math.floor(i / 3)]}`,
      ).toBeLessThan(1e-4),
    );
  };
  check(null, 0);
  c.clips.forEach((clip, k) => {
    if (clip.duration > 0) for (let i = 0; i <= 12; i++) check(k, (clip.duration * i) / 12.0001);
  });
  return c;
}

const turns = (n: number, sign = 1) =>
  Array.from({ length: n }, (_, i) => tilt(sign * (0.3 + i * 0.7))).flat();

/** A row with rotation keys of one interpolation on joint 2 and translation keys on joint 1. */
function keyed(interpolation: string): Maker {
  const { m, joints } = rowOfJoints();
  m.skinned(joints);
  const input = m.times([0, 0.4, 1, 1.7]);
  const cubic = interpolation === 'CUBICSPLINE';
  const rotation = cubic
    ? Array.from({ length: 4 }, (_, i) => [0.1, -0.2, 0.3, 0.1, ...tilt(i * 0.7), -0.1, 0.2, 0.4, 0]).flat()
    : turns(4);
  const translation = cubic
    ? Array.from({ length: 4 }, (_, i) => [1, 0, 2, i * 0.2, 0, i, 0, 1, -1]).flat()
    : [0, 0, 0, 1, 2, 3, -1, 0, 0.5, 0, 0, 2];
  m.clip('keys', [
    { node: joints[1]!, path: 'rotation', input, output: m.accessor(rotation, 'VEC4'), interpolation },
    { node: joints[0]!, path: 'translation', input, output: m.accessor(translation, 'VEC3'), interpolation },
  ]);
  return m;
}

describe('joints agree with an independent player', () => {
  it.each(['LINEAR', 'STEP', 'CUBICSPLINE'])('%s keys', async (interpolation) => {
    await agrees(keyed(interpolation).glb());
  });
  it('the demo bird in all its clips', async () => {
    const c = await agrees(await brindleGlb());
    expect(c.clips.map((k) => k.name)).toEqual(['Stride', 'Stride away', 'Leap', 'Lookout']);
  });
  it('rotations as normalised 16-bit and 8-bit integers', async () => {
    // Eight bits hold half turns exactly; in between, three plays quaternions that are not unit, so they are not
    // compared.
    const halves = [0, 0, 0, 1, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0];
    for (const [component, scale, quats] of [
      [5122, 32767, turns(4)],
      [5120, 127, halves],
    ] as const) {
      const { m, joints } = rowOfJoints();
      m.skinned(joints);
      const values = quats.map((x) => Math.round(x * scale));
      m.clip('keys', [
        {
          node: joints[1]!,
          path: 'rotation',
          input: m.times([0, 1, 2, 3]),
          output: m.accessor(values, 'VEC4', component, { normalized: true }),
        },
      ]);
      await agrees(m.glb());
    }
  });
  it('sparse accessors, with and without a base', async () => {
    for (const withBase of [true, false]) {
      const { m, joints } = rowOfJoints();
      m.skinned(joints);
      const output = withBase
        ? m.accessor(Array(12).fill(0.5), 'VEC3')
        : m.json.accessors.push({ componentType: 5126, count: 4, type: 'VEC3' }) - 1;
      m.json.accessors[output].sparse = {
        count: 2,
        indices: { bufferView: m.view(Uint16Array.from([1, 3])), componentType: 5123 },
        values: { bufferView: m.view(Float32Array.from([1, 2, 3, -1, -2, -3])) },
      };
      m.clip('keys', [{ node: joints[0]!, path: 'translation', input: m.times([0, 1, 2, 3]), output }]);
      const c = await agrees(m.glb());
      expect([...c.clips[0]!.channels[0]!.values.slice(3, 6)]).toEqual([1, 2, 3]);
    }
  });
  it('interleaved vertex data with a stride', () => {
    const { m, joints } = rowOfJoints();
    m.skinned(joints);
    const data = Float32Array.from([1, 2, 3, 9, 9, 4, 5, 6, 9, 9, 7, 8, 9, 9, 9]);
    m.json.accessors[m.json.meshes[0].primitives[0].attributes.POSITION] = {
      bufferView: m.view(data, { byteStride: 20 }),
      componentType: 5126,
      count: 3,
      type: 'VEC3',
      min: [1, 2, 3],
      max: [7, 8, 9],
    };
    expect([...readGltf(m.glb(), 'a.glb').meshes[0]!.primitives[0]!.positions]).toEqual([
      1, 2, 3, 4, 5, 6, 7, 8, 9,
    ]);
  });
  it('several skins, a skin shared by several meshes, and missing inverse bind matrices', async () => {
    const { m, joints } = rowOfJoints();
    m.skinned(joints);
    m.skinned(joints.slice(1), { inverseBind: false });
    m.node({ mesh: 0, skin: 0 });
    const c = await agrees(m.glb());
    expect(c.skins).toHaveLength(2);
    expect(c.joints).toHaveLength(4);
    expect(c.notes.some((n) => /without inverse bind/.test(n.text))).toBe(true);
    expect([...c.skins[1]!.inverseBind.slice(0, 5)]).toEqual([1, 0, 0, 0, 0]);
  });
  it('unnamed and same-named nodes', async () => {
    const m = keyed('LINEAR');
    delete m.json.nodes[1].name;
    m.json.nodes[2].name = m.json.nodes[3].name = 'twin';
    const c = await agrees(m.glb());
    expect(c.nodes[1]!.name).toBe('node 1');
    expect(c.notes.some((n) => /more than once/.test(n.text))).toBe(true);
  });
  it('uneven scale above joints and matrix nodes', async () => {
    const m = new Maker();
    const top = m.node({ name: 'top', matrix: [0, 2, 0, 0, -2, 0, 0, 0, 0, 0, 2, 0, 1, 2, 3, 1] });
    const squash = m.node({ name: 'squash', scale: [1, 3, 0.5] }, top);
    const a = m.node({ name: 'a', rotation: tilt(0.6) }, squash);
    const b = m.node({ name: 'b', translation: [0, 1, 0] }, a);
    const c = m.node({ name: 'c', translation: [0, 1, 0.2] }, b);
    m.skinned([a, b, c]);
    m.clip('keys', [
      { node: b, path: 'rotation', input: m.times([0, 1, 2]), output: m.accessor(turns(3), 'VEC4') },
    ]);
    await agrees(m.glb());
  });
  it('keys that repeat a time, and a clip of no length', async () => {
    const { m, joints } = rowOfJoints();
    m.skinned(joints);
    m.clip('jump', [
      {
        node: joints[1]!,
        path: 'rotation',
        input: m.times([0, 1, 1, 2]),
        output: m.accessor(turns(4), 'VEC4'),
      },
    ]);
    m.clip('still', [
      { node: joints[1]!, path: 'rotation', input: m.times([0]), output: m.accessor(tilt(1), 'VEC4') },
    ]);
    const c = readGltf(m.glb(), 'a.glb');
    expect(c.clips[1]!.duration).toBe(0);
    expect(c.notes.filter((n) => /two keys at one time|no length/.test(n.text))).toHaveLength(2);
    // At the repeated time the later key counts; just before, the earlier is still approached.
    const at = (t: number) => places(c, 0, t, [joints[2]!]);
    expect(at(1)[0]).not.toBeCloseTo(at(1 - 1e-9)[0]!, 3);
    expect(at(1)).toEqual(places(c, 0, 1 + 1e-12, [joints[2]!]).map((x) => expect.closeTo(x, 6)));
  });
  it('a rig of 7 000 units', async () => {
    const { m, joints } = rowOfJoints(4, 7000 / 3);
    m.skinned(joints);
    m.clip('keys', [
      {
        node: joints[1]!,
        path: 'rotation',
        input: m.times([0, 1, 2, 3]),
        output: m.accessor(turns(4), 'VEC4'),
      },
    ]);
    expect(rigSize(await agrees(m.glb()))).toBeCloseTo(7000, 0);
  });
  it('no skin at all, and no clip at all', async () => {
    const { m } = rowOfJoints();
    const c = await agrees(m.glb());
    expect(c.joints).toHaveLength(4);
    expect(c.clips).toHaveLength(0);
    expect(c.notes.map((n) => n.text).join()).toMatch(/No skin.*No clips/);
  });
  it('meshopt and quantised files, decoded', async () => {
    await MeshoptEncoder.ready;
    const io = new NodeIO()
      .registerExtensions([EXTMeshoptCompression, KHRMeshQuantization])
      .registerDependencies({ 'meshopt.encoder': MeshoptEncoder });
    const plain = readGltf(await brindleGlb(), 'a.glb');
    for (const pass of [quantize(), meshopt({ encoder: MeshoptEncoder })]) {
      const doc: Document = await new NodeIO().readBinary(await brindleGlb());
      await doc.transform(pass);
      const bytes = (await io.writeBinary(doc)) as Uint8Array<ArrayBuffer>;
      const c = readGltf(bytes, 'packed.glb', decoders);
      expect(c.joints).toHaveLength(plain.joints.length);
      const size = rigSize(plain);
      const nodes = [...plain.joints];
      const by = (k: Character) =>
        nodes.map((n) => k.nodes.findIndex((x) => x.name === plain.nodes[n]!.name));
      for (let i = 0; i <= 6; i++) {
        const a = places(plain, 1, i * 0.5, nodes);
        const b = places(c, 1, i * 0.5, by(c));
        a.forEach((x, k) => expect(Math.abs(x - b[k]!) / size).toBeLessThan(2e-3));
      }
    }
  });
  it('Draco meshes, decoded to the same triangles within its quantisation', async () => {
    const doc = await new NodeIO().readBinary(await brindleGlb());
    doc.createExtension(KHRDracoMeshCompression).setRequired(true);
    const io = new NodeIO()
      .registerExtensions([KHRDracoMeshCompression])
      .registerDependencies({ 'draco3d.encoder': await createEncoderModule() });
    const bytes = (await io.writeBinary(doc)) as Uint8Array<ArrayBuffer>;
    const plain = readGltf(await brindleGlb(), 'a.glb');
    const c = readGltf(bytes, 'packed.glb', decoders);
    c.meshes.forEach((mesh, i) => {
      const a = mesh.primitives[0]!,
        b = plain.meshes[i]!.primitives[0]!;
      expect(a.indices.length).toBe(b.indices.length);
      const middle = (p: typeof a) =>
        [0, 1, 2].map((k) => p.indices.reduce((s, v) => s + p.positions[3 * v + k]!, 0) / p.indices.length);
      middle(a).forEach((x, k) => expect(x).toBeCloseTo(middle(b)[k]!, 3));
      expect(Math.max(...a.joints!)).toBeLessThan(c.joints.length);
    });
    expect(() => readGltf(bytes, 'packed.glb')).toThrow(/Draco/);
  });
  it('a zip of a .gltf with its .bin in a folder, percent-encoded', async () => {
    const m = keyed('LINEAR');
    const { gltf, bin } = m.files('data/my%20keys.bin');
    const zip = zipSync({ 'bird/scene.gltf': gltf, 'bird/data/my keys.bin': bin });
    expect(places(readGltf(zip, 'bird.zip'), 0, 0.7, [0, 1, 2, 3])).toEqual(
      places(readGltf(m.glb(), 'a.glb'), 0, 0.7, [0, 1, 2, 3]),
    );
  });
  it('weights that do not sum to 1 are scaled and said', () => {
    const { m, joints } = rowOfJoints();
    m.skinned(joints, { weights: [2, 2, 0, 0, 0, 0, 0, 0, 0.25, 0.25, 0.25, 0.25] });
    const c = readGltf(m.glb(), 'a.glb');
    expect([...c.meshes[0]!.primitives[0]!.weights!]).toEqual([
      0.5, 0.5, 0, 0, 1, 0, 0, 0, 0.25, 0.25, 0.25, 0.25,
    ]);
    expect(c.notes.find((n) => /do not sum to 1/.test(n.text))!.text).toMatch(/^2 vertices/);
  });
  it('morph targets and their keys are read', () => {
    const { m, joints } = rowOfJoints();
    m.skinned(joints);
    m.json.meshes[0].weights = [0.25];
    m.json.meshes[0].primitives[0].targets = [
      { POSITION: m.accessor([0, 0, 1, 0, 0, 1, 0, 0, 1], 'VEC3', 5126, { min: [0, 0, 1], max: [0, 0, 1] }) },
    ];
    m.clip('swell', [
      { node: 4, path: 'weights', input: m.times([0, 2]), output: m.accessor([0, 1], 'SCALAR') },
    ]);
    const c = readGltf(m.glb(), 'a.glb');
    const pose = makePose(c);
    expect([...pose.morphs.get(4)!]).toEqual([0.25]);
    samplePose(c, c.clips[0]!, 0.5, pose);
    expect([...pose.morphs.get(4)!]).toEqual([0.25]);
    samplePose(c, c.clips[0]!, 1, pose);
    expect([...pose.morphs.get(4)!]).toEqual([0.5]);
    expect(c.meshes[0]!.primitives[0]!.targets[0]![2]).toBe(1);
  });
});
