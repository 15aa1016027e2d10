/**
 * Makes core/src/solver/kernel.generated.ts: core/src/kernel compiled to WebAssembly by AssemblyScript, which keeps the
 * order of operations, so the bits are those of the same code run as TypeScript (tested). `--check` only compares with
 * the file that is there.
 */
import { readFileSync, writeFileSync } from 'node:fs';
import { basename } from 'node:path';
import { fileURLToPath } from 'node:url';
import asc from 'assemblyscript/asc';
import { kernelText } from './kernelText';

const generated = fileURLToPath(new URL('../core/src/solver/kernel.generated.ts', import.meta.url));
/** Files that stand for those of the same name: memory, what the host answers, and kernels two numbers at a time. */
const TWINS = new Set([
  ...['numbers.ts', 'host.ts', 'factor.ts', 'rows.ts'],
  ...[
    'cloth/advance.ts',
    'cloth/airTriangles.ts',
    'cloth/lengths.ts',
    'cloth/bendPaths.ts',
    'touch/pose.ts',
    'soft/stiffen.ts',
  ],
]);

/** A file of the kernel as it is compiled; null where there is none. */
function fileOf(name: string): string | null {
  try {
    return kernelText(TWINS.has(name) ? `wasm/${basename(name, '.ts')}.as` : name);
  } catch {
    return null;
  }
}

const OPTIONS = ['-O3', '--noAssert', '--enable', 'simd', '--runtime', 'stub', '--initialMemory', '1'];

async function compile(): Promise<Uint8Array> {
  let binary: Uint8Array | null = null;
  const { error, stderr } = await asc.main(['index.ts', '--outFile', 'kernel.wasm', ...OPTIONS], {
    readFile: (name) => fileOf(name),
    writeFile: (_, contents) => void (binary = contents as Uint8Array),
    listFiles: () => [],
  });
  if (error || !binary) throw new Error(`${stderr.toString()}\n${String(error)}`);
  return binary;
}

const base64 = Buffer.from(await compile()).toString('base64');
const text = `/** core/src/kernel as WebAssembly. Made by \`npm run kernel\`; do not edit. */\nexport const KERNEL_BASE64 =\n  '${base64}';\n`;
if (!process.argv.includes('--check')) {
  writeFileSync(generated, text);
  console.log(`kernel: ${(base64.length * 0.75).toFixed(0)} bytes`);
} else if (readFileSync(generated, 'utf8') !== text) {
  console.error(`${generated} is not made from core/src/kernel as it stands. Run: npm run kernel`);
  process.exitCode = 1;
}
