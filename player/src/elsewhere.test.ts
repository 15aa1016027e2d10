import { containerOf, openContainer, readContainer, toGlb, type Container } from '@oscillum/core/gltf';
import type { HandOffFile } from '@oscillum/core/handoff';
import type { Motion } from '@oscillum/core/motion';
import { describe, expect, it } from 'vitest';
import { playElsewhere } from './elsewhere';

const FRAMES = 30;
// Two joints share a name, and the root turns too.
const JOINTS = [
  ['hips', -1],
  ['tail', 0],
  ['tail tip', 1],
  ['wing', 0],
  ['wing', 0],
  ['wing tip', 4],
] as const;

/** A small rig that sways, each joint faster than the one before. */
function swaying(amount: number): Motion {
  const n = JOINTS.length;
  const joints = JOINTS.map(([name, parent]) => ({
    ...{ name, parent, t: [0.1, parent < 0 ? 1 : 0.25, 0], r: [0, 0, 0, 1], s: [1, 1, 1] },
  }));
  const t = new Float64Array(3 * n * FRAMES);
  const r = new Float64Array(4 * n * FRAMES);
  for (let f = 0; f < FRAMES; f++)
    joints.forEach((j, i) => {
      const half = 0.5 * amount * Math.sin(0.1 * (1 + i) * f);
      t.set(j.t, 3 * (f * n + i));
      r.set([0, 0, Math.sin(half), Math.cos(half)], 4 * (f * n + i));
    });
  const s = new Float64Array(3 * n * FRAMES).fill(1);
  return { name: 'Sway', joints, fps: 30, first: 0, count: FRAMES, t, r, s };
}

const fileOf = (container: Container): HandOffFile =>
  ({ name: 'rig.glb', format: 'glb', bytes: toGlb(container) }) as unknown as HandOffFile;
const characterOf = ({ bytes }: HandOffFile) => readContainer(openContainer(bytes, 'rig.glb'));

describe('a written file in another player', () => {
  const container = containerOf(swaying(0.3), 'rig.glb');
  const file = fileOf(container);

  it('puts every joint where our own reader does, also those that share a name', async () => {
    const check = await playElsewhere(file, characterOf(file), 0, 30);
    expect(check).toMatchObject({ fine: true, joints: JOINTS.length, by: 'three.js' });
    expect(check!.degrees).toBeLessThan(0.1);
  });

  it('is told apart from the file of another motion', async () => {
    const other = fileOf(containerOf(swaying(0.31), 'rig.glb'));
    const check = await playElsewhere(other, characterOf(file), 0, 30);
    expect(check!.fine).toBe(false);
    expect(check!.joint).toMatch(/tip/);
  });

  it('is played by its skeleton alone when it cannot load the meshes', async () => {
    const json = structuredClone(container.json);
    json.meshes = [
      {
        primitives: [
          {
            attributes: { POSITION: 0 },
            extensions: { KHR_draco_mesh_compression: { bufferView: 0, attributes: { POSITION: 0 } } },
          },
        ],
      },
    ] as unknown as typeof json.meshes;
    json.nodes![0]!.mesh = 0;
    json.extensionsUsed = json.extensionsRequired = ['KHR_draco_mesh_compression'];
    const check = await playElsewhere(fileOf({ ...container, json }), characterOf(file), 0, 30);
    expect(check).toMatchObject({ fine: true, joints: JOINTS.length, by: 'three.js (skeleton only)' });
  });
});
