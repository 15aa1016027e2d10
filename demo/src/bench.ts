import { createHash } from 'node:crypto';
import { Collider, PartId } from '@oscillum/core/model';
import { asChain, makeChainPart } from '@oscillum/core/chain';
import { editShot, makeShot, type Shot } from '@oscillum/core/shot';
import { readGltf } from '@oscillum/core/gltf';
import type { DemoClip } from './clips';
import { toGlb } from './glb';
import { euler, Rig } from './rig';
import { add, Sculpt, type V3 } from './shape';

/** A body with `chains` rows of `links` joints, swaying for 240 frames: for measuring, not for looking. */
export async function benchFile(
  chains: number,
  links: number,
): Promise<{ bytes: Uint8Array<ArrayBuffer>; shot: Shot; touching: Shot }> {
  const rig = new Rig();
  rig.joint('body', null, [0, 1, 0]);
  const sculpt = new Sculpt();
  sculpt.ball(
    [0, 1, 0],
    [0.2, 0.2, 0.2],
    12,
    16,
    () => [0.6, 0.5, 0.4],
    () => [[0, 1]],
  );
  for (let c = 0; c < chains; c++) {
    const a = (2 * Math.PI * c) / chains;
    const points = Array.from({ length: links }, (_, i): V3 => [
      Math.sin(a) * (0.2 + 0.05 * i),
      1 - 0.002 * i * i,
      Math.cos(a) * (0.2 + 0.05 * i),
    ]);
    const row = rig.row(`row ${c + 1}`, 'body', points);
    const path = [...points, add(points.at(-1)!, [Math.sin(a) * 0.05, -0.03, Math.cos(a) * 0.05])];
    sculpt.tube(
      path,
      [0, 1, 0],
      () => [0.015, 0.015],
      8,
      () => [0.1, 0.4, 0.4],
      (t) => [[row[Math.min(links - 1, Math.floor(t * links))]!, 1]],
    );
  }
  const clip: DemoClip = {
    name: 'Sway',
    loops: false,
    keys: Array.from({ length: 240 }, (_, f) => ({
      turns: { body: euler(40 * Math.sin(f / 6)) },
      root: [0, 0, 0] as V3,
      hips: [0, 0, 0] as V3,
    })),
  };
  const bytes = await toGlb('Bench', rig, [{ name: 'rows', sculpt, thin: false }], [clip]);
  const character = readGltf(bytes, 'bench.glb', {}, { skeletonOnly: true });
  const shot = makeShot({
    name: 'Bench',
    hash: createHash('sha256').update(bytes).digest('hex'),
    fileName: 'bench.glb',
    clip: { index: 0, name: 'Sway', duration: character.clips[0]!.duration },
  });
  const free = editShot(shot, 'bench-0001', 'Make chains', (d) => {
    d.preRollSeconds = 0;
    for (let c = 0; c < chains; c++) {
      const id = PartId.parse(`row${c + 1}`);
      const joints = Array.from({ length: links }, (_, i) => ({
        node: character.nodes.findIndex((n) => n.name === `row ${c + 1} ${i + 1}`),
        name: `row ${c + 1} ${i + 1}`,
      }));
      d.parts[id] = makeChainPart({
        id,
        name: `Row ${c + 1}`,
        order: c,
        joints,
      });
    }
  }).shot;
  return { bytes, shot: free, touching: amongCapsules(free) };
}

/** The same with thick chains and eight capsules that stand among them. */
function amongCapsules(shot: Shot): Shot {
  return editShot(shot, 'bench-0002', 'Add capsules', (d) => {
    d.name = 'Bench among capsules';
    for (const part of Object.values(d.parts)) asChain(part).settings.thickness = 0.01;
    for (let k = 0; k < 8; k++) {
      const angle = (2 * Math.PI * (k + 0.5)) / 8;
      const collider = Collider.parse({
        id: `capsule${k}`,
        name: `Capsule ${k + 1}`,
        order: k,
        shape: { kind: 'capsule', radius: 0.05, length: 0.3 },
        t: [0.45 * Math.sin(angle), 0.9, 0.45 * Math.cos(angle)],
      });
      d.colliders[collider.id] = collider;
    }
  }).shot;
}
