/**
 * The cube root of a number, to the last bit or the one beside it, by the same steps everywhere: Math.cbrt is not
 * specified to the bit. Newton's method from a power of two.
 */
export function cubeRoot(x: number): number {
  if (x === 0 || !Number.isFinite(x)) return x;
  const size = Math.abs(x);
  let y = 1;
  while (y * y * y < size) y *= 2;
  while (y * y * y > 8 * size) y /= 2;
  for (let k = 0; k < 8; k++) y -= (y - size / (y * y)) / 3;
  return x < 0 ? -y : y;
}
