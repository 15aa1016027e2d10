import { randomUUID } from 'node:crypto';
import { sql } from 'drizzle-orm';
import PgBoss from 'pg-boss';
import type { Tx } from '../db/database';
import { WORK, type Asked, type Claim } from '../db/engine';

/** Where the engine puts jobs that it has given up. */
const DEAD = 'oscillum-dead';
const HOUR = 3600;
/** Tries again after about 1, 2, 4 and 8 s; waits a year for a worker. */
const ALWAYS = { retryDelay: 1, retryBackoff: true, retentionDays: 365, deadLetter: DEAD };
/** How long one try may last, and how many more there are. */
const LIMITS = {
  bake: { ...ALWAYS, retryLimit: 4, expireInSeconds: 6 * HOUR },
  film: { ...ALWAYS, retryLimit: 2, expireInSeconds: 2 * HOUR },
};
type Kind = keyof typeof LIMITS;
export const LOST = 'Its worker ended in the middle of it';

/**
 * Jobs by their ids, kept by pg-boss: who gets one, when it is tried again, how often, how long it may take, and when
 * it is given up. All is done in the transaction that is handed in, so that our tables never say anything else.
 */
export class Queue {
  private constructor(private readonly boss: PgBoss) {}

  /** Connects to the queue in the database, making it when it is not there. */
  static async open(url: string, onError: (e: Error) => void): Promise<Queue> {
    const boss = new PgBoss({
      ...{ connectionString: url, max: 1, schedule: false, maintenanceIntervalSeconds: 30 },
    });
    boss.on('error', onError);
    await boss.start();
    await boss.createQueue(DEAD);
    await boss.createQueue(WORK);
    return new Queue(boss);
  }

  close(): Promise<void> {
    return this.boss.stop({ graceful: false, wait: true, timeout: 2000 });
  }

  /** Puts a job in; returns the engine's name for it. */
  async send(tx: Tx, id: string, kind: Kind, priority = 0): Promise<string> {
    const queued = randomUUID();
    const job: Asked = { id, queued };
    await this.boss.send(WORK, job, { ...LIMITS[kind], id: queued, priority, db: within(tx) });
    return queued;
  }

  async cancel(tx: Tx, queued: string): Promise<void> {
    await this.boss.cancel(WORK, queued, { db: within(tx) });
  }

  /** The next job, locked in this session before anybody can see that it was taken. */
  async claim(tx: Tx): Promise<Claim | undefined> {
    const [job] = await this.boss.fetch<Asked>(WORK, { includeMetadata: true, db: within(tx) });
    if (!job) return undefined;
    const claim = { ...job.data, attempt: job.retryCount };
    await tx.execute(sql`select pg_advisory_lock(${lockOf(claim.queued, claim.attempt)})`);
    return claim;
  }

  /** Gives up the lock of a claim, however it has ended. */
  async release(tx: Tx, { queued, attempt }: Claim): Promise<void> {
    await tx.execute(sql`select pg_advisory_unlock(${lockOf(queued, attempt)})`);
  }

  /** Ends a claimed job; false when it is no longer this worker's. */
  async complete(tx: Tx, claim: Claim): Promise<boolean> {
    if (!(await this.held(tx, claim))) return false;
    await this.boss.complete(WORK, claim.queued, {}, { db: within(tx) });
    return true;
  }

  /** A try has failed: the engine tries again later, or gives it up. False when it is no longer this worker's. */
  async fail(tx: Tx, claim: Claim, message: string): Promise<boolean> {
    if (!(await this.held(tx, claim))) return false;
    await this.boss.fail(WORK, claim.queued, { message }, { db: within(tx) });
    return true;
  }

  /**
   * Hands a claimed job back: the next worker gets it at once, first of all that wait, and it counts as no try. Returns
   * the engine's new name for it; null when it is no longer this worker's.
   */
  async handBack(tx: Tx, claim: Claim, kind: Kind): Promise<string | null> {
    if (!(await this.held(tx, claim))) return null;
    await this.cancel(tx, claim.queued);
    return this.send(tx, claim.id, kind, 1);
  }

  /** Fails each job whose worker is gone, and with it the lock in its session; returns the engine's names. */
  async failLost(tx: Tx): Promise<string[]> {
    const { rows } = await tx.execute<{ id: string }>(sql`
      select id from pgboss.job j where name = ${WORK} and state = 'active' and not exists (
        select from pg_locks l where locktype = 'advisory' and objsubid = 1
          and database = (select oid from pg_database where datname = current_database())
          and (l.classid::bigint << 32) | l.objid::bigint = ${lockOf(sql`j.id`, sql`j.retry_count`)})
      for update skip locked`);
    const lost = rows.map((r) => r.id);
    for (const id of lost) await this.boss.fail(WORK, id, { message: LOST }, { db: within(tx) });
    return lost;
  }

  /** Jobs the engine has given up since this was last asked, and why the last try failed. */
  async takeDead(tx: Tx): Promise<(Asked & { tries: number; why: string | null })[]> {
    const db = within(tx);
    const dead = await this.boss.fetch<Asked>(DEAD, { includeMetadata: true, batchSize: 50, db });
    for (const { id } of dead) await this.boss.complete(DEAD, id, {}, { db });
    return dead.map(({ data, retryLimit, output }) => {
      const { message } = (output ?? {}) as { message?: string };
      return { ...data, tries: retryLimit + 1, why: message ?? null };
    });
  }

  private async held(tx: Tx, { queued, attempt }: Claim): Promise<boolean> {
    const { rows } = await tx.execute(sql`
      select from pgboss.job where name = ${WORK} and id = ${queued} and state = 'active' and retry_count = ${attempt}
      for update`);
    return rows.length > 0;
  }
}

/** The number of the lock that a claim's worker holds; in no transaction, but as long as its session lasts. */
const lockOf = (queued: unknown, attempt: unknown) =>
  sql`hashtextextended(${queued}::text || ' ' || ${attempt}::text, 0)`;

/** Lets the engine's statements run in a transaction of ours. */
function within(tx: Tx): PgBoss.Db {
  return {
    executeSql: (text, values) => {
      const parts = text.split(/\$(\d+)/).map((part, k) => {
        return k % 2 === 0 ? sql.raw(part) : sql`${sql.param(values[Number(part) - 1] ?? null)}`;
      });
      return tx.execute(sql.join(parts));
    },
  };
}
