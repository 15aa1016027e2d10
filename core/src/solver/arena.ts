import { KERNEL_BASE64 } from './kernel.generated';

/** Where the fields of a step (a class of core/src/kernel) lie in the memory of an arena. */
export interface Placed {
  /** Address, bytes. */
  readonly at: number;
  /** Its numbers, in the order of the class: see {@link numberAt}. */
  readonly numbers: Float64Array;
  /** Addresses of its arrays, in the order of the class: see {@link arrayAt}. */
  readonly arrays: Uint32Array;
}

/** Memory of one run, shared with the compiled kernel; its functions take where the fields of a step lie. */
export interface Arena {
  /** Zeroed numbers. */
  alloc(size: number): Float64Array;
  /** Zeroed whole numbers of 32 bits; two take the room of one number. */
  allocInts(size: number): Int32Array;
  /** Writes the fields of a step into memory. Its arrays must be of this arena. */
  place(fields: object): Placed;
  /**
   * See core/src/kernel: `placeSource`, `buildBase`, `stepChain`, `pressAir`, `turnLinks`, `writeContactRows`,
   * `readContactRows`.
   */
  source(at: number, row: number, share: number): void;
  build(at: number): number;
  step(at: number): number;
  air(at: number): void;
  turns(at: number): void;
  writeRows(at: number): void;
  readRows(at: number): void;
  /** The kernels of cloth: see core/src/kernel/cloth. */
  readonly cloth: ClothKernels;
  /** One step of a region of skin: see core/src/kernel/soft. */
  region(at: number): void;
  /** The implicit step of a soft body: see core/src/kernel/soft. */
  body(at: number): void;
  /** A step of strands, before and after what they touch is looked for: see core/src/kernel/strands. */
  blowStrands(at: number): void;
  predictStrands(at: number): void;
  solveStrands(at: number): void;
  /** `searchLinks`; meshes are asked by their place in the list. */
  search(at: number, nearestMesh: (body: number) => void): number;
  /** Takes back all that was allocated after the first `numbers`. */
  release(numbers: number): void;
}

/** What moves a sheet, and what finds where points touch bodies, each by where its fields lie. */
export interface ClothKernels {
  predictCloth(at: number): void;
  blowCloth(at: number): void;
  aimBend(at: number): void;
  bendCords(at: number): void;
  bendBack(at: number): void;
  keepLengths(at: number): void;
  keepLeash(at: number): void;
  finishCloth(at: number): void;
  readyTouches(at: number): void;
  findTouches(at: number): void;
  measureTouches(at: number): void;
  pushOut(at: number): void;
  finishTouches(at: number): void;
  reactTouches(at: number): void;
  startInside(at: number): void;
  findSelf(at: number): void;
  partSelf(at: number): void;
}

interface Kernel extends ClothKernels {
  memory: WebAssembly.Memory;
  placeSource(at: number, row: number, share: number): void;
  buildBase(at: number): number;
  stepChain(at: number): number;
  searchLinks(at: number): number;
  pressAir(at: number): void;
  turnLinks(at: number): void;
  stepRegion(at: number): void;
  solveBody(at: number): void;
  blowStrands(at: number): void;
  predictStrands(at: number): void;
  solveStrands(at: number): void;
  writeContactRows(at: number): void;
  readContactRows(at: number): void;
}

/** Numbers a chain of n links takes at most: its arrays (see chain.ts, air.ts and turns.ts) and its fields. */
export function chainNumbers(links: number): number {
  return 400 * links + 1100;
}

const numbersOf = (fields: object): string[] =>
  Object.entries(fields).flatMap(([k, value]) => (typeof value === 'number' ? [k] : []));
const arraysOf = (fields: object): string[] =>
  Object.entries(fields).flatMap(([k, value]) => (typeof value === 'number' ? [] : [k]));

/** Where a number of a step stands among its numbers. */
export const numberAt = <T extends object>(fields: T, name: keyof T & string): number =>
  numbersOf(fields).indexOf(name);
/** Where an array of a step stands among its arrays. */
export const arrayAt = <T extends object>(fields: T, name: keyof T & string): number =>
  arraysOf(fields).indexOf(name);

/** Bytes of a page of WebAssembly memory. */
const PAGE = 65536;

let compiled: WebAssembly.Module | null = null;

/** An arena for so many numbers. Compiling takes a few milliseconds, once. */
export function makeArena(numbers: number): Arena {
  compiled ??= new WebAssembly.Module(Uint8Array.from(atob(KERNEL_BASE64), (c) => c.charCodeAt(0)));
  let askMesh: (body: number) => void = () => undefined;
  const imports = { env: { nearestMesh: (body: number) => askMesh(body) } };
  const kernel = new WebAssembly.Instance(compiled, imports).exports as unknown as Kernel;
  const start = kernel.memory.buffer.byteLength;
  kernel.memory.grow(Math.ceil((numbers * 8) / PAGE) + 1);
  const { buffer } = kernel.memory;
  let free = start;
  const alloc = (size: number): Float64Array => {
    const out = new Float64Array(buffer, free, size);
    free += size * 8;
    return out.fill(0);
  };
  return {
    alloc,
    allocInts: (size) => {
      const out = new Int32Array(buffer, free, size);
      free += 8 * Math.ceil(size / 2);
      return out.fill(0);
    },
    place: (fields) => {
      const named = fields as Record<string, number & Float64Array>;
      const own = numbersOf(fields);
      const arrays = arraysOf(fields);
      const out = alloc(own.length + Math.ceil(arrays.length / 2));
      const addresses = new Uint32Array(buffer, out.byteOffset + 8 * own.length, arrays.length);
      own.forEach((k, i) => (out[i] = named[k]!));
      arrays.forEach((k, i) => (addresses[i] = named[k]!.byteOffset));
      return { at: out.byteOffset, numbers: out.subarray(0, own.length), arrays: addresses };
    },
    source: kernel.placeSource,
    build: kernel.buildBase,
    step: kernel.stepChain,
    air: kernel.pressAir,
    turns: kernel.turnLinks,
    writeRows: kernel.writeContactRows,
    readRows: kernel.readContactRows,
    cloth: kernel,
    region: kernel.stepRegion,
    body: kernel.solveBody,
    blowStrands: kernel.blowStrands,
    predictStrands: kernel.predictStrands,
    solveStrands: kernel.solveStrands,
    search: (at, nearestMesh) => {
      askMesh = nearestMesh;
      return kernel.searchLinks(at);
    },
    release: (kept) => {
      free = start + kept * 8;
    },
  };
}
