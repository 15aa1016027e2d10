import { createHash } from 'node:crypto';
import type { Database, Tx } from '../db/database';
import * as repo from '../repos/jobs';

const CHUNK = 1 << 20;

/** Stores bytes under their SHA-256, all rows or none, and returns it. */
export async function storeResult(tx: Tx, bytes: Uint8Array): Promise<string> {
  await repo.storing(tx);
  const hash = createHash('sha256').update(bytes).digest('hex');
  for (let at = 0, position = 0; at === 0 || at < bytes.length; at += CHUNK, position++)
    await repo.insertResult(tx, hash, position, Buffer.from(bytes.subarray(at, at + CHUNK)));
  return hash;
}

/** Stored bytes, a row at a time. */
export async function* readResultRows(db: Database, hash: string): AsyncGenerator<Buffer> {
  for (let position = 0; ; position++) {
    const chunk = await repo.readResult(db, hash, position);
    if (!chunk) return;
    yield chunk;
  }
}

export async function readResult(db: Database, hash: string): Promise<Uint8Array<ArrayBuffer>> {
  const rows: Buffer[] = [];
  for await (const row of readResultRows(db, hash)) rows.push(row);
  return new Uint8Array(Buffer.concat(rows));
}
