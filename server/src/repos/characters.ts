import { and, asc, count, desc, eq, getTableColumns, isNull, sql } from 'drizzle-orm';
import type { Tx } from '../db/database';
import { characterChunks, characters, shots } from '../db/tables';

/** A character, with how many shots are made with it. */
export type CharacterRow = typeof characters.$inferSelect & { shots: number };

const WITH_USES = {
  ...getTableColumns(characters),
  shots: sql<number>`(select count(*)::int from ${shots} where ${shots.characterHash} = ${characters.hash} and ${shots.deletedAt} is null)`,
};

export function findCharacter(tx: Tx, hash: string): Promise<CharacterRow | undefined> {
  return tx
    .select(WITH_USES)
    .from(characters)
    .where(eq(characters.hash, hash))
    .then((rows) => rows[0]);
}

/** Those that were brought; not what was baked of them. */
export function listCharacters(tx: Tx): Promise<CharacterRow[]> {
  return tx
    .select(WITH_USES)
    .from(characters)
    .where(isNull(characters.versionOf))
    .orderBy(desc(characters.createdAt), asc(characters.fileName));
}

/** Baked versions older than some days that no shot is made with. */
export const unusedVersions = (tx: Tx, days: number): Promise<string[]> =>
  tx
    .select({ hash: characters.hash })
    .from(characters)
    .where(
      sql`${characters.versionOf} is not null and ${characters.createdAt} < now() - ${days} * interval '1 day'
        and not exists (select from ${shots} where ${shots.characterHash} = ${characters.hash})`,
    )
    .then((rows) => rows.map((r) => r.hash));

/** Inserts unless the same bytes are stored already; true when it was new. */
export async function insertCharacter(tx: Tx, row: typeof characters.$inferInsert): Promise<boolean> {
  const rows = await tx
    .insert(characters)
    .values(row)
    .onConflictDoNothing()
    .returning({ hash: characters.hash });
  return rows.length > 0;
}

export async function insertChunk(tx: Tx, upload: string, position: number, data: Buffer): Promise<void> {
  await tx.insert(characterChunks).values({ upload, position, data });
}

export async function deleteChunks(tx: Tx, upload: string): Promise<void> {
  await tx.delete(characterChunks).where(eq(characterChunks.upload, upload));
}

export function readChunk(tx: Tx, hash: string, position: number): Promise<Buffer | undefined> {
  return tx
    .select({ data: characterChunks.data })
    .from(characterChunks)
    .where(and(eq(characterChunks.upload, hash), eq(characterChunks.position, position)))
    .then((rows) => rows[0]?.data);
}

/** Shots that use it, deleted ones too (they can be restored). */
export function countUses(tx: Tx, hash: string): Promise<number> {
  return tx
    .select({ n: count() })
    .from(shots)
    .where(eq(shots.characterHash, hash))
    .then((rows) => rows[0]!.n);
}

export async function deleteCharacter(tx: Tx, hash: string): Promise<void> {
  await tx.delete(characters).where(eq(characters.hash, hash));
  await deleteChunks(tx, hash);
}
