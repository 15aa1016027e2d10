import { and, asc, desc, eq, getTableColumns, inArray, isNotNull, isNull, lt, or, sql } from 'drizzle-orm';
import type { Job, JobResult } from '@oscillum/core/contract';
import type { Tx } from '../db/database';
import { engine, WORK, type Claim } from '../db/engine';
import { jobs, pieces, results } from '../db/tables';

export type JobRow = typeof jobs.$inferSelect & { state: Job['state'] };

const changed = { updatedAt: sql`now()` };
/** An end is ours to know, what comes before it the engine's. */
const state = sql<Job['state']>`coalesce(${jobs.ended},
  case when ${engine.state} in ('active', 'failed') then 'running' else 'waiting' end)`;
const rows = (tx: Tx) =>
  tx
    .select({ ...getTableColumns(jobs), state })
    .from(jobs)
    .leftJoin(engine, and(eq(engine.name, WORK), eq(engine.id, jobs.queued)));

/** Inserts a job unless one that has not failed has the same key; that one's id is returned then. */
export async function insertJob(
  tx: Tx,
  row: Pick<typeof jobs.$inferInsert, 'id' | 'key' | 'title' | 'request' | 'ended' | 'error'>,
): Promise<{ id: string; fresh: boolean }> {
  // Between a conflict and the look at what it was with, that one may end: then there is room again.
  for (;;) {
    const [made] = await tx.insert(jobs).values(row).onConflictDoNothing().returning({ id: jobs.id });
    if (made) return { id: made.id, fresh: true };
    const [there] = await tx
      .select({ id: jobs.id })
      .from(jobs)
      .where(and(eq(jobs.key, row.key), or(isNull(jobs.ended), eq(jobs.ended, 'done'))));
    if (there) return { id: there.id, fresh: false };
  }
}

export const findJob = (tx: Tx, id: string): Promise<JobRow | undefined> =>
  rows(tx)
    .where(eq(jobs.id, id))
    .then((found) => found[0]);

export const findJobs = (tx: Tx, ids: readonly string[]): Promise<JobRow[]> =>
  rows(tx).where(inArray(jobs.id, [...ids]));

export const listJobs = (tx: Tx, limit: number): Promise<JobRow[]> =>
  rows(tx).orderBy(desc(jobs.createdAt), asc(jobs.id)).limit(limit);

export const goingJobs = (tx: Tx): Promise<JobRow[]> =>
  rows(tx).where(isNull(jobs.ended)).orderBy(asc(jobs.createdAt));

/** Jobs that are not over and that the engine does not know: older than it, or from a copy without its tables. */
export const strayJobs = (tx: Tx): Promise<JobRow[]> =>
  rows(tx).where(and(isNull(jobs.ended), isNull(engine.id)));

/** Notes the engine's name for a job. */
export async function setQueued(tx: Tx, id: string, queued: string): Promise<void> {
  await tx
    .update(jobs)
    .set({ queued, ...changed })
    .where(eq(jobs.id, id));
}

/** Says of jobs, by the engine's names, that something has changed in the engine. */
export async function touchJobs(tx: Tx, queued: readonly string[]): Promise<void> {
  await tx
    .update(jobs)
    .set(changed)
    .where(inArray(jobs.queued, [...queued]));
}

/** Says how far a claimed job is, which is never less than before; false when it is no longer this worker's. */
export const tellProgress = (tx: Tx, { id, queued, attempt }: Claim, progress: number): Promise<boolean> =>
  tx
    .update(jobs)
    .set({ progress: sql`greatest(${jobs.progress}, ${progress}::real)`, ...changed })
    .where(
      and(
        eq(jobs.id, id),
        sql`exists (select from ${engine} where ${engine.name} = ${WORK} and ${engine.id} = ${queued}
          and ${engine.state} = 'active' and ${engine.retryCount} = ${attempt})`,
      ),
    )
    .returning({ id: jobs.id })
    .then((found) => found.length > 0);

/** Ends a job that is not over, and still has that name in the engine. */
export async function endJob(
  tx: Tx,
  id: string,
  end: { ended: 'done'; result: JobResult } | { ended: 'failed'; error: string } | { ended: 'cancelled' },
  queued: string | null,
): Promise<void> {
  await tx
    .update(jobs)
    .set({ ...end, ...(end.ended === 'done' ? { progress: 1, error: null } : {}), ...changed })
    .where(and(eq(jobs.id, id), isNull(jobs.ended), queued ? eq(jobs.queued, queued) : isNull(jobs.queued)));
}

/** Takes back that a job failed or was cancelled. */
export const reviveJob = (tx: Tx, id: string): Promise<boolean> =>
  tx
    .update(jobs)
    .set({ ended: null, error: null, progress: 0, queued: null, ...changed })
    .where(and(eq(jobs.id, id), inArray(jobs.ended, ['failed', 'cancelled'])))
    .returning({ id: jobs.id })
    .then((found) => found.length > 0);

export const removeJob = (tx: Tx, id: string): Promise<boolean> =>
  tx
    .delete(jobs)
    .where(and(eq(jobs.id, id), isNotNull(jobs.ended)))
    .returning({ id: jobs.id })
    .then((found) => found.length > 0);

/** Stores one row of bytes; the same bytes again are left as they are. */
export async function insertResult(tx: Tx, hash: string, position: number, data: Buffer): Promise<void> {
  await tx.insert(results).values({ hash, position, data }).onConflictDoNothing();
}

export const readResult = (tx: Tx, hash: string, position: number): Promise<Buffer | undefined> =>
  tx
    .select({ data: results.data })
    .from(results)
    .where(and(eq(results.hash, hash), eq(results.position, position)))
    .then((rows) => rows[0]?.data);

export const findPiece = (tx: Tx, key: string): Promise<string | undefined> =>
  tx
    .select({ hash: pieces.hash })
    .from(pieces)
    .where(eq(pieces.key, key))
    .then((rows) => rows[0]?.hash);

export async function insertPiece(tx: Tx, key: string, hash: string): Promise<void> {
  await tx.insert(pieces).values({ key, hash }).onConflictDoNothing();
}

/**
 * Bytes are stored, and swept away, never at the same time: what is stored may be there already, named by nobody yet.
 */
const RESULTS_LOCK = 743_110;
export const storing = (tx: Tx) => tx.execute(sql`select pg_advisory_xact_lock_shared(${RESULTS_LOCK})`);

/** Takes away bytes that no job and no piece names any more, and pieces older than some days. */
export async function sweepResults(tx: Tx, pieceDays: number): Promise<void> {
  await tx.execute(sql`select pg_advisory_xact_lock(${RESULTS_LOCK})`);
  await tx.delete(pieces).where(lt(pieces.createdAt, sql`now() - ${pieceDays} * interval '1 day'`));
  await tx.execute(sql`
    delete from results where hash not in (select hash from pieces)
      and hash not in (select f->>'hash' from jobs, jsonb_array_elements(jobs.result->'files') f)`);
}
