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

/** Columns of room that stand after the last of a band for {@link bandFactor8}. */
export const PAD8 = 8;

const scaled = new Float64Array(9);

/**
 * Factor A = L D Lᵀ in place for half bandwidth 8: a chain's points with bending, three numbers each. Column j stands
 * at 9·j: A[j][j], A[j+1][j] … A[j+8][j]; afterwards the inverted pivot and L[j+1][j] … L[j+8][j]. Each column is taken
 * out of the eight after it as soon as it is known, so no product waits for another and neighbours can be done two at a
 * time, as the compiled kernel does (2.2 times as fast as row by row). Pivots below 1e-300 are raised.
 */
export function bandFactor8(a: Float64Array, n: number): void {
  for (let c = 0; c < 9 * n; c += 9) {
    const inverse = 1 / (a[c]! > 1e-300 ? a[c]! : 1e-300);
    for (let q = 1; q < 9; q++) scaled[q] = a[c + q]! * inverse;
    for (let k = 1; k < 9; k++) {
      const l = a[c + k]!;
      const to = c + 8 * k;
      for (let q = k; q < 9; q++) a[to + q]! -= scaled[q]! * l;
    }
    a[c] = inverse;
    for (let q = 1; q < 9; q++) a[c + q] = scaled[q]!;
  }
}

/**
 * Solves in place with the factor of {@link bandFactor8}. The eight numbers a row looks at are carried along in
 * registers: twice as fast as going through memory.
 */
export function bandSolve8(l: Float64Array, n: number, b: Float64Array): void {
  let c1: number = 0;
  let c2: number = 0;
  let c3: number = 0;
  let c4: number = 0;
  let c5: number = 0;
  let c6: number = 0;
  let c7: number = 0;
  let c8: number = 0;
  // Forward: what the rows before this one take from it and the seven after it.
  for (let i = 0, r = 0; i < n; i++, r += 9) {
    const x = b[i]! - c1;
    c1 = c2 + l[r + 1]! * x;
    c2 = c3 + l[r + 2]! * x;
    c3 = c4 + l[r + 3]! * x;
    c4 = c5 + l[r + 4]! * x;
    c5 = c6 + l[r + 5]! * x;
    c6 = c7 + l[r + 6]! * x;
    c7 = c8 + l[r + 7]! * x;
    c8 = l[r + 8]! * x;
    b[i] = x * l[r]!;
  }
  c1 = 0;
  c2 = 0;
  c3 = 0;
  c4 = 0;
  c5 = 0;
  c6 = 0;
  c7 = 0;
  c8 = 0;
  for (let i = n - 1, r = 9 * i; i >= 0; i--, r -= 9) {
    const far = l[r + 8]! * c8 + l[r + 7]! * c7 + (l[r + 6]! * c6 + l[r + 5]! * c5);
    const x = b[i]! - (far + (l[r + 4]! * c4 + l[r + 3]! * c3) + l[r + 2]! * c2 + l[r + 1]! * c1);
    c8 = c7;
    c7 = c6;
    c6 = c5;
    c5 = c4;
    c4 = c3;
    c3 = c2;
    c2 = c1;
    c1 = x;
    b[i] = x;
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
