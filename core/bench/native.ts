import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Field } from './cSource';

/** Where the fields of a step lie in an arena's memory. */
export interface Lying {
  readonly buffer: ArrayBufferLike;
  readonly header: number;
  readonly fields: readonly Field[];
}

/** The memory of a step from its first array to the end of its fields, as native/steps.c reads it. */
export function imageOf({ buffer, header, fields }: Lying): { base: number; bytes: Uint8Array } {
  const numbers = fields.filter((f) => !f.array).length;
  const at = new Uint32Array(buffer, header + 8 * numbers, fields.length - numbers);
  const base = Math.min(...at.filter((a) => a > 0));
  return { base, bytes: new Uint8Array(buffer, base, at.byteOffset + at.byteLength - base).slice() };
}

/**
 * ns of so many steps in C from an image of memory, the best of some rounds; null without a compiler. Throws when its
 * places after them do not sum up to ours.
 */
export function inC(
  source: string,
  { base, bytes, header }: { base: number; bytes: Uint8Array; header: number },
  steps: { readonly count: number; readonly seldom: number; readonly rounds: number },
  sum: number,
): number | null {
  const folder = mkdtempSync(join(tmpdir(), 'oscillum-bench-'));
  try {
    const main = readFileSync(fileURLToPath(new URL('native/steps.c', import.meta.url)), 'utf8');
    writeFileSync(join(folder, 'steps.c'), source + main);
    try {
      execFileSync('cc', ['-O2', '-o', join(folder, 'steps'), join(folder, 'steps.c'), '-lm']);
    } catch {
      return null;
    }
    const head = Buffer.alloc(24);
    [base, bytes.length, header].forEach((v, k) => head.writeBigInt64LE(BigInt(v), 8 * k));
    writeFileSync(join(folder, 'image.bin'), Buffer.concat([head, bytes]));
    const asked = [join(folder, 'image.bin'), steps.count, steps.seldom, steps.rounds].map(String);
    const [ns, theirs] = execFileSync(join(folder, 'steps'), asked, { encoding: 'utf8' })
      .split(' ')
      .map(Number);
    if (Math.abs(theirs! - sum) > 1e-9 * Math.abs(sum))
      throw new Error(`The scheme in C is not ours: it comes to ${theirs}, not ${sum}`);
    return ns!;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
