import { PassThrough, Readable } from 'node:stream';
import Router from '@koa/router';
import type { Context } from 'koa';
import { z } from 'zod';
import {
  ENDPOINTS,
  JobId,
  PostEdits,
  PostJobs,
  ShotId,
  ShotsAsked,
  type EndpointName,
  type Job,
} from '@oscillum/core/contract';
import { CharacterHash, parseShot } from '@oscillum/core/shot';
import type { Database } from '../db/database';
import { notFound } from '../errors';
import type { JobFeed } from '../queue/feed';
import type { Queue } from '../queue/queue';
import { readJson, readQuery, uploadStream } from '../middleware/body';
import { tryWriting } from '../repos/health';
import * as characters from '../usecases/characters';
import * as jobs from '../usecases/jobs';
import * as shots from '../usecases/shots';

const Revision = z.coerce.number().int().min(0).catch(0);

function known<T extends z.ZodType>(value: unknown, schema: T, what: string): z.infer<T> {
  const parsed = schema.safeParse(value);
  if (!parsed.success) throw notFound(what);
  return parsed.data;
}
const shotId = (ctx: Context) => known(ctx.params.id, ShotId, 'shot');
const jobId = (ctx: Context) => known(ctx.params.id, JobId, 'job');
const hashOf = (ctx: Context) => known(ctx.params.hash, CharacterHash, 'character');

/** What each endpoint of the contract does; the table must be complete to compile. */
function handlers(
  db: Database,
  version: string,
  queue: Queue,
  feed: JobFeed,
): Record<EndpointName, (ctx: Context) => Promise<unknown>> {
  return {
    health: async () => {
      await tryWriting(db);
      return { ok: true, version };
    },
    listCharacters: () => characters.listCharacters(db),
    uploadCharacter: (ctx) => {
      const name =
        String(ctx.query.name ?? '')
          .replace(/[\p{Cc}\p{Cf}/\\]/gu, '')
          .slice(0, 200) || 'character.glb';
      const of = known(ctx.query.of ?? null, CharacterHash.nullable(), 'character');
      return characters.storeCharacter(db, name, uploadStream(ctx), of);
    },
    getCharacter: (ctx) => characters.getCharacter(db, hashOf(ctx)),
    downloadCharacter: async (ctx) => {
      const found = await characters.getCharacter(db, hashOf(ctx));
      ctx.type = 'application/octet-stream';
      ctx.length = found.bytes;
      // Named by its content, so it never changes.
      ctx.set('Cache-Control', 'private, max-age=31536000, immutable');
      return Readable.from(characters.readCharacterFile(db, found.hash));
    },
    deleteCharacter: async (ctx) => {
      await characters.deleteCharacter(db, hashOf(ctx));
      return {};
    },
    listShots: (ctx) => shots.listShots(db, readQuery(ctx, ShotsAsked)),
    createShot: async (ctx) => shots.createShot(db, parseShot(await readJson(ctx, z.unknown()))),
    getShot: (ctx) => shots.getShot(db, shotId(ctx)),
    listEdits: (ctx) => shots.listEdits(db, shotId(ctx), Revision.parse(ctx.query.after)),
    postEdits: async (ctx) => shots.postEdits(db, shotId(ctx), await readJson(ctx, PostEdits)),
    duplicateShot: (ctx) => shots.duplicateShot(db, shotId(ctx)),
    deleteShot: async (ctx) => {
      await shots.deleteShot(db, shotId(ctx));
      return {};
    },
    restoreShot: (ctx) => shots.restoreShot(db, shotId(ctx)),
    createJobs: async (ctx) => {
      const { jobs: asked } = await readJson(ctx, PostJobs);
      return jobs.createJobs(db, queue, asked);
    },
    listJobs: () => jobs.listJobs(db),
    watchJobs: (ctx) => Promise.resolve(watch(ctx, db, feed)),
    getJob: (ctx) => jobs.getJob(db, jobId(ctx)),
    getJobRequest: (ctx) => jobs.getJobRequest(db, jobId(ctx)),
    cancelJob: (ctx) => jobs.cancelJob(db, queue, jobId(ctx)),
    retryJob: async (ctx) => jobs.retryJob(db, queue, jobId(ctx)),
    deleteJob: async (ctx) => {
      await jobs.deleteJob(db, jobId(ctx));
      return {};
    },
    downloadJobFile: async (ctx) => {
      const { name, bytes } = await jobs.jobFile(db, jobId(ctx), String(ctx.params.name));
      ctx.attachment(name);
      ctx.type = 'application/octet-stream';
      return Buffer.from(bytes);
    },
  };
}

/** How often a line is sent that says nothing, so that nobody between takes the connection for dead. */
const ALIVE_MS = 20_000;

/** A job for each that changes, as server-sent events, beginning with those that are not over. */
function watch(ctx: Context, db: Database, feed: JobFeed): PassThrough {
  ctx.type = 'text/event-stream';
  ctx.set('X-Accel-Buffering', 'no');
  const stream = new PassThrough();
  const send = (job: Job) => stream.write(`event: job\ndata: ${JSON.stringify(job)}\n\n`);
  const tell = async (id: string | null) => {
    if (id === null) for (const job of await jobs.goingJobs(db)) send(job);
    else send(await jobs.getJob(db, id));
  };
  // One after the other, so that what was so earlier is told earlier.
  let telling = Promise.resolve();
  // One that is gone, or a database that is away: the next change tells again.
  const next = (id: string | null) => void (telling = telling.then(() => tell(id)).catch(() => undefined));
  const leave = feed.subscribe(next, () => stream.end());
  stream.write(': jobs\n\n');
  next(null);
  const alive = setInterval(() => stream.write(':\n\n'), ALIVE_MS);
  stream.on('close', () => {
    clearInterval(alive);
    leave();
  });
  return stream;
}

export function makeRouter(db: Database, version: string, queue: Queue, feed: JobFeed): Router {
  const router = new Router();
  const table = handlers(db, version, queue, feed);
  for (const name of Object.keys(ENDPOINTS) as EndpointName[]) {
    const { method, path } = ENDPOINTS[name];
    router.register(path.replace(/\?.*$/, ''), [method], async (ctx) => {
      ctx.set('Cache-Control', 'no-store');
      ctx.body = await table[name](ctx as unknown as Context);
    });
  }
  return router;
}
