import type { Floats, Index } from './numbers';

/** Columns of room that stand after the last of a band for {@link bandFactor8}. */
export const PAD8: Index = 8;

const scaled = new Float64Array(9);

/**
 * Factor A = L D Lᵀ in place for half bandwidth 8: a chain's points with bending, three numbers each. Column j stands
 * at 9·j: A[j][j], A[j+1][j] … A[j+8][j]; afterwards the inverted pivot and L[j+1][j] … L[j+8][j]. Each column is taken
 * out of the eight after it as soon as it is known, so no product waits for another and neighbours can be done two at a
 * time, as wasm/factor.as does (2.2 times as fast as row by row). Pivots below 1e-300 are raised.
 */
export function bandFactor8(a: Floats, n: Index): void {
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
