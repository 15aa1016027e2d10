import { describe, expect, it } from 'vitest';
import { bandFactor8, PAD8 } from '../kernel/factor';
import { bandSolve8 } from '../kernel/solve';
import { bandFactor, bandSolve, smallestMode } from './band';
import { mulberry32 } from './random';

const random = mulberry32(3);

describe('banded kernels', () => {
  it('factor and solve invert a random positive definite band for every width and several columns', () => {
    for (let w = 0; w <= 3; w++) {
      for (const n of [1, 2, 3, 8, 21]) {
        const s = w + 1;
        const a = new Float64Array(n * s);
        for (let i = 0; i < n; i++)
          for (let k = 0; k <= Math.min(w, i); k++)
            a[i * s + k] = k === 0 ? 2 * w + 1 + random() : random() * 2 - 1;
        const at = (i: number, j: number) =>
          Math.abs(i - j) > w ? 0 : a[Math.max(i, j) * s + Math.abs(i - j)]!;
        const columns = 3;
        const x = Float64Array.from({ length: n * columns }, () => random() - 0.5);
        const b = new Float64Array(n * columns);
        for (let i = 0; i < n; i++)
          for (let j = 0; j < n; j++)
            for (let c = 0; c < columns; c++) b[i * columns + c]! += at(i, j) * x[j * columns + c]!;
        const l = Float64Array.from(a);
        expect(bandFactor(l, n, w)).toBe(0);
        bandSolve(l, n, w, b, columns);
        for (let i = 0; i < b.length; i++) expect(b[i]).toBeCloseTo(x[i]!, 11);
      }
    }
  });
  it('the unrolled band of half width 8 solves like the loop, for every size from one row up', () => {
    for (const n of [1, 2, 3, 6, 7, 8, 9, 10, 12, 30]) {
      const a = new Float64Array(n * 9);
      for (let i = 0; i < n; i++)
        for (let k = 0; k <= Math.min(8, i); k++) a[i * 9 + k] = k === 0 ? 12 + random() : random() * 2 - 1;
      const b = Float64Array.from({ length: n }, () => random() - 0.5);
      const loop = Float64Array.from(a),
        expected = Float64Array.from(b);
      bandFactor(loop, n, 8);
      bandSolve(loop, n, 8, expected, 1);
      const columns = new Float64Array(9 * (n + PAD8));
      for (let i = 0; i < n; i++)
        for (let k = 0; k <= Math.min(8, i); k++) columns[9 * (i - k) + k] = a[9 * i + k]!;
      bandFactor8(columns, n);
      bandSolve8(columns, n, b);
      for (let i = 0; i < n; i++) expect(b[i]).toBeCloseTo(expected[i]!, 12);
    }
  });
  it('raises a pivot that is not positive instead of making NaN', () => {
    const a = new Float64Array([1, 0, 1, 2]);
    expect(bandFactor(a, 2, 1)).toBe(1);
    expect(a.every(Number.isFinite)).toBe(true);
  });
  it('finds the first mode of a clamped string of masses, known in closed form', () => {
    const n = 12;
    const k = new Float64Array(2 * n);
    for (let i = 0; i < n; i++) {
      k[2 * i] = 2;
      k[2 * i + 1] = i > 0 ? -1 : 0;
    }
    expect(smallestMode(k, new Float64Array(n).fill(1), n, 1)).toBeCloseTo(
      2 - 2 * Math.cos(Math.PI / (n + 1)),
      11,
    );
  });
});
