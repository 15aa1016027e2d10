import { and, asc, desc, eq, gt, inArray, isNull, sql } from 'drizzle-orm';
import type { Edit, Shot } from '@oscillum/core/shot';
import type { Tx } from '../db/database';
import { edits, shots } from '../db/tables';

export type ShotRow = typeof shots.$inferSelect;

export function listShots(tx: Tx): Promise<ShotRow[]> {
  return tx.select().from(shots).where(isNull(shots.deletedAt)).orderBy(desc(shots.updatedAt), asc(shots.id));
}

export function findShot(tx: Tx, id: string): Promise<ShotRow | undefined> {
  return tx
    .select()
    .from(shots)
    .where(eq(shots.id, id))
    .then((rows) => rows[0]);
}

/** The row, locked until the transaction ends, so that edits of one shot queue up. */
export function lockShot(tx: Tx, id: string): Promise<ShotRow | undefined> {
  return tx
    .select()
    .from(shots)
    .where(eq(shots.id, id))
    .for('update')
    .then((rows) => rows[0]);
}

export async function insertShot(tx: Tx, id: string, document: Shot): Promise<void> {
  await tx.insert(shots).values({ id, document, characterHash: document.character.hash });
}

export async function updateShot(tx: Tx, id: string, document: Shot, revision: number): Promise<void> {
  await tx
    .update(shots)
    .set({ document, revision, characterHash: document.character.hash, updatedAt: sql`now()` })
    .where(eq(shots.id, id));
}

export async function setDeleted(tx: Tx, id: string, deleted: boolean): Promise<void> {
  await tx
    .update(shots)
    .set({ deletedAt: deleted ? sql`now()` : null })
    .where(eq(shots.id, id));
}

export function editsAfter(
  tx: Tx,
  shotId: string,
  revision: number,
): Promise<{ revision: number; edit: Edit }[]> {
  return tx
    .select({ revision: edits.revision, edit: edits.edit })
    .from(edits)
    .where(and(eq(edits.shotId, shotId), gt(edits.revision, revision)))
    .orderBy(asc(edits.revision));
}

/** Which of these edits the shot has already. */
export async function knownEdits(tx: Tx, shotId: string, ids: string[]): Promise<Set<string>> {
  const rows = await tx
    .select({ id: edits.editId })
    .from(edits)
    .where(and(eq(edits.shotId, shotId), inArray(edits.editId, ids)));
  return new Set(rows.map((r) => r.id));
}

export async function insertEdit(tx: Tx, shotId: string, revision: number, edit: Edit): Promise<void> {
  await tx.insert(edits).values({ shotId, revision, editId: edit.id, edit });
}
