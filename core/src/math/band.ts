/**
 * Symmetric banded matrices, lower half, row by row: a[i·(w+1) + k] is A[i][i−k] for k = 0..w (w the half bandwidth).
 * One layout serves chains (w = 2) and whatever is solved as straight paths later.
 */

/**
 * Cholesky factor in place (A = L Lᵀ). Pivots below `floor` times the original diagonal are raised to it, so that a
 * matrix that is only just not positive definite still gives a bounded answer. Returns how many pivots were raised.
 */
export function bandFactor(a: Float64Array, n: number, w: number, floor = 1e-12): number {
  const s = w + 1;
  let raised = 0;
  for (let i = 0; i < n; i++) {
    const j0 = i > w ? i - w : 0;
    for (let j = j0; j <= i; j++) {
      let sum = a[i * s + (i - j)]!;
      const diagonal = sum;
      const k0 = Math.max(j0, j > w ? j - w : 0);
      for (let k = k0; k < j; k++) sum -= a[i * s + (i - k)]! * a[j * s + (j - k)]!;
      if (i === j) {
        const least = floor * Math.abs(diagonal) + 1e-300;
        if (!(sum > least)) {
          sum = least;
          raised++;
        }
        a[i * s] = Math.sqrt(sum);
      } else {
        a[i * s + (i - j)] = sum / a[j * s]!;
      }
    }
  }
  return raised;
}

/** Solves L Lᵀ x = b in place for `columns` interleaved right-hand sides: b[i·columns + c]. */
export function bandSolve(l: Float64Array, n: number, w: number, b: Float64Array, columns: number): void {
  const s = w + 1;
  for (let i = 0; i < n; i++) {
    const j0 = i > w ? i - w : 0;
    const d = 1 / l[i * s]!;
    for (let c = 0; c < columns; c++) {
      let sum = b[i * columns + c]!;
      for (let j = j0; j < i; j++) sum -= l[i * s + (i - j)]! * b[j * columns + c]!;
      b[i * columns + c] = sum * d;
    }
  }
  for (let i = n - 1; i >= 0; i--) {
    const j1 = i + w < n - 1 ? i + w : n - 1;
    const d = 1 / l[i * s]!;
    for (let c = 0; c < columns; c++) {
      let sum = b[i * columns + c]!;
      for (let j = i + 1; j <= j1; j++) sum -= l[j * s + (j - i)]! * b[j * columns + c]!;
      b[i * columns + c] = sum * d;
    }
  }
}

/**
 * Smallest eigenvalue of K v = μ M v for a positive definite banded K and a positive diagonal M, by inverse
 * iteration from a smooth start. K is left as it is. Accurate to about 1e-12 relative for well separated modes.
 */
export function smallestMode(k: Float64Array, mass: Float64Array, n: number, w: number): number {
  const factor = Float64Array.from(k);
  bandFactor(factor, n, w);
  const v = Float64Array.from({ length: n }, (_, i) => ((i + 1) / n) ** 2);
  const b = new Float64Array(n);
  let mu = 0;
  for (let pass = 0; pass < 100; pass++) {
    for (let i = 0; i < n; i++) b[i] = mass[i]! * v[i]!;
    bandSolve(factor, n, w, b, 1);
    let vmb = 0;
    let bmb = 0;
    for (let i = 0; i < n; i++) {
      vmb += v[i]! * mass[i]! * b[i]!;
      bmb += b[i]! * mass[i]! * b[i]!;
    }
    const next = vmb / bmb;
    const norm = 1 / Math.sqrt(bmb);
    for (let i = 0; i < n; i++) v[i] = b[i]! * norm;
    if (Math.abs(next - mu) <= 1e-13 * next) return next;
    mu = next;
  }
  return mu;
}
