import { hostname } from 'node:os';
import type { Logger } from 'pino';
import type { Database, Tx } from '../db/database';
import { openSession, type Session } from '../db/session';
import { LOST, type Queue } from '../queue/queue';
import * as repo from '../repos/jobs';
import { sweep } from '../usecases/jobs';
import { runJob } from './runJob';

/** How often the queue is looked at while there is nothing to do. */
const POLL_MS = 400;
/** How often workers look for jobs of those that are gone, and for those that are given up. */
const LOOK_MS = 2000;
const SWEEP_MS = 3600_000;

export interface Worker {
  /** Gives back what it is at and ends. */
  stop(): Promise<void>;
}

/** What a worker works with: the database by its address too, and the page's address, for films. */
export interface Means {
  readonly db: Database;
  readonly url: string;
  readonly queue: Queue;
  readonly log: Logger;
  readonly page: string | null;
}

/** Takes jobs from the queue, one at a time. */
export function startWorker({ db, url, queue, log, page }: Means): Worker {
  let stopping = false;
  let wake = () => {};
  const rest = (ms: number) =>
    new Promise<void>((resolve) => {
      const timer = setTimeout(resolve, ms);
      wake = () => (clearTimeout(timer), resolve());
    });
  let session: Session | null = null;
  const turn = async (): Promise<boolean> => {
    if (session?.lost()) session = null;
    session ??= await openSession(url, `oscillum worker ${hostname()} ${process.pid}`);
    const own = session.db;
    const claim = await own.transaction(async (tx) => {
      const found = await queue.claim(tx);
      if (found) await repo.touchJobs(tx, [found.queued]);
      return found;
    });
    if (!claim) return false;
    await runJob({ db, session: own, queue, page, stopping: () => stopping }, claim);
    await queue.release(own, claim);
    return true;
  };
  const work = async () => {
    while (!stopping) {
      try {
        if (!(await turn())) await rest(POLL_MS);
      } catch (e) {
        log.error({ err: e }, 'a job was interrupted');
        // Whatever lock it still held goes with it.
        await session?.close();
        session = null;
        if (!stopping) await rest(LOOK_MS);
      }
    }
    await session?.close();
  };
  const quietly = (what: () => Promise<void>) => () =>
    void (stopping ? Promise.resolve() : what()).catch((e: unknown) => log.warn({ err: e }, 'worker'));
  const timers = [
    setInterval(
      quietly(() => db.transaction((tx) => lookAfter(tx, queue))),
      LOOK_MS,
    ),
    setInterval(
      quietly(() => sweep(db)),
      SWEEP_MS,
    ),
  ];
  const working = work();
  return {
    stop: async () => {
      stopping = true;
      timers.forEach(clearInterval);
      wake();
      await working;
    },
  };
}

/** Tells the engine of jobs whose worker is gone, and our tables of jobs that the engine has given up. */
async function lookAfter(tx: Tx, queue: Queue): Promise<void> {
  const lost = await queue.failLost(tx);
  if (lost.length) await repo.touchJobs(tx, lost);
  for (const { id, queued, tries, why } of await queue.takeDead(tx))
    await repo.endJob(tx, id, { ended: 'failed', error: givenUp(tries, why) }, queued);
}

function givenUp(tries: number, why: string | null): string {
  const remedy = 'It may need more memory than there is: bake fewer clips or frames at once, then try again.';
  if (why === LOST) return `${LOST} ${tries} times. ${remedy}`;
  if (why) return `${why}. It was tried ${tries} times; the others go on.`;
  return `It took longer than one job may, ${tries} times. Bake fewer clips or frames at once, then try again.`;
}
