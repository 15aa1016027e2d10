import { MeshoptSimplifier } from 'meshoptimizer';
import type { Character } from './character';
import { restWorld } from './size';
import { meshTriangles, skinVertices } from './skinning';

// WebAssembly carried inside its package; no file or network.
await MeshoptSimplifier.ready;

const known = new WeakMap<Character, Map<string, Uint32Array>>();

/**
 * Fewer triangles of a mesh node that stay within `within` (file units) of it at rest, by quadric error (Garland and
 * Heckbert 1997); all of them when it is 0. Indices of the node's own vertices, 3 a triangle. Vertices at one place
 * count as one, so that seams do not hold it back. Made once for a character.
 */
export function simplifiedTriangles(character: Character, node: number, within: number): Uint32Array {
  const { vertices, indices } = meshTriangles(character, node);
  if (!(within > 0) || indices.length === 0) return indices;
  const all = known.get(character) ?? new Map<string, Uint32Array>();
  known.set(character, all);
  const key = `${node} ${within}`;
  const made = all.get(key);
  if (made) return made;
  const rest = new Float64Array(3 * vertices);
  skinVertices(rest, character, node, restWorld(character));
  const places = Float32Array.from(rest);
  const same = MeshoptSimplifier.generatePositionRemap(places, 3);
  const [found] = MeshoptSimplifier.simplify(
    indices.map((v) => same[v]!),
    ...([places, 3, 3, within] as const),
    // Triangles of even shape: thin parts are not turned inside out.
    ['ErrorAbsolute', 'Regularize'],
  );
  const out = found.length > 0 ? found : indices;
  all.set(key, out);
  return out;
}

/** About a share of the triangles (3 points each) of a surface, with corners that are some of its points. */
export function coarserTriangles(rest: Float64Array, triangles: Int32Array, share: number): Uint32Array {
  const wanted = 3 * Math.max(2, Math.round((share * triangles.length) / 3));
  const places = Float32Array.from(rest);
  const indices = Uint32Array.from(triangles);
  return MeshoptSimplifier.simplify(indices, places, 3, wanted, 1e3, ['Regularize'])[0];
}
