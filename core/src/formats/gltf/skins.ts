import type { Container } from './container';
import { hasEdges } from './meshes';
import { fileError } from './fault';
import type { GltfJson } from './schema';
import type { Tail } from './write';

/** Joints that hold a vertex, at most. */
export const INFLUENCES = 4;

/** The joints of vertices and their shares: 4 of each a vertex. */
export interface Influences {
  readonly joints: Float64Array;
  readonly shares: Float64Array;
}

/** Gives a node a skin of its own: what it had, with these joints and inverse bind matrices. */
export function giveSkin(
  json: GltfJson,
  node: number,
  joints: readonly number[],
  inverses: Float64Array,
  tail: Tail,
): void {
  const skins = (json.skins ??= []);
  const owner = json.nodes![node]!;
  const skin = skins.push({
    ...(owner.skin !== undefined ? skins[owner.skin] : {}),
    joints: [...joints],
    inverseBindMatrices: tail.add(inverses, 'MAT4', 16, false),
  } as (typeof skins)[number]);
  owner.skin = skin - 1;
}

/**
 * Gives a node a mesh of its own, for others may share it, with new weights: `of` is asked for each drawn primitive,
 * with the first of its vertices in the whole mesh and how many it has.
 */
export function giveWeights(
  container: Container,
  json: GltfJson,
  node: number,
  tail: Tail,
  of: (primitive: number, from: number, count: number) => Influences,
): void {
  const owner = json.nodes![node]!;
  const copy = structuredClone(json.meshes![owner.mesh!]!);
  const shared = json.nodes!.some((n, i) => i !== node && n.mesh === owner.mesh);
  if (shared) owner.mesh = json.meshes!.push(copy) - 1;
  else json.meshes![owner.mesh!] = copy;
  let from = 0;
  let k = 0;
  for (const p of copy.primitives) {
    const position = p.attributes.POSITION;
    if (!hasEdges(p) || position === undefined) continue;
    const accessor = json.accessors?.[position];
    if (!accessor)
      throw fileError(container.fileName, 'file.invalid', 'has a mesh that cannot be read whole');
    const { joints, shares } = of(k++, from, accessor.count);
    from += accessor.count;
    for (const key of Object.keys(p.attributes))
      if (/^(JOINTS|WEIGHTS)_\d+$/.test(key)) delete p.attributes[key];
    p.attributes.JOINTS_0 = tail.add(joints, 'VEC4', INFLUENCES, false, Uint16Array);
    p.attributes.WEIGHTS_0 = tail.add(shares, 'VEC4', INFLUENCES, false);
  }
}
