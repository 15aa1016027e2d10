import { NodeIO } from '@gltf-transform/core';
import { expect, it } from 'vitest';
import { brindle } from '../../test/bakes';
import { ponchoShot } from '../../test/poncho';
import { openContainer } from '../formats/gltf/index';
import { bakeGlb, defaultBake } from './index';
import { DEFAULT_FIT, DEFAULT_JOINTS } from './options';

/** Brindle with texture coordinates on her poncho, each as its place seen from above. */
async function withUvs(): Promise<Uint8Array<ArrayBuffer>> {
  const io = new NodeIO();
  const doc = await io.readBinary(brindle!.bytes);
  const mesh = doc
    .getRoot()
    .listMeshes()
    .find((m) => m.getName() === 'poncho')!;
  for (const p of mesh.listPrimitives()) {
    const at = p.getAttribute('POSITION')!;
    const uvs = Float32Array.from(
      { length: 2 * at.getCount() },
      (_, k) => at.getElement(k >> 1, [])[k & 1 ? 2 : 0]!,
    );
    p.setAttribute(
      'TEXCOORD_0',
      doc.createAccessor().setType('VEC2').setArray(uvs).setBuffer(at.getBuffer()!),
    );
  }
  return (await io.writeBinary(doc)) as Uint8Array<ArrayBuffer>;
}

/** The bytes of all that the poncho is made of but its morph targets; those of its skin weights when asked. */
function meshBytes(bytes: Uint8Array<ArrayBuffer>, skin: boolean): string[] {
  const file = openContainer(bytes, 'a.glb');
  const { json } = file;
  const mesh = json.meshes!.find((m) => m.name === 'poncho')!;
  return mesh.primitives.flatMap((p) =>
    Object.entries({ ...p.attributes, indices: p.indices! })
      .filter(([name]) => skin || !/JOINTS|WEIGHTS/.test(name))
      .map(([name, index]) => {
        const accessor = json.accessors![index as number]!;
        const view = json.bufferViews![accessor.bufferView!]!;
        const wide = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4 }[accessor.type as 'SCALAR'];
        const size = { 5121: 1, 5123: 2, 5125: 4, 5126: 4 }[accessor.componentType as 5121];
        const from = (view.byteOffset ?? 0) + (accessor.byteOffset ?? 0);
        const stride = view.byteStride ?? wide * size;
        const rows = Array.from({ length: accessor.count }, (_, k) =>
          Buffer.from(
            file.buffers[view.buffer]!.subarray(from + k * stride, from + k * stride + wide * size),
          ).toString('hex'),
        );
        return `${name} ${accessor.count} ${rows.join('')}`;
      }),
  );
}

it.each([
  ['morph targets', DEFAULT_FIT],
  ['helper joints', DEFAULT_JOINTS],
] as const)(
  'a bake of a cloth to %s leaves its texture coordinates, its indices and all else byte for byte',
  async (_, vertices) => {
    const bytes = await withUvs();
    const shot = ponchoShot();
    const run = bakeGlb(openContainer(bytes, 'brindle.glb'), shot, { ...defaultBake(shot), vertices });
    let step = run.next();
    while (!step.done) step = run.next();
    const skin = vertices.to === 'morphs';
    const before = meshBytes(bytes, skin);
    expect(before.some((b) => b.startsWith('TEXCOORD_0'))).toBe(true);
    expect(meshBytes(step.value.bytes, skin)).toEqual(before);
  },
);
