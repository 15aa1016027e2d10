import type { Character, CharacterNode, Clip } from '../src/character/index';
import { quatFromAxis } from '../src/math/index';
import { Collider, PartId } from '../src/model/index';
import { makeChainPart, type ChainSettings } from '../src/parts/chain/shared';
import { editShot, makeShot, type Shot } from '../src/shot/index';

const FPS = 30;

/** A body with `chains` rows of `links` joints curling away from it; rows by the numbers of their joints. */
function benchNodes(chains: number, links: number): { nodes: CharacterNode[]; rows: number[][] } {
  const nodes: CharacterNode[] = [];
  const add = (name: string, parent: number, t: readonly number[], r: readonly number[] = [0, 0, 0, 1]) => {
    const children: number[] = [];
    if (parent >= 0) (nodes[parent]!.children as number[]).push(nodes.length);
    nodes.push({
      name,
      parent,
      children,
      t: Float64Array.from(t),
      r: Float64Array.from(r),
      s: Float64Array.from([1, 1, 1]),
      mesh: -1,
      skin: -1,
    });
    return nodes.length - 1;
  };
  add('body', -1, [0, 0, 0]);
  const rows: number[][] = [];
  const curl = [0, 0, 0, 1];
  quatFromAxis(curl, 0, 0, 0, 1, 0.08);
  for (let c = 0; c < chains; c++) {
    const around = [0, 0, 0, 1];
    quatFromAxis(around, 0, 0, 1, 0, (2 * Math.PI * c) / chains);
    let parent = 0;
    const row: number[] = [];
    for (let i = 0; i < links; i++) {
      parent = add(`chain ${c} ${i}`, parent, i === 0 ? [0, 0, 0] : [0.05, 0, 0], i === 0 ? around : curl);
      row.push(parent);
    }
    add(`chain ${c} end`, parent, [0.05, 0, 0]);
    rows.push(row);
  }
  return { nodes, rows };
}

/** The body turns and sways. */
function benchClip(keys: number): Clip {
  const times = Float64Array.from({ length: keys }, (_, k) => k / FPS);
  const places = new Float64Array(3 * keys);
  const turns = new Float64Array(4 * keys);
  times.forEach((t, k) => {
    places.set([0.2 * Math.sin(4 * t), 0.05 * Math.sin(9 * t), 0], 3 * k);
    quatFromAxis(turns, 4 * k, 0, 1, 0, 0.7 * Math.sin(5 * t));
  });
  return {
    over: null,
    name: 'sway',
    duration: (keys - 1) / FPS,
    channels: [
      { node: 0, path: 'translation' as const, interpolation: 'LINEAR' as const, times, values: places },
      { node: 0, path: 'rotation' as const, interpolation: 'LINEAR' as const, times, values: turns },
    ],
  };
}

/** A body turning and swaying, with `chains` rows of `links` joints curling away from it. */
export function benchScene(
  chains: number,
  links: number,
  frames: number,
  settings: Partial<ChainSettings>,
  substeps: number,
  capsules = 0,
): { character: Character; shot: Shot } {
  const { nodes, rows } = benchNodes(chains, links);
  const clip = benchClip(frames);
  const character: Character = {
    name: 'bench',
    nodes,
    order: Int32Array.from(nodes.keys()),
    skins: [],
    meshes: [],
    clips: [clip],
    materials: [],
    images: [],
    joints: Int32Array.from(nodes.keys()),
    notes: [],
  };
  const base = makeShot({
    name: 'bench',
    hash: '0'.repeat(64),
    fileName: 'bench.glb',
    fps: FPS,
    clip: { index: 0, name: 'sway', duration: clip.duration },
  });
  const { shot } = editShot(base, 'bench-0001', 'Make chains', (d) => {
    d.substeps = substeps;
    d.preRollSeconds = 0;
    for (let k = 0; k < capsules; k++) {
      // A ring of capsules that the rows lie among.
      const angle = (2 * Math.PI * k) / capsules;
      const collider = Collider.parse({
        id: `k${k}`,
        name: `Capsule ${k}`,
        shape: { kind: 'capsule', radius: 0.04, length: 0.3 },
        t: [0.4 * Math.cos(angle), -0.05, 0.4 * Math.sin(angle)],
        attachedTo: { node: 0, name: nodes[0]!.name },
      });
      d.colliders[collider.id] = collider;
    }
    rows.forEach((row, c) => {
      const id = PartId.parse(`c${c}`);
      d.parts[id] = makeChainPart({
        id,
        name: id,
        order: c,
        joints: row.map((n) => ({ node: n, name: nodes[n]!.name })),
        settings,
      });
    });
  });
  return { character, shot };
}
