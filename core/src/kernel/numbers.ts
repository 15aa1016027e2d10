/**
 * The types and the few helpers that the code of the kernel is written in. It is TypeScript and AssemblyScript at once:
 * run as it stands it is the reference, compiled (scripts/kernel.ts) it is the WebAssembly that simulates. There
 * wasm/numbers.as stands for this file, and the same names mean numbers in linear memory.
 *
 * `number` is a 64-bit real. A whole number that counts or points into an array is an {@link Index}.
 */
export type Index = number;
/** Numbers that a step keeps. */
export type Floats = Float64Array;
/** Whole numbers that a step keeps: places in arrays, counts. */
export type Ints = Int32Array;
/** Numbers that a function only reads, or also writes, whoever owns them. */
export type Numbers = ArrayLike<number>;
export type Writable = Float64Array | Float32Array | number[];

/** No numbers: what stands in a field until it is given some. */
export const NONE: Floats = new Float64Array(0);
export const NO_INTS: Ints = new Int32Array(0);

/** A whole number kept among real ones, as an index. */
export function int(x: number): Index {
  return x;
}

/** a × b of whole numbers, of which the lower 32 bits stay. */
export function times(a: Index, b: Index): Index {
  return Math.imul(a, b);
}

/** The first `count` numbers of `from` into `to`. */
export function copy(to: Floats, from: Floats, count: Index): void {
  for (let k = 0; k < count; k++) to[k] = from[k]!;
}
