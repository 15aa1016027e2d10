import { OscillumError } from '../model/index';
import { MAX_ROW_JOINTS } from '../model/index';
import type { Character } from './character';

/** Of each node its children that are joints, largest subtree first; made once for a character. */
const trees = new WeakMap<Character, readonly (readonly number[])[]>();

function treeOf(character: Character): readonly (readonly number[])[] {
  const known = trees.get(character);
  if (known) return known;
  const joints = new Set(character.joints);
  // Length of the longest row of joints from a node down, itself counted.
  const depth = new Float64Array(character.nodes.length);
  const tree: number[][] = character.nodes.map(() => []);
  for (let k = character.order.length - 1; k >= 0; k--) {
    const node = character.order[k]!;
    const kids = character.nodes[node]!.children.filter((c) => joints.has(c));
    tree[node] = kids.sort((a, b) => depth[b]! - depth[a]! || a - b);
    depth[node] = 1 + (kids.length > 0 ? depth[kids[0]!]! : 0);
  }
  trees.set(character, tree);
  return tree;
}

/** Children of `node` that are joints, largest subtree first (ties: file order). */
export const jointChildren = (character: Character, node: number): readonly number[] =>
  treeOf(character)[node]!;

/** From `root` down to a tip, at each fork along the longest row. */
export function rowToTip(character: Character, root: number): number[] {
  const row = [root];
  for (
    let next = jointChildren(character, root)[0];
    next !== undefined && row.length < MAX_ROW_JOINTS;
    next = jointChildren(character, next)[0]
  ) {
    row.push(next);
  }
  return row;
}

/** From `first` down to `last`, which must lie below it. Throws OscillumError('shot.invalid') when it does not. */
export function rowBetween(character: Character, first: number, last: number): number[] {
  const row = [last];
  for (let n = last; n !== first;) {
    n = character.nodes[n]!.parent;
    if (n < 0) {
      throw new OscillumError(
        'shot.invalid',
        `${character.nodes[last]!.name} does not hang below ${character.nodes[first]!.name}`,
        '',
        'Choose a first joint and a last joint on one branch.',
      );
    }
    row.push(n);
  }
  return row.reverse();
}

/** True when a joint above the tip has more than one joint below it. */
export function rowForks(character: Character, row: readonly number[]): boolean {
  return row.some((n) => jointChildren(character, n).length > 1);
}
