/** Length of a vector of any number of components. */
export function norm(v: ArrayLike<number>): number {
  let sum = 0;
  for (let k = 0; k < v.length; k++) sum += v[k]! * v[k]!;
  return Math.sqrt(sum);
}
