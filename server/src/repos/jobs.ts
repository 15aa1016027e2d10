import { and, asc, desc, eq, inArray, lt, or, sql } from 'drizzle-orm';
import type { JobResult } from '@oscillum/core/contract';
import type { Tx } from '../db/database';
import { jobs, pieces, results } from '../db/tables';

export type JobRow = typeof jobs.$inferSelect;

const OVER = ['done', 'failed', 'cancelled'] as const;
const GOING = ['waiting', 'running'] as const;
const soon = (ms: number) => sql`now() + ${ms} * interval '1 millisecond'`;
const changed = { updatedAt: sql`now()` };

/** Inserts a job unless one that has not failed has the same key; that one is returned then. */
export async function insertJob(
  tx: Tx,
  row: Pick<JobRow, 'id' | 'key' | 'title' | 'request'>,
): Promise<{ row: JobRow; fresh: boolean }> {
  // Between a conflict and the look at what it was with, that one may end: then there is room again.
  for (;;) {
    const [made] = await tx
      .insert(jobs)
      .values({ ...row, state: 'waiting' })
      .onConflictDoNothing()
      .returning();
    if (made) return { row: made, fresh: true };
    const [there] = await tx
      .select()
      .from(jobs)
      .where(and(eq(jobs.key, row.key), inArray(jobs.state, ['waiting', 'running', 'done'])));
    if (there) return { row: there, fresh: false };
  }
}

export const findJob = (tx: Tx, id: string): Promise<JobRow | undefined> =>
  tx
    .select()
    .from(jobs)
    .where(eq(jobs.id, id))
    .then((rows) => rows[0]);

export const listJobs = (tx: Tx, limit: number): Promise<JobRow[]> =>
  tx.select().from(jobs).orderBy(desc(jobs.createdAt), asc(jobs.id)).limit(limit);

export const goingJobs = (tx: Tx): Promise<JobRow[]> =>
  tx
    .select()
    .from(jobs)
    .where(inArray(jobs.state, [...GOING]))
    .orderBy(asc(jobs.createdAt));

/** Gives a job that waits, or whose worker is gone, to a worker; undefined when it is another's or over. */
export const claimJob = (tx: Tx, id: string, worker: string, leaseMs: number): Promise<JobRow | undefined> =>
  tx
    .update(jobs)
    .set({
      ...{ state: 'running', worker, error: null, leaseUntil: soon(leaseMs) },
      attempts: sql`${jobs.attempts} + 1`,
      ...changed,
    })
    .where(
      and(
        eq(jobs.id, id),
        or(eq(jobs.state, 'waiting'), and(eq(jobs.state, 'running'), lt(jobs.leaseUntil, sql`now()`))),
      ),
    )
    .returning()
    .then((rows) => rows[0]);

const mine = (id: string, worker: string) =>
  and(eq(jobs.id, id), eq(jobs.worker, worker), eq(jobs.state, 'running'));

/** Whether a worker still has its job; if so it has it for some time more. */
export const keepJob = (
  tx: Tx,
  id: string,
  worker: string,
  progress: number,
  leaseMs: number,
): Promise<boolean> =>
  tx
    .update(jobs)
    .set({ progress, leaseUntil: soon(leaseMs), ...changed })
    .where(mine(id, worker))
    .returning({ id: jobs.id })
    .then((rows) => rows.length > 0);

/** Ends a job its worker still has; false when it is not its any more. */
export const endJob = (
  tx: Tx,
  id: string,
  worker: string,
  end: { state: 'done'; result: JobResult } | { state: 'failed'; error: string } | { state: 'waiting' },
): Promise<boolean> =>
  tx
    .update(jobs)
    .set({
      ...end,
      ...(end.state === 'done' ? { progress: 1 } : {}),
      ...{ worker: null, leaseUntil: null },
      ...changed,
    })
    .where(mine(id, worker))
    .returning({ id: jobs.id })
    .then((rows) => rows.length > 0);

/** Cancels a job that is not over. */
export const cancelJob = (tx: Tx, id: string): Promise<JobRow | undefined> =>
  tx
    .update(jobs)
    .set({ state: 'cancelled', worker: null, leaseUntil: null, ...changed })
    .where(and(eq(jobs.id, id), inArray(jobs.state, [...GOING])))
    .returning()
    .then((rows) => rows[0]);

/** Puts a job that failed or was cancelled back to wait. */
export const reviveJob = (tx: Tx, id: string): Promise<JobRow | undefined> =>
  tx
    .update(jobs)
    .set({ ...{ state: 'waiting', error: null, progress: 0, attempts: 0 }, ...changed })
    .where(and(eq(jobs.id, id), inArray(jobs.state, ['failed', 'cancelled'])))
    .returning()
    .then((rows) => rows[0]);

export const removeJob = (tx: Tx, id: string): Promise<boolean> =>
  tx
    .delete(jobs)
    .where(and(eq(jobs.id, id), inArray(jobs.state, [...OVER])))
    .returning({ id: jobs.id })
    .then((rows) => rows.length > 0);

/** Jobs whose worker has been silent for longer than its lease; they wait again, or fail when that was often enough. */
export async function dropLostJobs(tx: Tx, mostAttempts: number, error: string): Promise<string[]> {
  const lost = and(eq(jobs.state, 'running'), lt(jobs.leaseUntil, sql`now()`));
  const none = { worker: null, leaseUntil: null, ...changed };
  await tx
    .update(jobs)
    .set({ state: 'failed', error, ...none })
    .where(and(lost, sql`${jobs.attempts} >= ${mostAttempts}`));
  const rows = await tx
    .update(jobs)
    .set({ state: 'waiting', ...none })
    .where(lost)
    .returning({ id: jobs.id });
  return rows.map((r) => r.id);
}

/** Jobs that have waited for long without anybody taking them: perhaps nobody was told. */
export const forgottenJobs = (tx: Tx, ms: number): Promise<string[]> =>
  tx
    .update(jobs)
    .set(changed)
    .where(and(eq(jobs.state, 'waiting'), lt(jobs.updatedAt, sql`now() - ${ms} * interval '1 millisecond'`)))
    .returning({ id: jobs.id })
    .then((rows) => rows.map((r) => r.id));

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
