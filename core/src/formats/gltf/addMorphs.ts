import { hasEdges } from './meshes';
import { OscillumError } from '../../model/index';
import type { Container } from './container';
import { openContainer } from './open';
import type { GltfJson } from './schema';
import { ownBinary, pack, Tail } from './write';

/** Morph targets to add to the mesh of a node. */
export interface AddedMorphs {
  readonly node: number;
  /** Of each target what it moves every vertex by, in the mesh's own units: 3 numbers, all primitives in a row. */
  readonly targets: readonly {
    readonly name: string;
    readonly moves: Float32Array;
    readonly turns: Float32Array;
  }[];
  /** Whether vertices that a target leaves where they are take no room (sparse accessors of glTF 2.0). */
  readonly sparse?: boolean;
}

type RawMesh = NonNullable<GltfJson['meshes']>[number];

const refuse = (message: string, remedy: string) => new OscillumError('bake.invalid', message, '', remedy);

/**
 * A copy of a file in which the mesh of a node has more morph targets, which rest at 0 and stand after those it has. A
 * mesh that another node has too becomes two. Clips that move the targets it has get zeros for the new ones. Nothing
 * else changes. Throws OscillumError('bake.invalid') where the mesh or its clips are compressed, so that they cannot be
 * added to.
 */
export function addMorphs(container: Container, added: AddedMorphs): Container {
  const { node, targets } = added;
  const json = structuredClone(container.json) as GltfJson;
  const owner = json.nodes![node]!;
  const name = owner.name ?? `node ${node}`;
  const raw = json.meshes![owner.mesh!]!;
  const had = raw.primitives[0]?.targets?.length ?? 0;
  if (raw.primitives.some((p) => p.extensions?.KHR_draco_mesh_compression))
    throw refuse(
      `The mesh ${name} is compressed with Draco, so no morph targets can be added to it`,
      'Export the file again without Draco compression.',
    );
  const pieces = ownBinary(container, json);
  const tail = new Tail(json, pieces);
  const mesh = structuredClone(raw);
  // Another node may show the same mesh: it keeps it as it is.
  const shared = json.nodes!.some((n, i) => i !== node && n.mesh === owner.mesh);
  if (shared) owner.mesh = json.meshes!.push(mesh) - 1;
  else json.meshes![owner.mesh!] = mesh;
  addTargets(mesh, added, tail, json);
  const rest = [...(raw.weights ?? new Array<number>(had).fill(0)).slice(0, had), ...targets.map(() => 0)];
  mesh.weights = rest;
  if (owner.weights) owner.weights = [...owner.weights.slice(0, had), ...targets.map(() => 0)];
  const extras = (mesh as { extras?: { targetNames?: string[] } }).extras;
  const names = extras?.targetNames ?? Array.from({ length: had }, (_, k) => `target ${k + 1}`);
  (mesh as { extras?: object }).extras = {
    ...extras,
    targetNames: [...names.slice(0, had), ...targets.map((t) => t.name)],
  };
  for (const animation of json.animations ?? [])
    for (const c of animation.channels) {
      if (c.target.node !== node || c.target.path !== 'weights') continue;
      const sampler = { ...animation.samplers[c.sampler]! };
      sampler.output = withZeros(container, tail, sampler.output, had, targets.length, name);
      c.sampler = animation.samplers.push(sampler) - 1;
    }
  return openContainer(pack(json, pieces, container.fileName), container.fileName);
}

/** Gives every drawn primitive its part of the targets; one of points gets targets that move nothing. */
function addTargets(mesh: RawMesh, { targets, sparse }: AddedMorphs, tail: Tail, json: GltfJson): void {
  let from = 0;
  for (const p of mesh.primitives) {
    const position = p.attributes.POSITION;
    if (position === undefined) continue;
    const count = json.accessors![position]!.count;
    const drawn = hasEdges(p);
    const list = [...(p.targets ?? [])];
    for (const t of targets) {
      const of = (all: Float32Array) =>
        drawn ? Float64Array.from(all.subarray(3 * from, 3 * (from + count))) : new Float64Array(3 * count);
      const places = sparse ? tail.addFew(of(t.moves), true) : tail.addPlaces(of(t.moves));
      const target: Record<string, number> = { POSITION: places };
      if (p.attributes.NORMAL !== undefined)
        target.NORMAL = sparse ? tail.addFew(of(t.turns), false) : tail.addVertices(of(t.turns));
      list.push(target);
    }
    p.targets = list;
    if (drawn) from += count;
  }
}

/** Weights of a clip with zeros after each key's own. */
function withZeros(
  { buffers, json }: Container,
  tail: Tail,
  accessor: number,
  had: number,
  more: number,
  name: string,
): number {
  const a = json.accessors?.[accessor];
  const view = json.bufferViews?.[a?.bufferView ?? -1];
  const bytes = view && buffers[view.buffer];
  if (!a || a.componentType !== 5126 || !bytes || view.extensions || a.sparse || had === 0)
    throw refuse(
      `A clip moves the morph targets of ${name} with keys that are packed, so none can be added`,
      'Export the file again without compressed keys.',
    );
  const data = new DataView(bytes.buffer, bytes.byteOffset + (view.byteOffset ?? 0) + (a.byteOffset ?? 0));
  const keys = a.count / had;
  const out = new Float64Array(keys * (had + more));
  for (let k = 0; k < keys; k++)
    for (let t = 0; t < had; t++) out[k * (had + more) + t] = data.getFloat32(4 * (k * had + t), true);
  return tail.add(out, 'SCALAR', 1, false);
}
