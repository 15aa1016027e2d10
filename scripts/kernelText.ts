import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const source = fileURLToPath(new URL('../core/src/kernel', import.meta.url));

/**
 * A file of core/src/kernel, with the two things of TypeScript that AssemblyScript does not read written as it does:
 * imports of types, and several fields taken at once.
 */
export const kernelText = (name: string): string =>
  readFileSync(join(source, name), 'utf8')
    .replace(/^import type /gm, 'import ')
    .replace(/^( *)const \{([^}]*)\} = (\w+);/gm, (_, indent: string, names: string, of: string) => {
      const copies = names
        .split(',')
        .map((k) => k.trim())
        .filter((k) => k !== '');
      return `${indent}const ${copies.map((k) => `${k} = ${of}.${k}`).join(', ')};`;
    });
