import { createHash } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join } from 'node:path';

const here = createRequire(import.meta.url);

/** SHA-256 of the sources (tests apart) of the packages that have these entry points. */
export function codeHash(entries: readonly string[]): string {
  const hash = createHash('sha256');
  for (const entry of entries) {
    const [folder] = /^.*[\\/]src[\\/]/.exec(here.resolve(entry))!;
    const files = readdirSync(folder, { recursive: true, encoding: 'utf8' }).filter(
      (f) => f.endsWith('.ts') && !f.endsWith('.test.ts'),
    );
    for (const file of files.sort()) hash.update(file).update(readFileSync(join(folder, file)));
  }
  return hash.digest('hex');
}
