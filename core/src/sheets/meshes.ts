import { meshTriangles, restWorld, skinVertices, type Character } from '../character/index';

/** A mesh of a character, as what could be cloth. */
export interface MeshInfo {
  readonly node: number;
  readonly name: string;
  readonly vertices: number;
}

/** Whether the mesh of a node is of lines, without triangles: a string. */
export const hasLinesAlone = (character: Character, node: number): boolean => {
  const { primitives } = character.meshes[character.nodes[node]!.mesh]!;
  return primitives.every((p) => p.indices.length === 0) && primitives.some((p) => p.lines.length > 0);
};

/** The nodes of a character whose mesh is of lines alone. */
export const stringsOf = (character: Character): MeshInfo[] =>
  character.nodes.flatMap(({ mesh, name }, node) =>
    mesh >= 0 && hasLinesAlone(character, node)
      ? [{ node, name, vertices: meshTriangles(character, node).vertices }]
      : [],
  );

/** The nodes of a character that carry a mesh with triangles. */
export const meshesOf = (character: Character): MeshInfo[] =>
  character.nodes.flatMap((n, node) => {
    if (n.mesh < 0) return [];
    const { vertices, indices } = meshTriangles(character, node);
    return indices.length > 0 ? [{ node, name: n.name, vertices }] : [];
  });

/** Places of a mesh at rest, file units. */
function placesOf(character: Character, node: number): Float64Array {
  const places = new Float64Array(3 * meshTriangles(character, node).vertices);
  skinVertices(places, character, node, restWorld(character));
  return places;
}

/** Lowest and highest corner. */
function boxOf(places: Float64Array): { lo: number[]; hi: number[] } {
  const [lo, hi] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  places.forEach((x, k) => {
    lo[k % 3] = Math.min(lo[k % 3]!, x);
    hi[k % 3] = Math.max(hi[k % 3]!, x);
  });
  return { lo, hi };
}

/**
 * The mesh that a cloth most likely lies on: the largest of those whose box meets its own, at rest; null for none.
 */
export function bodyUnder(character: Character, node: number): MeshInfo | null {
  const own = boxOf(placesOf(character, node));
  const size = ({ lo, hi }: typeof own) => hi.reduce((v, x, a) => v * Math.max(1e-9, x - lo[a]!), 1);
  const all = meshesOf(character)
    .filter((m) => m.node !== node)
    .map((m) => [m, boxOf(placesOf(character, m.node))] as const)
    .filter(([, b]) => [0, 1, 2].every((a) => b.lo[a]! <= own.hi[a]! && own.lo[a]! <= b.hi[a]!));
  const best = all.sort((p, q) => size(q[1]) - size(p[1]))[0];
  return best ? best[0] : null;
}

/** The joints that weigh vertices of this mesh and of no other: what moves them moves nothing else. */
export function ownJoints(character: Character, node: number): Set<number> {
  const weighed = (n: number): Set<number> => {
    const { mesh, skin } = character.nodes[n]!;
    const out = new Set<number>();
    for (const p of character.meshes[mesh]?.primitives ?? [])
      p.weights?.forEach((w, k) => {
        const joint = character.skins[skin]?.joints[p.joints?.[k] ?? -1];
        if (w > 0 && joint !== undefined) out.add(joint);
      });
    return out;
  };
  const own = weighed(node);
  for (const m of meshesOf(character)) if (m.node !== node) for (const j of weighed(m.node)) own.delete(j);
  return own;
}
