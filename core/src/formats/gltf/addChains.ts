import { addKeys, type HelperKeys } from './addHelpers';
import type { Container } from './container';
import { openContainer } from './open';
import type { GltfJson } from './schema';
import { ownBinary, pack, Tail } from './write';

/** A joint that a file gets: where it rests beside its parent. */
export interface AddedJoint {
  readonly name: string;
  /** A node of the file; or, with `after`, the place of another in the list, which comes before it. */
  readonly parent: number;
  readonly after: boolean;
  readonly t: readonly number[];
  readonly r: readonly number[];
  readonly s: readonly number[];
}

/** A copy of a file with rows of joints more, which have keys in a clip it has, and the nodes that they are. */
export function addChains(
  container: Container,
  joints: readonly AddedJoint[],
  keys: HelperKeys,
): { container: Container; nodes: readonly number[] } {
  const json = structuredClone(container.json) as GltfJson;
  const pieces = ownBinary(container, json);
  const tail = new Tail(json, pieces);
  const first = json.nodes!.length;
  const nodes = joints.map((_, k) => first + k);
  for (const { name, t, r, s } of joints)
    json.nodes!.push({ name, translation: [...t], rotation: [...r], scale: [...s] } as never);
  joints.forEach(({ parent, after }, k) => {
    const node = json.nodes![after ? nodes[parent]! : parent]!;
    node.children = [...(node.children ?? []), nodes[k]!];
  });
  addKeys(json, keys, nodes, tail);
  return {
    container: openContainer(pack(json, pieces, container.fileName), container.fileName),
    nodes,
  };
}
