/**
 * Two coupled pendulums, exact. With places x, springs K and dampers C:
 *
 *   x″ + C x′ + K x = (ω₁², ω₂²)ᵀ u,   K = [[ω₁² + k, −k], [−k, ω₂² + k]],   k = coupling · ω₁ ω₂,
 *
 * so that a steady input u is met by both (K (1, 1)ᵀ u is what drives them). C is diag(2 ζ₁ ω₁, 2 ζ₂ ω₂), or where
 * nothing may be passed 2 z K^½ with z ≥ 1: every mode is then damped at least critically, and since the slow mode
 * moves both alike and the fast one is gone sooner, the answer to a step rises all the way and stays below it.
 *
 * A step of h seconds is taken by the matrix exponential, with the input straight between its samples (first-order
 * hold, Franklin, Powell and Workman, Digital Control of Dynamic Systems, §4.3.3): exact for such an input.
 */

/** Frequencies in Hz, damping ratios. */
export interface Pair {
  readonly frequency: number;
  readonly damping: number;
  readonly frequency2: number;
  readonly damping2: number;
  readonly coupling: number;
  readonly noOvershoot: boolean;
}

/** State: places of both (0, 1) and speeds of both a second (2, 3). */
export const STATE = 4;
/** State, input, and the input's slope: the system whose exponential a step is. */
const SIZE = 6;

/** Square roots of a symmetric 2 × 2 matrix with positive eigenvalues: (K + √det) / √(trace + 2 √det). */
function root(a: number, b: number, d: number): [number, number, number] {
  const s = Math.sqrt(a * d - b * b);
  const t = Math.sqrt(a + d + 2 * s);
  return [(a + s) / t, b / t, (d + s) / t];
}

/** Springs and dampers of a pair, as symmetric matrices [11, 12, 22], and what drives each. */
export function matricesOf(p: Pair): { k: number[]; c: number[]; drive: [number, number] } {
  const [w1, w2] = [2 * Math.PI * p.frequency, 2 * Math.PI * p.frequency2];
  const tie = p.coupling * w1 * w2;
  const k = [w1 * w1 + tie, -tie, w2 * w2 + tie];
  const z = Math.max(1, p.damping, p.damping2);
  const c = p.noOvershoot
    ? root(k[0]!, k[1]!, k[2]!).map((x) => 2 * z * x)
    : [2 * p.damping * w1, 0, 2 * p.damping2 * w2];
  return { k, c, drive: [w1 * w1, w2 * w2] };
}

/** A step of h seconds: new state = rows · (state, input before, input after); 4 × 6 numbers, row by row. */
export function stepOf(p: Pair, h: number): Float64Array {
  const { k, c, drive } = matricesOf(p);
  const a = new Float64Array(SIZE * SIZE);
  const row = (i: number, values: readonly number[]) => values.forEach((x, j) => (a[SIZE * i + j] = x * h));
  row(0, [0, 0, 1, 0, 0, 0]);
  row(1, [0, 0, 0, 1, 0, 0]);
  row(2, [-k[0]!, -k[1]!, -c[0]!, -c[1]!, drive[0], 0]);
  row(3, [-k[1]!, -k[2]!, -c[1]!, -c[2]!, drive[1], 0]);
  // The input goes from u to u + (its change), evenly over the step.
  a[SIZE * 4 + 5] = 1;
  const e = exponential(a, SIZE);
  const out = new Float64Array(STATE * SIZE);
  for (let i = 0; i < STATE; i++) {
    for (let j = 0; j < STATE; j++) out[SIZE * i + j] = e[SIZE * i + j]!;
    out[SIZE * i + 4] = e[SIZE * i + 4]! - e[SIZE * i + 5]!;
    out[SIZE * i + 5] = e[SIZE * i + 5]!;
  }
  return out;
}

/** Takes one step, in place. */
export function advancePair(state: Float64Array, step: Float64Array, before: number, after: number): void {
  const [x1, x2, v1, v2] = [state[0]!, state[1]!, state[2]!, state[3]!];
  for (let i = 0; i < STATE; i++) {
    const r = SIZE * i;
    state[i] =
      step[r]! * x1 +
      step[r + 1]! * x2 +
      step[r + 2]! * v1 +
      step[r + 3]! * v2 +
      step[r + 4]! * before +
      step[r + 5]! * after;
  }
}

/** Terms of the series, and how small a matrix has to be for them to be exact to the last digit. */
const TERMS = 14;
const SMALL = 0.25;

/** The exponential of a square matrix, by its series on a small share of it, squared up again. */
export function exponential(a: Float64Array, n: number): Float64Array {
  let norm = 0;
  for (const x of a) norm = Math.max(norm, Math.abs(x));
  let halvings = 0;
  for (let size = norm * n; size > SMALL; size /= 2) halvings++;
  const small = a.slice();
  for (let k = 0; k < halvings; k++) for (let i = 0; i < small.length; i++) small[i]! /= 2;
  let sum = identity(n);
  // Horner: 1 + A (1 + A/2 (1 + A/3 (…)))
  for (let k = TERMS; k >= 1; k--) {
    sum = product(small, sum, n).map((x) => x / k);
    for (let i = 0; i < n; i++) sum[i * n + i]! += 1;
  }
  for (let k = 0; k < halvings; k++) sum = product(sum, sum, n);
  return sum;
}

const identity = (n: number): Float64Array => {
  const out = new Float64Array(n * n);
  for (let i = 0; i < n; i++) out[i * n + i] = 1;
  return out;
};

function product(a: Float64Array, b: Float64Array, n: number): Float64Array {
  const out = new Float64Array(n * n);
  for (let i = 0; i < n; i++)
    for (let j = 0; j < n; j++) {
      let sum = 0;
      for (let k = 0; k < n; k++) sum += a[i * n + k]! * b[k * n + j]!;
      out[i * n + j] = sum;
    }
  return out;
}
