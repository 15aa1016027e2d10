import type { Character } from './character';
import { jointChildren } from './rows';
import { makePose, rootMatrix, worldMatrices } from './pose';

const rests = new WeakMap<Character, Float64Array>();

/** World matrices of the rest pose, file units, +Y up; made once for a character. */
export function restWorld(character: Character): Float64Array {
  const known = rests.get(character);
  if (known) return known;
  const world = new Float64Array(16 * character.nodes.length);
  worldMatrices(character, makePose(character), rootMatrix(1, 'Y'), world);
  rests.set(character, world);
  return world;
}

/**
 * The rig's size in file units: the diagonal of the box round its joints in the rest pose (all nodes when there
 * are no joints). At least 1e-9, so that it can be divided by.
 */
export function rigSize(character: Character): number {
  const world = restWorld(character);
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

/** Lengths of the links between the nodes of a row in the rest pose, file units: one less than there are nodes. */
export function rowLengths(character: Character, row: readonly number[]): number[] {
  const world = restWorld(character);
  return row.slice(1).map((node, i) => {
    const d = [12, 13, 14].map((k) => world[16 * node + k]! - world[16 * row[i]! + k]!);
    return Math.sqrt(d[0]! * d[0]! + d[1]! * d[1]! + d[2]! * d[2]!);
  });
}

/**
 * The link that ends a row at its last joint, in the rest pose, world axes, file units: to that joint's first child in
 * the file; where it has none, one like the link before it.
 */
export function endLink(character: Character, last: number): readonly [number, number, number] {
  const world = restWorld(character);
  const between = (to: number, from: number) =>
    [12, 13, 14].map((k) => world[16 * to + k]! - world[16 * from + k]!) as [number, number, number];
  const is = (v: readonly number[]) => v.some((x) => x !== 0);
  const kids = jointChildren(character, last);
  const child = character.nodes[last]!.children.find((c) => kids.includes(c));
  const below = child === undefined ? null : between(child, last);
  if (below && is(below)) return below;
  const { parent } = character.nodes[last]!;
  const before = parent < 0 ? null : between(last, parent);
  return before && is(before) ? before : [0, 0.1, 0];
}

/** Length of a row of nodes in the rest pose, file units: of one joint alone, that of its end link. */
export function rowLength(character: Character, row: readonly number[]): number {
  if (row.length !== 1) return rowLengths(character, row).reduce((a, b) => a + b, 0);
  const [x, y, z] = endLink(character, row[0]!);
  return Math.sqrt(x * x + y * y + z * z);
}
