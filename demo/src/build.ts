import { mkdirSync, writeFileSync } from 'node:fs';
import { demoFiles } from './index';

/** Writes the demo characters to demo/out, for dropping on the application. */
const out = new URL('../out/', import.meta.url);
mkdirSync(out, { recursive: true });
for (const { fileName, bytes } of await demoFiles()) {
  writeFileSync(new URL(fileName, out), bytes);
  console.log(`demo/out/${fileName}  ${(bytes.length / 1024).toFixed(0)} KiB`);
}
