/**
 * Makes core/src/solver/kernel.generated.ts: the step of core/src/solver/chain.ts, compiled to WebAssembly by
 * AssemblyScript, which keeps the order of operations: the bits are the same as the reference's (tested). `--check` only
 * compares with the file that is there.
 */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { assemblyScript } from './kernelSource';

const root = fileURLToPath(new URL('..', import.meta.url));

const folder = mkdtempSync(join(tmpdir(), 'oscillum-kernel-'));
try {
  writeFileSync(join(folder, 'kernel.ts'), assemblyScript());
  const options = [
    '--outFile',
    'kernel.wasm',
    '-O3',
    '--noAssert',
    '--enable',
    'simd',
    '--runtime',
    'stub',
    '--initialMemory',
    '1',
  ];
  execFileSync(join(root, 'node_modules/.bin/asc'), ['kernel.ts', ...options], {
    cwd: folder,
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  const base64 = readFileSync(join(folder, 'kernel.wasm')).toString('base64');
  const text = `/** The step of chain.ts as WebAssembly. Made by \`npm run kernel\`; do not edit. */\nexport const KERNEL_BASE64 =\n  '${base64}';\n`;
  const path = join(root, 'core/src/solver/kernel.generated.ts');
  if (process.argv.includes('--check')) {
    if (readFileSync(path, 'utf8') !== text) {
      console.error(
        'core/src/solver/kernel.generated.ts is not made from chain.ts as it stands. Run: npm run kernel',
      );
      process.exitCode = 1;
    }
  } else {
    writeFileSync(path, text);
    console.log(`kernel: ${(base64.length * 0.75).toFixed(0)} bytes`);
  }
} finally {
  rmSync(folder, { recursive: true, force: true });
}
