import { randomBytes, randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import type { Database } from '../db/database';
import { characterChunks } from '../db/tables';

/** Writes a row and takes it away again. Fails as a save would, with a full disk or a read-only database. */
export async function tryWriting(db: Database): Promise<void> {
  const upload = `health-${randomUUID()}`;
  await db.transaction(async (tx) => {
    await tx.insert(characterChunks).values({ upload, position: 0, data: randomBytes(8192) });
    await tx.delete(characterChunks).where(eq(characterChunks.upload, upload));
  });
}
