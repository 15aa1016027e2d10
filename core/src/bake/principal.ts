import { symmetricEigen } from '../math/index';

/**
 * How many shapes are wanted: at most so many, and the fewest whose error (m) is this small: RMS over all vertices and
 * rows, or the largest of all.
 */
export interface WantedShapes {
  readonly most: number;
  readonly error: number;
  readonly largest?: boolean;
}

/** Rows of places as a mean and weighted shapes. */
export interface Shapes {
  /** 3 numbers a vertex: the mean of all rows. */
  readonly mean: Float32Array;
  /** The rest, the one that does most first; the largest weight of each is 1. */
  readonly shapes: readonly Float32Array[];
  /** Rows × shapes. */
  readonly weights: Float64Array;
  /** What is left over, m: RMS over all vertices and rows, and the largest. */
  readonly rms: number;
  readonly largest: number;
  /** The row that is farthest off. */
  readonly worst: number;
}

/**
 * Principal shapes of rows of `size` numbers (3 a vertex): G = D Dᵀ of the rows less their mean, eigenvectors V;
 * shape U_k = Dᵀ v_k / √λ_k, weight √λ_k v_k (Alexa, Müller 2000). What is left over is measured on the numbers as
 * they are written, in single precision.
 */
export function principalShapes(rows: ArrayLike<number>, size: number, wanted: WantedShapes): Shapes {
  const count = rows.length / size;
  const mean = new Float32Array(size);
  for (let k = 0; k < size; k++) {
    let sum = 0;
    for (let f = 0; f < count; f++) sum += rows[f * size + k]!;
    mean[k] = sum / count;
  }
  const d = new Float64Array(count * size);
  for (let f = 0; f < count; f++)
    for (let k = 0; k < size; k++) d[f * size + k] = rows[f * size + k]! - mean[k]!;
  const { values, vectors } = symmetricEigen(gramOf(d, count, size), count);
  const used = wanted.largest ? realOf(values, wanted.most) : howMany(values, (count * size) / 3, wanted);
  const shapes: Float32Array[] = [];
  let weights: Float64Array = new Float64Array(count * used);
  const least = wanted.largest ? howMany(values, (count * size) / 3, wanted) : 0;
  for (let s = 0; s < used; s++) {
    // The largest error is no smaller than the mean one.
    if (wanted.largest && s >= least) {
      const some = firstOf(weights, used, s);
      if (leftOver(rows, size, mean, shapes, some).largest <= wanted.error) {
        weights = some;
        break;
      }
    }
    const row = vectors.subarray(s * count, (s + 1) * count);
    const size1 = Math.sqrt(values[s]!);
    const most = row.reduce((m, v) => Math.max(m, Math.abs(v)), 0) * size1;
    const shape = new Float64Array(size);
    for (let f = 0; f < count; f++) {
      const v = row[f]! / size1;
      if (v !== 0) for (let k = 0; k < size; k++) shape[k]! += v * d[f * size + k]!;
      weights[f * used + s] = Math.fround((row[f]! * size1) / most);
    }
    shapes.push(Float32Array.from(shape, (x) => x * most));
  }
  return { mean, shapes, weights, ...leftOver(rows, size, mean, shapes, weights) };
}

/** Products of all rows with each other, count × count. */
function gramOf(d: Float64Array, count: number, size: number): Float64Array {
  const out = new Float64Array(count * count);
  for (let i = 0; i < count; i++)
    for (let j = i; j < count; j++) {
      let sum = 0;
      for (let k = 0; k < size; k++) sum += d[i * size + k]! * d[j * size + k]!;
      out[i * count + j] = out[j * count + i] = sum;
    }
  return out;
}

/** How many values are more than rounding, at most so many. */
function realOf(values: Float64Array, most: number): number {
  // Values this small beside the largest are rounding.
  const real = values.findIndex((v) => !(v > 1e-12 * values[0]!));
  return Math.min(most, real < 0 ? values.length : real);
}

/** The first columns of rows that are `wide` numbers. */
const firstOf = (rows: Float64Array, wide: number, columns: number): Float64Array =>
  rows.filter((_, k) => k % wide < columns);

/** The fewest shapes that leave no more than the error: left over is the sum of the values that are not used. */
function howMany(values: Float64Array, vertices: number, { most, error }: WantedShapes): number {
  const limit = realOf(values, most);
  let left = values.reduce((s, v) => s + Math.max(0, v), 0);
  for (let k = 0; k < limit; k++) {
    if (Math.sqrt(Math.max(0, left) / vertices) <= error) return k;
    left -= values[k]!;
  }
  return limit;
}

function leftOver(
  rows: ArrayLike<number>,
  size: number,
  mean: Float32Array,
  shapes: readonly Float32Array[],
  weights: Float64Array,
): Pick<Shapes, 'rms' | 'largest' | 'worst'> {
  const count = rows.length / size;
  const row = new Float64Array(size);
  let [sum, largest, worst] = [0, 0, 0];
  for (let f = 0; f < count; f++) {
    for (let k = 0; k < size; k++) row[k] = rows[f * size + k]! - mean[k]!;
    shapes.forEach((shape, s) => {
      const w = weights[f * shapes.length + s]!;
      for (let k = 0; k < size; k++) row[k]! -= w * shape[k]!;
    });
    for (let k = 0; k < size; k += 3) {
      const off = row[k]! ** 2 + row[k + 1]! ** 2 + row[k + 2]! ** 2;
      sum += off;
      if (off > largest) [largest, worst] = [off, f];
    }
  }
  return { rms: Math.sqrt(sum / ((count * size) / 3)), largest: Math.sqrt(largest), worst };
}
