import { blowTriangles } from '../kernel/cloth/airTriangles';
import { ClothStep } from '../kernel/cloth/fields';

/**
 * What air does to the points of a sheet, N (3 numbers each), as the solver has it. `x` are their places (m), `past` is
 * how fast the air goes past each (m/s), `triangles` three points each.
 */
export function airPush(
  x: Float64Array,
  past: Float64Array,
  triangles: ArrayLike<number>,
  sail: { readonly density: number; readonly drag: number; readonly lift: number },
): Float64Array {
  const push = new Float64Array(x.length);
  const triangle = Int32Array.from(triangles);
  blowTriangles(
    Object.assign(new ClothStep(), { ...sail, x, past, push, triangle, triangles: triangle.length / 3 }),
  );
  return push;
}
