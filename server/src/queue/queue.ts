import PgBoss from 'pg-boss';

/**
 * The one queue of jobs, by their ids. It only says that there is something to do; what and how far is in our own
 * table.
 */
const NAME = 'oscillum-jobs';
/** Longer than any job: whether one is still being done is told by its lease, not by the queue. */
const EXPIRE_HOURS = 23;

export interface Queue {
  /** Says that a job waits. Saying it twice does no harm. */
  send(id: string): Promise<void>;
  /** Calls `run` with a job's id whenever one waits, one at a time. */
  work(run: (id: string) => Promise<void>): Promise<void>;
  close(): Promise<void>;
}

/** Connects to the queue in the database, making it when it is not there. */
export async function openQueue(url: string, onError: (e: Error) => void): Promise<Queue> {
  const boss = new PgBoss({ connectionString: url, max: 2, schedule: false });
  boss.on('error', onError);
  await boss.start();
  await boss.createQueue(NAME, { name: NAME, retryLimit: 0, expireInHours: EXPIRE_HOURS });
  return {
    send: async (id) => void (await boss.send(NAME, { id })),
    work: async (run) =>
      void (await boss.work<{ id: string }>(NAME, { pollingIntervalSeconds: 0.5 }, async (list) => {
        for (const { data } of list) await run(data.id);
      })),
    close: () => boss.stop({ graceful: false, wait: true, timeout: 2000 }),
  };
}
