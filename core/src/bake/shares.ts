/** Joints that carry a vertex, at most. */
export const INFLUENCES = 4;

/**
 * The shares w, at most four above 0 and none below, that sum to 1 and make wᵀ G w least: the lowest is dropped until
 * all hold. G holds the lower half.
 */
export function sharesOf(gram: Float64Array, n: number): Float64Array {
  const active = Array.from({ length: n }, (_, c) => c);
  for (;;) {
    const w = summingToOne(gram, n, active);
    let least = 0;
    for (let k = 1; k < active.length; k++) if (w[k]! < w[least]!) least = k;
    if (active.length === 1 || (active.length <= INFLUENCES && w[least]! >= 0)) {
      const out = new Float64Array(n);
      active.forEach((c, k) => (out[c] = w[k]!));
      return out;
    }
    active.splice(least, 1);
  }
}

/** G w = 1 by Cholesky, scaled to sum to 1. A little of the trace on the diagonal settles what leaves it open. */
function summingToOne(gram: Float64Array, n: number, active: readonly number[]): Float64Array {
  const m = active.length;
  const l = new Float64Array(m * m);
  let trace = 0;
  for (const c of active) trace += gram[c * n + c]!;
  const little = 1e-7 * trace + 1e-30;
  const w = new Float64Array(m);
  for (let i = 0; i < m; i++) {
    for (let j = 0; j <= i; j++) {
      let s = gram[active[i]! * n + active[j]!]! + (i === j ? little : 0);
      for (let k = 0; k < j; k++) s -= l[i * m + k]! * l[j * m + k]!;
      l[i * m + j] = i === j ? Math.sqrt(Math.max(s, little)) : s / l[j * m + j]!;
    }
    let s = 1;
    for (let k = 0; k < i; k++) s -= l[i * m + k]! * w[k]!;
    w[i] = s / l[i * m + i]!;
  }
  let sum = 0;
  for (let i = m - 1; i >= 0; i--) {
    for (let k = i + 1; k < m; k++) w[i]! -= l[k * m + i]! * w[k]!;
    w[i]! /= l[i * m + i]!;
    sum += w[i]!;
  }
  return w.map((x) => x / sum);
}
