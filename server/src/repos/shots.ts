import { and, asc, count as rowCount, desc, eq, gt, inArray, isNull, sql, type SQL } from 'drizzle-orm';
import type { ShotsAsked } from '@oscillum/core/contract';
import type { Edit, Shot } from '@oscillum/core/shot';
import type { Tx } from '../db/database';
import { edits, shots } from '../db/tables';
import { keepBlocks, readBlocks } from './mapBlocks';

export type ShotRow = typeof shots.$inferSelect;

export type ListedShot = Pick<
  ShotRow,
  'id' | 'name' | 'characterHash' | 'clip' | 'characterName' | 'parts' | 'frames' | 'revision' | 'updatedAt'
>;

/** What lists say of a shot. */
const LISTED = {
  ...{ id: shots.id, name: shots.name, characterHash: shots.characterHash, clip: shots.clip },
  ...{ characterName: shots.characterName, parts: shots.parts, frames: shots.frames },
  ...{ revision: shots.revision, updatedAt: shots.updatedAt },
};
const ORDERS = {
  changed: [desc(shots.updatedAt), asc(shots.id)],
  name: [asc(sql`lower(${shots.name})`), asc(shots.id)],
  character: [asc(sql`lower(${shots.characterName})`), asc(sql`lower(${shots.name})`), asc(shots.id)],
};

/** Shots with all the words in what lists say of them, a page of them, and how many there are in all. */
export async function listShots(tx: Tx, { search, sort, from, count }: ShotsAsked) {
  const said = sql`lower(${shots.name} || ' ' || ${shots.characterName} || ' ' || ${shots.clip})`;
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = and(isNull(shots.deletedAt), ...words.map((w) => sql`position(${w} in ${said}) > 0`));
  const rows = await tx
    .select({ ...LISTED, total: sql<number>`count(*) over ()::int` })
    .from(shots)
    .where(fits)
    .orderBy(...ORDERS[sort])
    .offset(from)
    .limit(count);
  const page = rows.map(({ total: _, ...shot }): ListedShot => shot);
  // A page past the end has no row to say how many there are.
  const total = rows[0]?.total ?? (from > 0 ? await countShots(tx, fits) : 0);
  return { page, total };
}

const countShots = (tx: Tx, fits: SQL | undefined): Promise<number> =>
  tx
    .select({ n: rowCount() })
    .from(shots)
    .where(fits)
    .then((rows) => rows[0]!.n);

/** What lists say of a document. */
const listed = (document: Shot) => ({
  name: document.name,
  characterHash: document.character.hash,
  characterName: document.character.fileName,
  clip: document.clip?.name ?? '',
  parts: Object.keys(document.parts).length,
  frames: document.range.last - document.range.first + 1,
});

export async function findShot(tx: Tx, id: string): Promise<ShotRow | undefined> {
  const rows = await tx.select().from(shots).where(eq(shots.id, id));
  return rows[0] && whole(tx, rows[0]);
}

/** A row with the painted maps in its document. */
async function whole(tx: Tx, row: ShotRow): Promise<ShotRow> {
  return { ...row, document: await readBlocks(tx, row.document) };
}

/** The row, locked until the transaction ends, so that edits of one shot queue up. */
export async function lockShot(tx: Tx, id: string): Promise<ShotRow | undefined> {
  const rows = await tx.select().from(shots).where(eq(shots.id, id)).for('update');
  return rows[0] && whole(tx, rows[0]);
}

export async function insertShot(tx: Tx, id: string, document: Shot): Promise<void> {
  await tx.insert(shots).values({ id, document: await keepBlocks(tx, document), ...listed(document) });
}

export async function updateShot(tx: Tx, id: string, document: Shot, revision: number): Promise<void> {
  await tx
    .update(shots)
    .set({
      ...{ document: await keepBlocks(tx, document), revision, ...listed(document) },
      updatedAt: sql`now()`,
    })
    .where(eq(shots.id, id));
}

export async function setDeleted(tx: Tx, id: string, deleted: boolean): Promise<void> {
  await tx
    .update(shots)
    .set({ deletedAt: deleted ? sql`now()` : null })
    .where(eq(shots.id, id));
}

export async function editsAfter(
  tx: Tx,
  shotId: string,
  revision: number,
): Promise<{ revision: number; edit: Edit }[]> {
  const rows = await tx
    .select({ revision: edits.revision, edit: edits.edit })
    .from(edits)
    .where(and(eq(edits.shotId, shotId), gt(edits.revision, revision)))
    .orderBy(asc(edits.revision));
  return readBlocks(tx, rows);
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
  await tx.insert(edits).values({ shotId, revision, editId: edit.id, edit: await keepBlocks(tx, edit) });
}
