/**
 * Eigenvalues and eigenvectors of a symmetric matrix, by the cyclic Jacobi method (Golub, Van Loan, Matrix
 * Computations, 8.5). `a` holds n × n numbers, row after row, and is overwritten. Returns the values, the largest
 * first, and their unit vectors, one after the other.
 */
export function symmetricEigen(a: Float64Array, n: number): { values: Float64Array; vectors: Float64Array } {
  const v = new Float64Array(n * n);
  let whole = 0;
  for (let i = 0; i < n; i++) {
    v[i * n + i] = 1;
    whole += a[i * n + i]! ** 2;
  }
  for (let sweep = 0; sweep < 60; sweep++) {
    let off = 0;
    for (let p = 0; p < n; p++) for (let q = p + 1; q < n; q++) off += a[p * n + q]! ** 2;
    if (off <= 1e-24 * whole) break;
    for (let p = 0; p < n; p++)
      for (let q = p + 1; q < n; q++) if (a[p * n + q] !== 0) turnPair(a, v, n, p, q);
  }
  const order = Array.from({ length: n }, (_, i) => i).sort((i, j) => a[j * n + j]! - a[i * n + i]! || i - j);
  const vectors = new Float64Array(n * n);
  order.forEach((from, to) => vectors.set(v.subarray(from * n, from * n + n), to * n));
  return { values: Float64Array.from(order, (i) => a[i * n + i]!), vectors };
}

/** Turns rows and columns p and q so that what stands between them becomes 0; rows of `v` turn along. */
function turnPair(a: Float64Array, v: Float64Array, n: number, p: number, q: number): void {
  const apq = a[p * n + q]!;
  const theta = (a[q * n + q]! - a[p * n + p]!) / (2 * apq);
  const t = (theta < 0 ? -1 : 1) / (Math.abs(theta) + Math.sqrt(theta * theta + 1));
  const c = 1 / Math.sqrt(t * t + 1);
  const s = t * c;
  // Rows alone are read and written: what stands in a column is the same by symmetry.
  const [rp, rq] = [p * n, q * n];
  const [app, aqq] = [a[rp + p]! - t * apq, a[rq + q]! + t * apq];
  for (let k = 0; k < n; k++) {
    const x = a[rp + k]!;
    const y = a[rq + k]!;
    a[rp + k] = c * x - s * y;
    a[rq + k] = s * x + c * y;
    const u = v[rp + k]!;
    const w = v[rq + k]!;
    v[rp + k] = c * u - s * w;
    v[rq + k] = s * u + c * w;
  }
  a[rp + p] = app;
  a[rq + q] = aqq;
  a[rp + q] = a[rq + p] = 0;
  for (let k = 0; k < n; k++)
    if (k !== p && k !== q) {
      a[k * n + p] = a[rp + k]!;
      a[k * n + q] = a[rq + k]!;
    }
}
