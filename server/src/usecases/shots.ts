import { randomBytes } from 'node:crypto';
import type {
  EditRecord,
  PostEdits,
  ShotPage,
  ShotsAsked,
  ShotState,
  ShotSummary,
} from '@oscillum/core/contract';
import { applyEdit, CharacterHash, parseShot, type Shot } from '@oscillum/core/shot';
import type { Database, Tx } from '../db/database';
import { AppError, notFound } from '../errors';
import { findCharacter } from '../repos/characters';
import * as repo from '../repos/shots';

const newId = () => randomBytes(10).toString('hex');

export async function createShot(db: Database, shot: Shot, id = newId()): Promise<ShotState> {
  return db.transaction(async (tx) => {
    if (!(await findCharacter(tx, shot.character.hash)))
      throw new AppError(
        404,
        'not-found',
        `The character ${shot.character.fileName} is not in the library.`,
        'Drop its file first, then open the shot again.',
      );
    await repo.insertShot(tx, id, shot);
    return { id, revision: 0, shot };
  });
}

export async function listShots(db: Database, asked: ShotsAsked): Promise<ShotPage> {
  const { page, total } = await repo.listShots(db, asked);
  return { shots: page.map(summary), total };
}

const summary = (row: repo.ListedShot): ShotSummary => ({
  ...row,
  characterHash: CharacterHash.parse(row.characterHash),
  updatedAt: row.updatedAt.toISOString(),
});

async function present(
  tx: Tx,
  id: string,
  find: (tx: Tx, id: string) => Promise<repo.ShotRow | undefined> = repo.findShot,
): Promise<repo.ShotRow> {
  const row = await find(tx, id);
  if (!row || row.deletedAt) throw notFound('shot');
  return row;
}

const state = (row: repo.ShotRow): ShotState => ({
  id: row.id,
  revision: row.revision,
  shot: parseShot(row.document),
});

export async function getShot(db: Database, id: string): Promise<ShotState> {
  return state(await present(db, id));
}

export async function listEdits(db: Database, id: string, after: number): Promise<EditRecord[]> {
  await present(db, id);
  return repo.editsAfter(db, id, after);
}

/**
 * Appends edits, all or none, and answers after commit. Edits the shot has already (sent twice after a lost answer)
 * are skipped; the rest must have been made on the shot's present revision.
 */
export async function postEdits(db: Database, id: string, request: PostEdits): Promise<{ revision: number }> {
  return db.transaction(async (tx) => {
    const row = await present(tx, id, repo.lockShot);
    const known = await repo.knownEdits(
      tx,
      id,
      request.edits.map((e) => e.id),
    );
    const fresh = request.edits.filter((e) => !known.has(e.id));
    if (fresh.length === 0) return { revision: row.revision };
    // Edits known already stand between the base and now without making it stale.
    if (request.baseRevision + known.size !== row.revision) {
      throw new AppError(
        409,
        'edit.stale',
        `This shot has changed since revision ${request.baseRevision}; it is at ${row.revision}.`,
        'Fetch the edits made since and send yours again on top.',
      );
    }
    let shot = parseShot(row.document);
    let revision = row.revision;
    for (const edit of fresh) {
      shot = applyEdit(shot, edit);
      revision++;
      await repo.insertEdit(tx, id, revision, edit);
    }
    await repo.updateShot(tx, id, shot, revision);
    return { revision };
  });
}

export async function duplicateShot(db: Database, id: string): Promise<ShotState> {
  const { shot } = await getShot(db, id);
  return createShot(db, parseShot({ ...shot, name: `${shot.name} copy`.slice(0, 200) }));
}

export async function deleteShot(db: Database, id: string): Promise<void> {
  await db.transaction(async (tx) => {
    await present(tx, id, repo.lockShot);
    await repo.setDeleted(tx, id, true);
  });
}

export async function restoreShot(db: Database, id: string): Promise<ShotState> {
  return db.transaction(async (tx) => {
    const row = await repo.lockShot(tx, id);
    if (!row) throw notFound('shot');
    await repo.setDeleted(tx, id, false);
    return state(row);
  });
}
