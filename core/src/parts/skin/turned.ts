import type { Shows } from '../kind';

type V3 = [number, number, number];
/** Three axes of a triangle: along its first side, across it, and its normal. */
type Axes = readonly [V3, V3, V3];

const cross = (a: V3, b: V3): V3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
function unit(a: V3): V3 | null {
  const long = Math.sqrt(a[0] * a[0] + a[1] * a[1] + a[2] * a[2]);
  return long > 1e-12 ? [a[0] / long, a[1] / long, a[2] / long] : null;
}

function axesOf(at: (corner: number) => V3): Axes | null {
  const [a, b, c] = [at(0), at(1), at(2)];
  const side = (p: V3): V3 => [p[0] - a[0], p[1] - a[1], p[2] - a[2]];
  const along = unit(side(b));
  const normal = along && unit(cross(along, side(c)));
  return along && normal ? [along, cross(normal, along), normal] : null;
}

/**
 * Turns, in place, a way (m) as a triangle of a surface is turned from where it is animated to where it is shown. A
 * triangle without an area turns nothing.
 */
export function turnWithTriangle(way: Float64Array, { places, off }: Shows, corners: Int32Array): void {
  const animated = axesOf((k) => [0, 1, 2].map((a) => places[3 * corners[k]! + a]!) as V3);
  const shown = axesOf(
    (k) => [0, 1, 2].map((a) => places[3 * corners[k]! + a]! + off[3 * corners[k]! + a]!) as V3,
  );
  if (!animated || !shown) return;
  const inside = animated.map((x) => x[0] * way[0]! + x[1] * way[1]! + x[2] * way[2]!);
  for (let a = 0; a < 3; a++)
    way[a] = shown[0][a]! * inside[0]! + shown[1][a]! * inside[1]! + shown[2][a]! * inside[2]!;
}
