import { endLink, restWorld, rigSize, type Character } from '../../character/index';
import { matInvert } from '../../math/index';
import { OscillumError } from '../../model/index';
import type { PartLayout } from '../kind';
import type { ChainPart } from './document';

/** A chain part found on a character. Link i belongs to joint i and ends at joint i+1, the last one at `tip`. */
export interface ChainLayout extends PartLayout {
  readonly part: ChainPart;
  /** End of the last link in the last joint's own space, file units. */
  readonly tip: Float64Array;
  /** The joint it hangs from, or its first where there is none. */
  readonly base: { readonly node: number; readonly name: string };
  /** Size of the whole rig, file units. */
  readonly rig: number;
}

/**
 * Finds a part's joints on the character. The last link ends at the last joint's first child; a joint without one
 * gets a link like the one before it, so that the tip joint moves too. Throws OscillumError('shot.invalid') when the
 * joints are not on this character or not in a row.
 */
export function layOutChain(character: Character, part: ChainPart): ChainLayout {
  const fail = (message: string) =>
    new OscillumError(
      'shot.invalid',
      `${part.name}: ${message}`,
      `/parts/${part.id}/joints`,
      'Remove this chain and make it again on this character.',
    );
  part.joints.forEach((j, i) => {
    const node = character.nodes[j.node];
    if (!node) throw fail(`joint ${j.name || j.node} is not on this character`);
    if (node.name !== j.name) throw fail(`joint ${j.node} is named ${node.name} here, not ${j.name}`);
    if (i > 0 && node.parent !== part.joints[i - 1]!.node)
      throw fail(`${node.name} does not hang from ${part.joints[i - 1]!.name}`);
  });
  const joints = Int32Array.from(part.joints, (j) => j.node);
  const above: number[] = [];
  for (let n = character.nodes[joints[0]!]!.parent; n >= 0; n = character.nodes[n]!.parent) above.unshift(n);
  const node = above.at(-1) ?? joints[0]!;
  const base = { node, name: character.nodes[node]!.name };
  return {
    part,
    joints,
    base,
    rig: rigSize(character),
    tip: findTip(character, joints),
    above: Int32Array.from(above),
  };
}

function findTip(character: Character, joints: Int32Array): Float64Array {
  const last = joints[joints.length - 1]!;
  const world = restWorld(character);
  const vector = endLink(character, last);
  const inverse = new Float64Array(16);
  if (!matInvert(inverse, 0, world, 16 * last)) return Float64Array.from([0, 0.1, 0]);
  return Float64Array.from(
    [0, 1, 2],
    (r) => inverse[r]! * vector[0] + inverse[4 + r]! * vector[1] + inverse[8 + r]! * vector[2],
  );
}
