import { meshTriangles, type Character } from '../character/index';
import type { Sheet } from './sheet';

/**
 * How far each edge of a mesh node's sheet runs across the threads: 0 along one direction of its texture, 1 at 45° to
 * both. Null where the mesh has no texture coordinates.
 */
export function diagonalsOf(character: Character, node: number, sheet: Sheet): Float64Array | null {
  const { primitives } = character.meshes[character.nodes[node]!.mesh]!;
  if (primitives.some((p) => !p.uvs)) return null;
  const uvs = primitives.flatMap((p) => Array.from(p.uvs!));
  const { indices } = meshTriangles(character, node);
  const { points, pointOf, edges } = sheet;
  const keyOf = (a: number, b: number) => Math.min(a, b) * points + Math.max(a, b);
  const at = new Map<number, number>();
  for (let e = 0; e < edges.length / 2; e++) at.set(keyOf(edges[2 * e]!, edges[2 * e + 1]!), e);
  const sum = new Float64Array(edges.length / 2);
  const count = new Float64Array(edges.length / 2);
  for (let t = 0; t + 2 < indices.length; t += 3)
    for (let k = 0; k < 3; k++) {
      const [a, b] = [indices[t + k]!, indices[t + ((k + 1) % 3)]!];
      const e = at.get(keyOf(pointOf[a]!, pointOf[b]!));
      const [u, v] = [uvs[2 * b]! - uvs[2 * a]!, uvs[2 * b + 1]! - uvs[2 * a + 1]!];
      const squared = u * u + v * v;
      if (e === undefined || !(squared > 0)) continue;
      // |sin 2θ|
      sum[e]! += Math.abs(2 * u * v) / squared;
      count[e]!++;
    }
  return sum.map((s, e) => (count[e]! > 0 ? s / count[e]! : 0));
}
