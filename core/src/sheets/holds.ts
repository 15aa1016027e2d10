import { meshLines, meshTriangles, restWorld, skinVertices, type Character } from '../character/index';
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
    sheet = makeSheet(places, indices, meshLines(character, node));
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
  eachWeight(character, node, (vertex, own, weight) => {
    let share = 0;
    for (let k = 0; k < 4; k++) if (own[k] === joint.node) share += weight[k]!;
    if (share >= from) held[sheet.pointOf[vertex]!] = 1;
  });
}

/** Calls with each vertex of a skinned mesh, the joints (nodes) that weigh it, and how much, 4 each. */
export function eachWeight(
  character: Character,
  node: number,
  visit: (vertex: number, joints: readonly number[], weights: ArrayLike<number>) => void,
): void {
  const own = character.nodes[node]!;
  const skin = character.skins[own.skin];
  if (!skin) return;
  let vertex = 0;
  for (const p of character.meshes[own.mesh]!.primitives) {
    const count = p.positions.length / 3;
    const { joints, weights } = p;
    if (joints && weights)
      for (let v = 0; v < count; v++) {
        const four = [0, 1, 2, 3].map((k) => skin.joints[joints[4 * v + k]!]!);
        visit(vertex + v, four, weights.subarray(4 * v, 4 * v + 4));
      }
    vertex += count;
  }
}

/**
 * The joints that weigh vertices of a mesh at all, those that `inside` takes where it is given; the mesh's own node
 * without a skin.
 */
export function weighingJoints(
  character: Character,
  node: number,
  inside: (vertex: number) => boolean = () => true,
): number[] {
  if (!character.skins[character.nodes[node]!.skin]) return [node];
  const out = new Set<number>();
  eachWeight(character, node, (vertex, joints, weights) => {
    if (inside(vertex)) joints.forEach((j, k) => weights[k]! > 0 && out.add(j));
  });
  return [...out];
}

/** The node that carries what is held (all of it when nothing is): the joint that weighs it most, or its own. */
export function carrierOf(character: Character, node: number, held: Uint8Array, sheet: Sheet): number {
  const all = held.every((h) => h === 0);
  const sums = new Map<number, number>();
  eachWeight(character, node, (vertex, joints, weights) => {
    if (!all && !held[sheet.pointOf[vertex]!]) return;
    joints.forEach((j, k) => sums.set(j, (sums.get(j) ?? 0) + weights[k]!));
  });
  return [...sums].sort((a, b) => b[1] - a[1] || a[0] - b[0])[0]?.[0] ?? node;
}

/**
 * What most likely holds a mesh, or the points `inside` it (1 each): its shortest closed rim, as a collar is, when it
 * has two or more; else the joint that weighs most of it nowhere near all.
 */
export function likelyHolds(
  character: Character,
  node: number,
  inside: ArrayLike<number> | null = null,
): Holding[] {
  const sheet = sheetOf(character, node);
  const isIn = (p: number) => !inside || inside[p] === 1;
  // Where a part of a mesh goes on into the rest, the rest holds it.
  for (let e = 0; e < sheet.edges.length; e += 2)
    if (isIn(sheet.edges[e]!) !== isIn(sheet.edges[e + 1]!)) return [];
  const size = inside ? Array.from(inside).reduce((a, b) => a + b, 0) : sheet.points;
  const own = findRims(sheet).flatMap((points, rim) => (points.every(isIn) ? [rim] : []));
  if (own.length > 1) return [{ by: 'rim', rim: own[0]! }];
  const skin = character.skins[character.nodes[node]!.skin];
  if (!skin) return [];
  const counts = Array.from(skin.joints, (j): [number, number] => {
    const joint = { node: j, name: character.nodes[j]!.name };
    const held = new Uint8Array(sheet.points);
    holdByJoint(character, node, { by: 'joint', joint, from: 0.5 }, sheet, held);
    return [held.reduce((a, b, p) => a + (isIn(p) ? b : 0), 0), j];
  });
  const best = counts.filter(([n]) => n > 0 && n < 0.6 * size).sort((a, b) => b[0] - a[0] || a[1] - b[1])[0];
  return best
    ? [{ by: 'joint', joint: { node: best[1], name: character.nodes[best[1]]!.name }, from: 0.5 }]
    : [];
}
