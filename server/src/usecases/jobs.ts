import { createHash, randomBytes } from 'node:crypto';
import type { Job, JobRequest } from '@oscillum/core/contract';
import { zipFiles, type HandedOff, type HandOffFile } from '@oscillum/core/handoff';
import { checkBake } from '@oscillum/core/bake';
import { OscillumError } from '@oscillum/core/model';
import type { Database, Tx } from '../db/database';
import { AppError, notFound, rootOf } from '../errors';
import { codeHash } from './codeHash';
import type { Queue } from '../queue/queue';
import { findCharacter } from '../repos/characters';
import * as repo from '../repos/jobs';
import { readResult } from './results';

/** The code that bakes are made by: other code makes other keys, so that nothing old is taken for new. */
const MADE_BY = codeHash(['@oscillum/core/model', '@oscillum/player']);
const LISTED = 200;
/** Baked clips are kept for when they are asked for again. */
const PIECE_DAYS = 14;
/** Hand-off of a job's files by this name is all of them. */
const ALL = 'all.zip';

export const keyOf = (...parts: unknown[]): string =>
  createHash('sha256')
    .update(JSON.stringify([MADE_BY, ...parts]))
    .digest('hex');

/**
 * Puts jobs into the queue; those asked for before, and not failed since, are the same again. One that cannot be done
 * is stored as failed, with its reason, and the others go on.
 */
export function createJobs(db: Database, queue: Queue, requests: readonly JobRequest[]): Promise<Job[]> {
  return db.transaction(async (tx) => {
    const ids: string[] = [];
    for (const asked of requests) {
      const error = await troubleOf(tx, asked);
      const request: JobRequest = { ...asked, shot: { ...asked.shot, takes: {} } };
      const { id, fresh } = await repo.insertJob(tx, {
        id: randomBytes(10).toString('hex'),
        key: keyOf(request),
        title: titleOf(asked).slice(0, 300),
        ...{ request, error, ended: error === null ? null : 'failed' },
      });
      if (fresh && error === null) await enqueue(tx, queue, id, request);
      ids.push(id);
    }
    const rows = new Map((await repo.findJobs(tx, ids)).map((row) => [row.id, row]));
    return ids.map((id) => job(rows.get(id)!));
  });
}

/** Why a job cannot be done, as far as that shows beforehand. */
async function troubleOf(tx: Tx, asked: JobRequest): Promise<string | null> {
  const { hash, fileName } = asked.shot.character;
  if (!(await findCharacter(tx, hash)))
    return `The character ${fileName} is not in the library. Drop its file first, then ask again.`;
  try {
    if ('plan' in asked && !asked.plan.clips) checkBake(asked.shot, asked.plan.bake);
    return null;
  } catch (e) {
    if (e instanceof OscillumError) return e.sentence;
    throw e;
  }
}

export const kindOf = (request: JobRequest) => ('film' in request ? 'film' : 'bake');

async function enqueue(tx: Tx, queue: Queue, id: string, request: JobRequest): Promise<void> {
  await repo.setQueued(tx, id, await queue.send(tx, id, kindOf(request)));
}

/** Puts jobs into the queue that are not over and that it does not know. */
export function enqueueStrays(db: Database, queue: Queue): Promise<void> {
  return db.transaction(async (tx) => {
    for (const { id, request } of await repo.strayJobs(tx)) await enqueue(tx, queue, id, request);
  });
}

function titleOf(asked: JobRequest): string {
  const { name } = asked.shot;
  if ('film' in asked) return `${name}, ${asked.film.kind === 'sheet' ? 'contact sheet' : 'film'}`;
  const { clips, bake } = asked.plan;
  return `${name}, ${clips ? `${clips.length} clips` : bake.name}`;
}

async function found(db: Database, id: string): Promise<repo.JobRow> {
  const row = await repo.findJob(db, id);
  if (!row) throw notFound('job');
  return row;
}

export const getJobRequest = async (db: Database, id: string) => (await found(db, id)).request;

export const listJobs = async (db: Database): Promise<Job[]> => (await repo.listJobs(db, LISTED)).map(job);
export const goingJobs = async (db: Database): Promise<Job[]> => (await repo.goingJobs(db)).map(job);

export const getJob = async (db: Database, id: string) => job(await found(db, id));

export async function cancelJob(db: Database, queue: Queue, id: string): Promise<Job> {
  let { ended, queued, state } = await found(db, id);
  const over = ended !== null;
  // Handed back in the meantime, it has another name in the queue.
  while (ended === null) {
    await db.transaction(async (tx) => {
      if (queued) await queue.cancel(tx, queued);
      await repo.endJob(tx, id, { ended: 'cancelled' }, queued);
    });
    ({ ended, queued, state } = await found(db, id));
  }
  if (!over && ended === 'cancelled') return getJob(db, id);
  throw new AppError(409, 'job.over', `This job is ${state} already.`, 'There is nothing to cancel.');
}

export async function retryJob(db: Database, queue: Queue, id: string): Promise<Job> {
  const request = await getJobRequest(db, id);
  const revived = await db
    .transaction(async (tx) => {
      if (!(await repo.reviveJob(tx, id))) return false;
      await enqueue(tx, queue, id, request);
      return true;
    })
    .catch((e: unknown) => {
      if (/jobs_key_index/.test(rootOf(e).message)) return false;
      throw e;
    });
  if (!revived)
    throw new AppError(
      409,
      'job.over',
      'This job is in the queue already, or done.',
      'Look for it in the list.',
    );
  return getJob(db, id);
}

export async function deleteJob(db: Database, id: string): Promise<void> {
  await getJob(db, id);
  await db.transaction(async (tx) => {
    if (!(await repo.removeJob(tx, id)))
      throw new AppError(409, 'job.running', 'This job is not over.', 'Cancel it first.');
    await repo.sweepResults(tx, PIECE_DAYS);
  });
}

export const sweep = (db: Database): Promise<void> =>
  db.transaction((tx) => repo.sweepResults(tx, PIECE_DAYS));

/** A file that a job has made, or all of them zipped. */
export async function jobFile(
  db: Database,
  id: string,
  name: string,
): Promise<{ name: string; bytes: Uint8Array<ArrayBuffer> }> {
  const row = await repo.findJob(db, id);
  const result = row?.result;
  if (!row || !result) throw notFound('job that is done');
  if (name !== ALL) {
    const file = result.files.find((f) => f.name === name);
    if (!file) throw notFound('file of this job');
    return { name, bytes: await readResult(db, file.hash) };
  }
  if (!('plan' in row.request)) throw notFound('file of this job');
  const files: HandOffFile[] = [];
  for (const { hash, ...file } of result.files)
    files.push({ ...(file as Omit<HandOffFile, 'bytes'>), bytes: await readResult(db, hash) });
  const whole = { ...result, files } as unknown as HandedOff;
  return { name: `${row.request.plan.stem}.zip`, bytes: zipFiles(whole, row.request.shot) };
}

function job(row: repo.JobRow): Job {
  const { id, title, state, progress, error, result } = row;
  return {
    ...{ id, title, state, progress, error, result },
    createdAt: row.createdAt.toISOString(),
    updatedAt: row.updatedAt.toISOString(),
  };
}
