import { meshTriangles, type Character } from '../character/index';
import type { MeshRegion } from '../model/index';
import { eachWeight, sheetOf } from './holds';
import type { Sheet } from './sheet';

/** A part of a mesh that can be chosen, in words, and how many vertices it has. */
export interface RegionInfo {
  readonly region: MeshRegion;
  readonly name: string;
  readonly vertices: number;
}

/** A joint has a vertex that it weighs at least so much. */
const MOSTLY = 0.5;
/** Pieces that are listed at most, the largest first. */
const MOST_PIECES = 60;

const pieces = new WeakMap<Sheet, Int32Array>();

/** The piece of each point: points that edges join are one piece, numbered by its first point; −1 for loose ones. */
function pieceOf(sheet: Sheet): Int32Array {
  const known = pieces.get(sheet);
  if (known) return known;
  const root = Int32Array.from({ length: sheet.points }, (_, p) => p);
  const find = (p: number): number => {
    let r = p;
    while (root[r] !== r) r = root[r] = root[root[r]!]!;
    return r;
  };
  for (let e = 0; e < sheet.edges.length; e += 2) {
    const [a, b] = [find(sheet.edges[e]!), find(sheet.edges[e + 1]!)];
    if (a !== b) root[Math.max(a, b)] = Math.min(a, b);
  }
  const numbers = new Map<number, number>();
  const out = root.map((_, p) => {
    if (sheet.area[p] === 0) return -1;
    const r = find(p);
    if (!numbers.has(r)) numbers.set(r, numbers.size);
    return numbers.get(r)!;
  });
  pieces.set(sheet, out);
  return out;
}

/** The vertices of a mesh node that are in a region of it: 1 for each, in the order of the mesh. */
export function verticesIn(character: Character, node: number, region: MeshRegion): Uint8Array {
  const sheet = sheetOf(character, node);
  const out = new Uint8Array(sheet.pointOf.length);
  if (region.by === 'piece') {
    const own = pieceOf(sheet);
    sheet.pointOf.forEach((p, v) => (out[v] = Number(own[p] === region.piece)));
  } else if (region.by === 'material') {
    const sizes = primitivesOf(character, node).map((p) => p.positions.length / 3);
    const from = sizes.slice(0, region.primitive).reduce((a, b) => a + b, 0);
    out.fill(1, from, from + (sizes[region.primitive] ?? 0));
  } else
    eachWeight(character, node, (vertex, joints, weights) => {
      let share = 0;
      joints.forEach((j, k) => (share += j === region.joint.node ? weights[k]! : 0));
      out[vertex] = Number(share >= MOSTLY);
    });
  return out;
}

const primitivesOf = (character: Character, node: number) =>
  character.meshes[character.nodes[node]!.mesh]!.primitives;

/** The parts of a mesh: its pieces and materials where there are several of them, and what each joint mostly weighs. */
export function regionsOf(character: Character, node: number): RegionInfo[] {
  const sheet = sheetOf(character, node);
  const { vertices } = meshTriangles(character, node);
  const own = pieceOf(sheet);
  const counts = new Map<number, number>();
  for (const p of sheet.pointOf) if (own[p]! >= 0) counts.set(own[p]!, (counts.get(own[p]!) ?? 0) + 1);
  const groups = new Map<number, number>();
  const nearest = new Map<number, Map<number, number>>();
  eachWeight(character, node, (vertex, joints, weights) => {
    const piece = nearest.get(own[sheet.pointOf[vertex]!]!) ?? new Map<number, number>();
    nearest.set(own[sheet.pointOf[vertex]!]!, piece);
    joints.forEach((j, k) => {
      if (weights[k]! > 0) piece.set(j, (piece.get(j) ?? 0) + weights[k]!);
      if (weights[k]! >= MOSTLY) groups.set(j, (groups.get(j) ?? 0) + 1);
    });
  });
  const byPiece = [...counts]
    .sort((a, b) => b[1] - a[1] || a[0] - b[0])
    .slice(0, MOST_PIECES)
    .map(([piece, n]): RegionInfo => {
      const joint = [...(nearest.get(piece) ?? [])].sort((a, b) => b[1] - a[1])[0]?.[0];
      const at = joint === undefined ? '' : `, ${character.nodes[joint]!.name}`;
      return { region: { by: 'piece', piece }, name: `piece ${piece + 1}${at}`, vertices: n };
    });
  const byMaterial = primitivesOf(character, node).map((p, primitive): RegionInfo => ({
    region: { by: 'material', primitive },
    name: character.materials[p.material]?.name || `material ${primitive + 1}`,
    vertices: p.positions.length / 3,
  }));
  const byJoint = [...groups].map(([joint, n]): RegionInfo => {
    const { name } = character.nodes[joint]!;
    return { region: { by: 'joint', joint: { node: joint, name } }, name, vertices: n };
  });
  return [
    ...(byPiece.length > 1 ? byPiece : []),
    ...(byMaterial.length > 1 ? byMaterial : []),
    ...byJoint.filter((g) => g.vertices < vertices).sort((a, b) => a.name.localeCompare(b.name)),
  ];
}
