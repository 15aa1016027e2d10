import { randomUUID } from 'node:crypto';
import { hostname } from 'node:os';
import type { Logger } from 'pino';
import type { Database } from '../db/database';
import type { Queue } from '../queue/queue';
import * as repo from '../repos/jobs';
import { sweep } from '../usecases/jobs';
import { runJob } from './runJob';

/** A job whose worker has gone so often in the middle of it is given up. */
const MOST_ATTEMPTS = 5;
const GIVEN_UP = [
  `Its worker ended in the middle of it ${MOST_ATTEMPTS} times.`,
  'It may need more memory than there is: bake fewer clips or frames at once, then try again.',
].join(' ');
/** A job that waits for longer is told of again. */
const FORGOTTEN_MS = 20_000;
const SWEEP_MS = 3600_000;

export interface Worker {
  /** Gives back what it is at and ends. */
  stop(): Promise<void>;
}

/** Takes jobs from the queue, one at a time, and those that others have left lying. */
export async function startWorker(
  db: Database,
  queue: Queue,
  log: Logger,
  leaseMs: number,
  page: string | null,
): Promise<Worker> {
  const name = `${hostname()} ${process.pid} ${randomUUID()}`;
  let stopping = false;
  let busy: Promise<void> = Promise.resolve();
  const look = async () => {
    const again = await repo.dropLostJobs(db, MOST_ATTEMPTS, GIVEN_UP);
    for (const id of [...again, ...(await repo.forgottenJobs(db, FORGOTTEN_MS))]) await queue.send(id);
  };
  const quietly = (what: () => Promise<void>) => () =>
    void (stopping ? Promise.resolve() : what()).catch((e: unknown) => log.warn({ err: e }, 'worker'));
  const timers = [
    setInterval(quietly(look), Math.max(250, leaseMs / 2)),
    setInterval(
      quietly(() => sweep(db)),
      SWEEP_MS,
    ),
  ];
  await queue.work((id) => {
    busy = runJob(db, id, name, leaseMs, page, () => stopping).catch((e: unknown) =>
      log.error({ err: e, job: id }, 'a job was interrupted'),
    );
    return busy;
  });
  return {
    stop: async () => {
      stopping = true;
      timers.forEach(clearInterval);
      await busy;
    },
  };
}
