import { meshTriangles, restWorld, skinVertices, type Character } from '../character/index';
import type { JointRef } from '../model/index';
import { findRims } from './paths';
import { makeSheet, type Sheet } from './sheet';

/** What holds a sheet to its skin: a joint that weighs a point at least so much, or a rim, the shortest first. */
export type Holding = { by: 'joint'; joint: JointRef; from: number } | { by: 'rim'; rim: number };

const sheets = new WeakMap<Character, Map<number, Sheet>>();

/** The sheet of a mesh node as it stands at rest, in file units; made once for a character. */
export function sheetOf(character: Character, node: number): Sheet {
  const known = sheets.get(character) ?? new Map<number, Sheet>();
  sheets.set(character, known);
  let sheet = known.get(node);
  if (!sheet) {
    const { vertices, indices } = meshTriangles(character, node);
    const places = new Float64Array(3 * vertices);
    skinVertices(places, character, node, restWorld(character));
    sheet = makeSheet(places, indices);
    known.set(node, sheet);
  }
  return sheet;
}

/** The points that any of some holds takes. */
export function heldPoints(
  character: Character,
  node: number,
  holds: readonly Holding[],
  sheet: Sheet,
): Uint8Array {
  const held = new Uint8Array(sheet.points);
  for (const h of holds) {
    if (h.by === 'rim') for (const p of findRims(sheet)[h.rim] ?? []) held[p] = 1;
    else holdByJoint(character, node, h, sheet, held);
  }
  return held;
}

function holdByJoint(
  character: Character,
  node: number,
  { joint, from }: Extract<Holding, { by: 'joint' }>,
  sheet: Sheet,
  held: Uint8Array,
): void {
  const own = character.nodes[node]!;
  const skin = character.skins[own.skin];
  const index = skin ? skin.joints.indexOf(joint.node) : -1;
  if (index < 0) return;
  let vertex = 0;
  for (const p of character.meshes[own.mesh]!.primitives) {
    const count = p.positions.length / 3;
    if (p.joints && p.weights)
      for (let v = 0; v < count; v++) {
        let share = 0;
        for (let k = 4 * v; k < 4 * v + 4; k++) if (p.joints[k] === index) share += p.weights[k]!;
        if (share >= from) held[sheet.pointOf[vertex + v]!] = 1;
      }
    vertex += count;
  }
}

/**
 * What most likely holds a mesh: its shortest closed rim, as a collar is, when it has two or more; else the joint that
 * weighs most of it nowhere near all.
 */
export function likelyHolds(character: Character, node: number): Holding[] {
  const sheet = sheetOf(character, node);
  if (findRims(sheet).length > 1) return [{ by: 'rim', rim: 0 }];
  const skin = character.skins[character.nodes[node]!.skin];
  if (!skin) return [];
  const counts = Array.from(skin.joints, (j): [number, number] => {
    const joint = { node: j, name: character.nodes[j]!.name };
    const held = new Uint8Array(sheet.points);
    holdByJoint(character, node, { by: 'joint', joint, from: 0.5 }, sheet, held);
    return [held.reduce((a, b) => a + b, 0), j];
  });
  const best = counts
    .filter(([n]) => n > 0 && n < 0.6 * sheet.points)
    .sort((a, b) => b[0] - a[0] || a[1] - b[1])[0];
  return best
    ? [{ by: 'joint', joint: { node: best[1], name: character.nodes[best[1]]!.name }, from: 0.5 }]
    : [];
}
