import type { Character } from './character';
import { makePose, rootMatrix, worldMatrices } from './pose';

/**
 * The rig's size in file units: the diagonal of the box round its joints in the rest pose (all nodes when there
 * are no joints). At least 1e-9, so that it can be divided by.
 */
export function rigSize(character: Character): number {
  const world = new Float64Array(16 * character.nodes.length);
  worldMatrices(character, makePose(character), rootMatrix(1, 'Y'), world);
  const lo = [Infinity, Infinity, Infinity];
  const hi = [-Infinity, -Infinity, -Infinity];
  for (const j of character.joints) {
    for (let k = 0; k < 3; k++) {
      const x = world[16 * j + 12 + k]!;
      lo[k] = Math.min(lo[k]!, x);
      hi[k] = Math.max(hi[k]!, x);
    }
  }
  const d = [0, 1, 2].map((k) => (hi[k]! > lo[k]! ? hi[k]! - lo[k]! : 0));
  return Math.max(1e-9, Math.sqrt(d[0]! * d[0]! + d[1]! * d[1]! + d[2]! * d[2]!));
}

/** Length of a row of nodes in the rest pose, file units. */
export function rowLength(character: Character, row: readonly number[]): number {
  const world = new Float64Array(16 * character.nodes.length);
  worldMatrices(character, makePose(character), rootMatrix(1, 'Y'), world);
  let length = 0;
  for (let i = 1; i < row.length; i++) {
    const d = [12, 13, 14].map((k) => world[16 * row[i]! + k]! - world[16 * row[i - 1]! + k]!);
    length += Math.sqrt(d[0]! * d[0]! + d[1]! * d[1]! + d[2]! * d[2]!);
  }
  return length;
}
