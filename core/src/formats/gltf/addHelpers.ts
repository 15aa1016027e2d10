import { OscillumError } from '../../model/index';
import type { Container } from './container';
import { openContainer } from './open';
import type { GltfJson } from './schema';
import { giveSkin, giveWeights, INFLUENCES } from './skins';
import { ownBinary, pack, Tail } from './write';

/** Keys of helper joints in one clip; each list is helper after helper, and within each key after key. */
export interface HelperKeys {
  /** The clip, by its index. */
  readonly clip: number;
  readonly times: Float64Array;
  readonly translations: Float64Array;
  readonly rotations: Float64Array;
  /** Null where none has a size of its own. */
  readonly scales: Float64Array | null;
}

/** Joints that a mesh gets to carry it, beside those it has. */
export interface AddedHelpers {
  /** Node of the mesh, and the node that the helpers hang from. */
  readonly node: number;
  readonly parent: number;
  /** Of each its name and where it rests beside the parent. */
  readonly helpers: readonly {
    readonly name: string;
    readonly t: readonly number[];
    readonly r: readonly number[];
    readonly s: readonly number[];
  }[];
  /** All joints of the mesh's skin but the helpers, which come after them, and the inverse bind matrices of all. */
  readonly before: readonly number[];
  readonly inverses: Float64Array;
  /** 4 a vertex, all primitives in a row. */
  readonly joints: ArrayLike<number>;
  readonly shares: ArrayLike<number>;
  readonly keys: readonly HelperKeys[];
}

/**
 * A copy of a file in which the mesh of a node is carried by helper joints too, which have keys in the clips it has.
 * They are its last nodes. Nothing else changes. Throws OscillumError('bake.invalid') where the mesh is compressed.
 */
export function addHelpers(container: Container, added: AddedHelpers): Container {
  const json = structuredClone(container.json) as GltfJson;
  const owner = json.nodes![added.node]!;
  const raw = json.meshes![owner.mesh!]!;
  if (raw.primitives.some((p) => p.extensions?.KHR_draco_mesh_compression))
    throw new OscillumError(
      'bake.invalid',
      `The mesh ${owner.name ?? `node ${added.node}`} is compressed with Draco, so its weights cannot be changed`,
      '',
      'Export the file again without Draco compression, or bake to morph targets.',
    );
  const pieces = ownBinary(container, json);
  const tail = new Tail(json, pieces);
  const first = json.nodes!.length;
  for (const { name, t, r, s } of added.helpers)
    json.nodes!.push({ name, translation: [...t], rotation: [...r], scale: [...s] } as never);
  const made = added.helpers.map((_, k) => first + k);
  const parent = json.nodes![added.parent]!;
  parent.children = [...(parent.children ?? []), ...made];
  giveSkin(json, added.node, [...added.before, ...made], added.inverses, tail);
  giveWeights(container, json, added.node, tail, (_, from, count) => {
    const of = (list: ArrayLike<number>) =>
      Float64Array.from({ length: INFLUENCES * count }, (__, k) => list[INFLUENCES * from + k]!);
    return { joints: of(added.joints), shares: of(added.shares) };
  });
  for (const keys of added.keys) addKeys(json, keys, made, tail);
  return openContainer(pack(json, pieces, container.fileName), container.fileName);
}

/** Adds keys of joints that were made to a clip. */
export function addKeys(json: GltfJson, keys: HelperKeys, made: readonly number[], tail: Tail): void {
  const animation = json.animations![keys.clip]!;
  const input = tail.add(keys.times, 'SCALAR', 1, true);
  const n = keys.times.length;
  const add = (k: number, path: string, list: Float64Array, type: 'VEC3' | 'VEC4', size: number) => {
    const output = tail.add(list.slice(size * n * k, size * n * (k + 1)), type, size, false);
    const sampler = animation.samplers.push({ input, output, interpolation: 'LINEAR' }) - 1;
    animation.channels.push({ sampler, target: { node: made[k]!, path } } as never);
  };
  made.forEach((_, k) => {
    add(k, 'translation', keys.translations, 'VEC3', 3);
    add(k, 'rotation', keys.rotations, 'VEC4', 4);
    if (keys.scales) add(k, 'scale', keys.scales, 'VEC3', 3);
  });
}
