import { KERNEL_BASE64 } from './kernel.generated';

/** Memory of one run, shared with the compiled step. */
export interface Arena {
  /** Zeroed numbers. */
  alloc(size: number): Float64Array;
  /** Room for so many numbers and, after them, where arrays stand; the order is that of scripts/kernelSource.ts. */
  header(numbers: number, arrays: readonly Float64Array[]): Float64Array;
  /** Places the source of the chain of a header. */
  place(header: number, row: number, share: number): void;
  /** Builds the matrix of the chain of a header for its order; returns its largest number. */
  build(header: number): number;
  /** Steps the chain of a header; returns the iterations taken, below 0 when they were not enough. */
  step(header: number): number;
  /** Looks for what the chain of a header may touch (search.ts); meshes are asked by their place in the list. Returns how much was found. */
  search(header: number, nearestMesh: (body: number) => void): number;
  /** Lets the air of a header blow on its chain (air.ts). */
  air(header: number): void;
  /** Writes and reads the contact rows of a header (touches.ts). */
  writeRows(header: number): void;
  readRows(header: number): void;
  /** Finds the turns of the links of a header (turns.ts). */
  turnLinks(header: number): void;
  /** Takes back all that was allocated after the first `numbers`. */
  release(numbers: number): void;
}

interface Kernel {
  memory: WebAssembly.Memory;
  place(header: number, row: number, share: number): void;
  build(header: number): number;
  step(header: number): number;
  search(header: number): number;
  air(header: number): void;
  turns(header: number): void;
  forget(): void;
  writeContacts(header: number): void;
  readTouches(header: number): void;
}

/** Numbers a chain of n links takes at most: its arrays (see chain.ts, air.ts and turns.ts) and its headers. */
export function chainNumbers(links: number): number {
  return 400 * links + 1100;
}

let compiled: WebAssembly.Module | null = null;

/** An arena for so many numbers. Compiling takes a few milliseconds, once. */
export function makeArena(numbers: number): Arena {
  compiled ??= new WebAssembly.Module(Uint8Array.from(atob(KERNEL_BASE64), (c) => c.charCodeAt(0)));
  let askMesh: (body: number) => void = () => undefined;
  const imports = { env: { nearestMesh: (body: number) => askMesh(body) } };
  const kernel = new WebAssembly.Instance(compiled, imports).exports as unknown as Kernel;
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
    header: (numbers, arrays) => {
      const out = alloc(numbers + arrays.length);
      arrays.forEach((a, i) => (out[numbers + i] = a.byteOffset));
      return out;
    },
    place: kernel.place,
    build: kernel.build,
    step: kernel.step,
    air: kernel.air,
    turnLinks: kernel.turns,
    writeRows: kernel.writeContacts,
    readRows: kernel.readTouches,
    search: (header, nearestMesh) => {
      askMesh = nearestMesh;
      return kernel.search(header);
    },
    release: (numbers) => {
      free = start + numbers * 8;
      kernel.forget();
    },
  };
}
