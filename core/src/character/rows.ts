import { OscillumError } from '../model/index';
import { MAX_ROW_JOINTS } from '../model/index';
import type { Character } from './character';

/** Children of `node` that are joints, largest subtree first (ties: file order). */
export function jointChildren(character: Character, node: number): number[] {
  const joints = new Set(character.joints);
  const kids = character.nodes[node]!.children.filter((c) => joints.has(c));
  const size = new Map(kids.map((k) => [k, depthBelow(character, k, joints)]));
  return kids.sort((a, b) => size.get(b)! - size.get(a)! || a - b);
}

/** Length of the longest row of joints from `node` down, itself counted. */
function depthBelow(character: Character, node: number, joints: ReadonlySet<number>): number {
  let level = [node];
  let depth = 0;
  while (level.length) {
    depth++;
    level = level.flatMap((n) => character.nodes[n]!.children.filter((c) => joints.has(c)));
  }
  return depth;
}

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
