import { createHash, randomBytes } from 'node:crypto';
import type { Job, JobRequest } from '@oscillum/core/contract';
import { zipFiles, type HandedOff, type HandOffFile } from '@oscillum/core/handoff';
import { checkBake } from '@oscillum/core/bake';
import type { Database } from '../db/database';
import { AppError, notFound } from '../errors';
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

/** Puts jobs into the queue; those asked for before, and not failed since, are the same again. */
export async function createJobs(
  db: Database,
  queue: Queue,
  requests: readonly JobRequest[],
): Promise<Job[]> {
  const out: Job[] = [];
  const fresh: string[] = [];
  await db.transaction(async (tx) => {
    for (const asked of requests) {
      const { shot } = asked;
      const { hash, fileName } = shot.character;
      if (!(await findCharacter(tx, hash)))
        throw new AppError(
          404,
          'not-found',
          `The character ${fileName} is not in the library.`,
          'Drop its file first, then ask again.',
        );
      if ('plan' in asked && !asked.plan.clips) checkBake(shot, asked.plan.bake);
      const request: JobRequest = { ...asked, shot: { ...shot, takes: {} } };
      const { row, fresh: made } = await repo.insertJob(tx, {
        id: randomBytes(10).toString('hex'),
        key: keyOf(request),
        title: titleOf(asked).slice(0, 300),
        request,
      });
      if (made) fresh.push(row.id);
      out.push(job(row));
    }
  });
  for (const id of fresh) await queue.send(id);
  return out;
}

function titleOf(asked: JobRequest): string {
  const { name } = asked.shot;
  if ('film' in asked) return `${name}, ${asked.film.kind === 'sheet' ? 'contact sheet' : 'film'}`;
  const { clips, bake } = asked.plan;
  return `${name}, ${clips ? `${clips.length} clips` : bake.name}`;
}

export async function getJobRequest(db: Database, id: string): Promise<JobRequest> {
  const row = await repo.findJob(db, id);
  if (!row) throw notFound('job');
  return row.request;
}

export const listJobs = async (db: Database): Promise<Job[]> => (await repo.listJobs(db, LISTED)).map(job);
export const goingJobs = async (db: Database): Promise<Job[]> => (await repo.goingJobs(db)).map(job);

export async function getJob(db: Database, id: string): Promise<Job> {
  const row = await repo.findJob(db, id);
  if (!row) throw notFound('job');
  return job(row);
}

export async function cancelJob(db: Database, id: string): Promise<Job> {
  const row = await repo.cancelJob(db, id);
  if (row) return job(row);
  const { state } = await getJob(db, id);
  throw new AppError(409, 'job.over', `This job is ${state} already.`, 'There is nothing to cancel.');
}

export async function retryJob(db: Database, queue: Queue, id: string): Promise<Job> {
  await getJob(db, id);
  const row = await repo.reviveJob(db, id).catch((e: unknown) => {
    if (/jobs_key_index/.test(String((e as { cause?: unknown }).cause ?? e))) return undefined;
    throw e;
  });
  if (!row)
    throw new AppError(
      409,
      'job.over',
      'This job is in the queue already, or done.',
      'Look for it in the list.',
    );
  await queue.send(id);
  return job(row);
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
  const { id, title, state, progress, attempts, error, result } = row;
  return {
    ...{ id, title, state, progress, attempts, error, result },
    createdAt: row.createdAt.toISOString(),
    updatedAt: row.updatedAt.toISOString(),
  };
}
