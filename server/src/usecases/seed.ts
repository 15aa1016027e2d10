import { demoFiles } from '@oscillum/demo';
import type { Database } from '../db/database';
import { findShot } from '../repos/shots';
import { storeCharacter } from './characters';
import { createShot } from './shots';

/** Puts the demo characters and shots into the library once; shots that were deleted stay deleted. */
export async function seedDemo(db: Database): Promise<void> {
  let n = 0;
  for (const { fileName, bytes, shots } of await demoFiles()) {
    const ids = shots.map(() => `demoshot${String(++n).padStart(4, '0')}`);
    const missing = [];
    for (const [i, id] of ids.entries())
      if (!(await findShot(db, id))) missing.push([id, shots[i]!] as const);
    if (missing.length === 0) continue;
    await storeCharacter(db, fileName, one(Buffer.from(bytes)));
    for (const [id, shot] of missing) await createShot(db, shot, id);
  }
}

async function* one(bytes: Buffer): AsyncGenerator<Buffer> {
  yield bytes;
}
