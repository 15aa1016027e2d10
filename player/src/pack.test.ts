import { createDecoderModule, createEncoderModule } from 'draco3dgltf';
import { describe, expect, it } from 'vitest';
import { brindleGlb } from '@oscillum/demo';
import { loadMeshopt, openContainer, readContainer, type Decoders } from '@oscillum/core/gltf';
import { clipMotion, compareMotions } from '@oscillum/core/handoff';
import { judgeFile, packGlb, type Packing } from './index';

const draco = { encoder: createEncoderModule, decoder: createDecoderModule };
const bytes = await brindleGlb();
const open = async (file: Uint8Array) => {
  const container = openContainer(file, 'brindle.glb');
  const decoders = {
    meshopt: await loadMeshopt(),
    draco: (await createDecoderModule()) as NonNullable<Decoders['draco']>,
  };
  return { json: container.json, character: readContainer(container, decoders) };
};
const metres = { metresPerUnit: 1, upAxis: 'Y', unit: 1, up: 'Y', fps: 30 } as const;

describe('a packed GLB', () => {
  it.each([
    ['meshopt', 'EXT_meshopt_compression', 1e-7],
    ['draco', 'KHR_draco_mesh_compression', 2e-3],
  ] as const)('with %s is smaller, and holds the same motion and mesh', async (packing, name, off) => {
    const packed = await packGlb(bytes, packing as Packing, draco);
    expect(packed.length).toBeLessThan(0.8 * bytes.length);
    const [a, b] = [await open(bytes), await open(packed)];
    expect(b.json.extensionsRequired).toContain(name);
    for (let clip = 0; clip < a.character.clips.length; clip++) {
      const compared = compareMotions(
        clipMotion(a.character, clip, metres),
        clipMotion(b.character, clip, metres),
      );
      expect(compared.onlyFirst).toEqual([]);
      expect(compared.share).toBeLessThan(1e-6);
    }
    const span = (c: typeof a.character) => {
      const all = c.meshes.flatMap((m) => m.primitives.map((p) => p.positions));
      return [0, 1, 2].map((k) =>
        all.reduce((most, p) => p.reduce((x, v, i) => (i % 3 === k ? Math.max(x, v) : x), most), -Infinity),
      );
    };
    const wide = span(b.character);
    span(a.character).forEach((x, k) => expect(Math.abs(x - wide[k]!)).toBeLessThan(off));
    const file = { name: 'brindle.glb', format: 'glb', bytes: packed, clips: ['Leap'] } as const;
    const { checks, faults } = await judgeFile(file, 30, { meshopt: await loadMeshopt() });
    expect(checks.every((c) => c.fine)).toBe(true);
    expect(faults).toEqual([]);
  });

  it('of what is no GLB is refused with a sentence', async () => {
    await expect(packGlb(new Uint8Array(40), 'meshopt', draco)).rejects.toThrow(/cannot be packed/);
  });
});
