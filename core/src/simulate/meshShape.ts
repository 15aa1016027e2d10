import { meshTriangles, simplifiedTriangles, type Character } from '../character/index';
import { OscillumError, type Collider } from '../model/index';
import { sheetOf, verticesIn } from '../sheets/index';

export type MeshShape = Extract<Collider['shape'], { kind: 'mesh' }>;

/** Meshes are told apart by this: which one, how closely it is followed, and which part of it. */
export const meshKey = ({ node, simplified, part }: MeshShape): string =>
  JSON.stringify([node, simplified, part]);

/**
 * The triangles of a mesh of the character that a collider takes, 3 vertices each. Throws
 * OscillumError('shot.invalid') where there are none.
 */
export function trianglesOf(
  character: Character,
  { id, name, shape }: Pick<Collider, 'id' | 'name'> & { shape: MeshShape },
  metresPerUnit: number,
): Uint32Array {
  const trouble = (message: string, remedy: string) =>
    new OscillumError('shot.invalid', `${name}: ${message}`, `/colliders/${id}/shape`, remedy);
  const { node, part } = shape;
  if (character.nodes[node]?.name !== shape.name || meshTriangles(character, node).indices.length === 0)
    throw trouble(
      `the mesh ${shape.name} is not on this character`,
      'Choose another mesh for it, or remove it.',
    );
  const all = simplifiedTriangles(character, node, shape.simplified / metresPerUnit);
  if (!part) return all;
  const within = verticesIn(character, node, part.region);
  const kept = Array.from({ length: all.length / 3 }, (_, t) => 3 * t).filter((t) => {
    const inside = within[all[t]!]! + within[all[t + 1]!]! + within[all[t + 2]!]! === 3;
    return inside === part.only;
  });
  if (kept.length === 0)
    throw trouble(
      `the part of ${shape.name} that it takes has no triangles`,
      'Choose another part of it, or the whole mesh.',
    );
  const triangles = Uint32Array.from(kept.flatMap((t) => [all[t]!, all[t + 1]!, all[t + 2]!]));
  return Uint32Array.from([...triangles, ...lids(sheetOf(character, node).pointOf, all, triangles)]);
}

/**
 * Triangles over the holes that are there since only a part of a surface is taken: without them nothing says what is
 * inside. Each hole is a fan of its own rim.
 */
function lids(pointOf: Int32Array, all: Uint32Array, kept: Uint32Array): number[] {
  const points = pointOf.reduce((m, p) => Math.max(m, p + 1), 0);
  const key = (v: number, w: number) => pointOf[v]! * points + pointOf[w]!;
  const edgesOf = (triangles: Uint32Array) =>
    Array.from(triangles, (v, k): [number, number] => [v, triangles[k % 3 === 2 ? k - 2 : k + 1]!]);
  const sides = new Set(edgesOf(all).map(([v, w]) => key(v, w)));
  const left = edgesOf(kept);
  const own = new Set(left.map(([v, w]) => key(v, w)));
  /** By point: where the rim goes on from there, with the hole on the other side of it. */
  const next = new Map<number, number[]>();
  for (const [v, w] of left) {
    if (own.has(key(w, v)) || !sides.has(key(w, v))) continue;
    const from = next.get(pointOf[w]!);
    if (from) from.push(v);
    else next.set(pointOf[w]!, [v]);
  }
  const out: number[] = [];
  for (const [start, ways] of next)
    while (ways.length > 0) {
      const rim = [ways.pop()!];
      while (pointOf[rim.at(-1)!] !== start) {
        const on = next.get(pointOf[rim.at(-1)!]!)?.pop();
        if (on === undefined) break;
        rim.push(on);
      }
      for (let k = 1; k + 1 < rim.length; k++) out.push(rim[0]!, rim[k]!, rim[k + 1]!);
    }
  return out;
}
