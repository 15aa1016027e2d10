import { pino } from 'pino';
import { readConfig } from './config';
import { openDatabase } from './db/database';
import { onEnd } from './ending';
import { Queue } from './queue/queue';
import { startWorker } from './work/worker';

/** npm run worker: takes jobs from the queue of the database in DATABASE_URL until it is told to end. */
async function main(): Promise<void> {
  const config = readConfig(process.env);
  const log = pino({ level: process.env.OSCILLUM_LOG ?? 'warn' });
  const connection = await openDatabase(config.databaseUrl);
  const queue = await Queue.open(config.databaseUrl, (e) => log.warn({ err: e }, 'queue'));
  const page = process.env.OSCILLUM_PAGE ?? null;
  const worker = startWorker({ db: connection.db, url: config.databaseUrl, queue, log, page });
  console.log('Worker is ready');
  onEnd(async () => {
    await worker.stop();
    await queue.close();
    await connection.close();
  });
}

main().catch((e: unknown) => {
  console.error(`The worker could not start: ${e instanceof Error ? e.message : String(e)}`);
  process.exit(1);
});
