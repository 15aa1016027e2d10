import { MeshoptSimplifier } from 'meshoptimizer';

// WebAssembly carried inside its package; no file or network.
await MeshoptSimplifier.ready;

/**
 * Fewer triangles that stay within `within` m of the surface, by quadric error (Garland and Heckbert 1997). `places`
 * are m, 3 numbers a vertex; `indices` 3 a triangle. Returns indices of the same vertices; vertices at one place count
 * as one, so that seams do not hold it back.
 */
export function simplifyTriangles(places: Float64Array, indices: Uint32Array, within: number): Uint32Array {
  if (!(within > 0) || indices.length === 0) return indices;
  const first = new Map<string, number>();
  const welded = Uint32Array.from(indices, (v) => {
    const at = Float32Array.from(places.subarray(3 * v, 3 * v + 3)).join(' ');
    const known = first.get(at) ?? v;
    first.set(at, known);
    return known;
  });
  const [out] = MeshoptSimplifier.simplify(welded, Float32Array.from(places), 3, 3, within, [
    'ErrorAbsolute',
    // Triangles of even shape: thin parts are not turned inside out.
    'Regularize',
  ]);
  return out.length > 0 ? out : indices;
}
