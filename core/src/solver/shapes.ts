import { nearestTo } from '../kernel/search/shapes';
import type { Surface } from './surface';

/**
 * Distance from a segment to a shape that stands about its own origin: the geometry of contact. Distances are signed:
 * negative inside. All in m, in the shape's own space.
 */
export type Shape =
  | { readonly kind: 'sphere'; readonly radius: number }
  | { readonly kind: 'capsule'; readonly radius: number; readonly half: number }
  | { readonly kind: 'box'; readonly half: readonly [number, number, number] }
  | { readonly kind: 'ground' }
  | { readonly kind: 'mesh'; readonly surface: Surface };

/** Radius about the shape's origin that holds all of it; Infinity for ground. */
export function boundOf(shape: Shape): number {
  if (shape.kind === 'sphere') return shape.radius;
  if (shape.kind === 'capsule') return shape.radius + shape.half;
  if (shape.kind === 'box') {
    const [x, y, z] = shape.half;
    return Math.sqrt(x * x + y * y + z * z);
  }
  return shape.kind === 'mesh' ? shape.surface.bound() : Infinity;
}

/** Numbers for the kinds of shape that stand in tables. */
export const SHAPE = { ground: 0, sphere: 1, capsule: 2, box: 3, mesh: 4 } as const;

/** The three sizes that say all of a shape of a kind, m; 0 where it has fewer. */
export function sizesOf(shape: Shape): readonly [number, number, number] {
  if (shape.kind === 'sphere') return [shape.radius, 0, 0];
  if (shape.kind === 'capsule') return [shape.radius, shape.half, 0];
  return shape.kind === 'box' ? shape.half : [0, 0, 0];
}

const point = new Float64Array(4);

/**
 * The place of segment a–b (6 numbers) nearest to the shape, as {@link nearestTo} writes it. For a mesh it is the best
 * of three places.
 */
export function nearestOnSegment(out: Float64Array, shape: Shape, segment: Float64Array): void {
  if (shape.kind !== 'mesh') {
    const [p, q, r] = sizesOf(shape);
    nearestTo(out, SHAPE[shape.kind], p, q, r, segment);
    return;
  }
  // Three places along the link: where it ends, and two between.
  let best = Infinity;
  for (let k = 1; k <= 3; k++) {
    const t = k / 3;
    const at = (c: number) => segment[c]! + t * (segment[3 + c]! - segment[c]!);
    shape.surface.nearest(point, at(0), at(1), at(2));
    if (point[0]! >= best) continue;
    best = point[0]!;
    out[0] = t;
    out[1] = best;
    out[2] = point[1]!;
    out[3] = point[2]!;
    out[4] = point[3]!;
  }
}
