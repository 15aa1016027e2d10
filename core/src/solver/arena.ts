import { KERNEL_BASE64 } from './kernel.generated';

/** Memory of one run, shared with the compiled step. */
export interface Arena {
  /** Zeroed numbers. */
  alloc(size: number): Float64Array;
  /** Writes down where a chain's numbers and arrays stand; the order is that of scripts/kernel.ts. Its address is the header's. */
  header(numbers: readonly number[], arrays: readonly Float64Array[]): Float64Array;
  /** Places the source of the chain of a header. */
  place(header: number, row: number, share: number): void;
  /** Steps the chain of a header; returns the iterations taken, below 0 when they were not enough. */
  step(header: number): number;
  /** Takes back all that was allocated after the first `numbers`. */
  release(numbers: number): void;
}

interface Kernel {
  memory: WebAssembly.Memory;
  place(header: number, row: number, share: number): void;
  step(header: number): number;
}

/** Numbers a chain of n links takes at most: its arrays (see chain.ts) and its header. */
export function chainNumbers(links: number): number {
  return 340 * links + 900;
}

let compiled: WebAssembly.Module | null = null;

/** An arena for so many numbers. Compiling takes a few milliseconds, once. */
export function makeArena(numbers: number): Arena {
  compiled ??= new WebAssembly.Module(Uint8Array.from(atob(KERNEL_BASE64), (c) => c.charCodeAt(0)));
  const kernel = new WebAssembly.Instance(compiled).exports as unknown as Kernel;
  const PAGE = 65536;
  const start = kernel.memory.buffer.byteLength;
  let free = start;
  kernel.memory.grow(Math.ceil((numbers * 8) / PAGE) + 1);
  const alloc = (size: number): Float64Array => {
    const out = new Float64Array(kernel.memory.buffer, free, size);
    free += size * 8;
    return out.fill(0);
  };
  return {
    alloc,
    header: (values, arrays) => {
      const out = alloc(values.length + arrays.length);
      out.set(values);
      arrays.forEach((a, i) => (out[values.length + i] = a.byteOffset));
      return out;
    },
    place: kernel.place,
    step: kernel.step,
    release: (numbers) => void (free = start + numbers * 8),
  };
}
