import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Character } from '../src/character/index';
import type { Shot } from '../src/shot/index';
import { simulateAll, trackOf, type TrackCache } from '../src/simulate/index';
import { cSource, FIELDS } from './cSource';

const ARRAYS = FIELDS.flatMap(({ name, array }) => (array ? [name] : []));

/** Steps that are replayed, spread over the shot. */
const SAMPLE = 400;

/** Compiles the same scheme in C; null without a compiler. */
export function compileScheme(folder: string): string | null {
  const path = join(folder, 'scheme.c');
  const main = readFileSync(fileURLToPath(new URL('native/replay.c', import.meta.url)), 'utf8');
  writeFileSync(path, cSource() + main);
  try {
    execFileSync('cc', ['-O2', '-o', join(folder, 'scheme'), path, '-lm']);
    return join(folder, 'scheme');
  } catch {
    return null;
  }
}

interface Image {
  base: number;
  header: number;
  bytes: Uint8Array;
}

/**
 * Times the steps of a shot, from the same memory to the same bits: ours (WebAssembly) and the same scheme in C.
 * Finding contacts, placing the source and writing frames are in neither. Gives ns for the best of `rounds`.
 */
export function besideScheme(
  program: string,
  folder: string,
  { character, shot }: { character: Character; shot: Shot },
  rounds: number,
): { ours: number; c: number } {
  const cache: TrackCache = {};
  const { arena, parts } = trackOf(character, shot, cache);
  const memory = parts[0]!.source.moving[0]!.list.buffer;
  const real = arena.step;
  const images: Image[] = [];
  let calls = 0;
  let every = 0;
  arena.step = (header) => {
    if (every > 0 && calls % every === 0) images.push(imageOf(memory, header));
    calls++;
    return real(header);
  };
  simulateAll(character, shot, cache);
  every = Math.max(1, Math.ceil(calls / SAMPLE));
  calls = 0;
  simulateAll(character, { ...shot, name: `${shot.name} again` }, { entry: cache.entry! });
  arena.step = real;

  let best = Infinity;
  let iterations = 0;
  let sum = 0;
  for (let r = 0; r < rounds; r++) {
    let ns = 0;
    iterations = sum = 0;
    for (const { base, header, bytes } of images) {
      new Uint8Array(memory, base, bytes.length).set(bytes);
      const start = performance.now();
      iterations += Math.abs(real(header));
      ns += (performance.now() - start) * 1e6;
      const [links] = new Float64Array(memory, header, 1);
      const x = new Float64Array(memory, addresses(memory, header)[ARRAYS.indexOf('x')]!, 3 * links! + 3);
      for (const v of x) sum += v;
    }
    best = Math.min(best, ns);
  }
  const file = join(folder, 'images.bin');
  writeFileSync(file, packed(images));
  const [c, taken, theirs] = execFileSync(program, [file, String(rounds)], { encoding: 'utf8' })
    .split(' ')
    .map(Number);
  if (taken !== iterations || Math.abs(theirs! - sum) > 1e-9 * Math.abs(sum))
    throw new Error(
      `The scheme in C is not ours: ${taken} iterations, not ${iterations}; ${theirs}, not ${sum}`,
    );
  return { ours: best, c: c! };
}

/** Where the arrays of a chain stand. */
const addresses = (memory: ArrayBufferLike, header: number): Uint32Array =>
  new Uint32Array(memory, header + 8 * (FIELDS.length - ARRAYS.length), ARRAYS.length);

/** The memory of one chain: from its first array to the end of its fields. Source rows stand elsewhere. */
function imageOf(memory: ArrayBufferLike, header: number): Image {
  const at = addresses(memory, header);
  const own = ARRAYS.flatMap((name, i) => (name === 'points' || name === 'turnRows' ? [] : [at[i]!]));
  const base = Math.min(...own);
  return {
    base,
    header,
    bytes: new Uint8Array(memory, base, at.byteOffset + at.byteLength - base).slice(),
  };
}

function packed(images: readonly Image[]): Buffer {
  const number = (x: number) => {
    const b = Buffer.alloc(8);
    b.writeBigInt64LE(BigInt(x));
    return b;
  };
  return Buffer.concat([
    number(images.length),
    ...images.flatMap((i) => [
      number(i.base),
      number(i.bytes.length),
      number(i.header),
      Buffer.from(i.bytes),
    ]),
  ]);
}
