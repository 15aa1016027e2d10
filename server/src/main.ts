import { spawn, type ChildProcess } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { pino } from 'pino';
import { serveApp } from './app';
import { readConfig } from './config';
import { openDatabase } from './db/database';
import { onEnd } from './ending';
import { seedDemo } from './usecases/seed';

/** Starts the server; the environment is described in config.ts. Prints one line with the address when it is ready. */
async function main(): Promise<void> {
  const config = readConfig(process.env);
  const log = pino({ level: process.env.OSCILLUM_LOG ?? 'warn' });
  const { version } = JSON.parse(readFileSync(new URL('../package.json', import.meta.url), 'utf8')) as {
    version: string;
  };
  const connection = await openDatabase(config.databaseUrl);
  if (config.seedDemo) await seedDemo(connection.db);
  const app = await serveApp(config, connection.db, log, version);
  const host = app.address.host.includes(':') ? `[${app.address.host}]` : app.address.host;
  // In development the page comes from another server, which calls this one.
  const address = `http://${host}:${app.address.port}`;
  const page = config.staticFolder ? address : (config.origins[0] ?? address);
  console.log(`Oscillum is ready at ${page}`);
  process.send?.({ address: page });
  if (process.getuid?.() === 0)
    console.warn('Oscillum runs as root, which it does not need. Start it as a user of its own.');
  const workers = Array.from({ length: config.workers }, () =>
    keepWorker(config.databaseUrl, config.token ? `${page}?token=${encodeURIComponent(config.token)}` : page),
  );
  onEnd(async () => {
    await Promise.all(workers.map((w) => w.stop()));
    await app.close();
    await connection.close();
  });
}

/** A worker in a process of its own, so that it holds nobody up; begun again when it ends by itself. */
function keepWorker(databaseUrl: string, page: string): { stop: () => Promise<void> } {
  let child: ChildProcess | null = null;
  let stopped = false;
  let wait = 500;
  const begin = () => {
    const began = Date.now();
    child = spawn(
      process.execPath,
      ['--import', 'tsx', fileURLToPath(new URL('./worker.ts', import.meta.url))],
      {
        env: { ...process.env, DATABASE_URL: databaseUrl, OSCILLUM_CHILD: '1', OSCILLUM_PAGE: page },
        // It ends with us, even when we are killed.
        stdio: ['pipe', 'ignore', 'inherit'],
      },
    );
    const ended = () => {
      if (stopped) return;
      wait = Date.now() - began > 60_000 ? 500 : Math.min(30_000, 2 * wait);
      setTimeout(() => !stopped && begin(), wait);
    };
    child.once('exit', ended);
    // One that cannot even be begun, as when there is no memory left.
    child.once('error', (e) => {
      console.error(`A worker could not be started: ${e.message}`);
      if (child?.pid === undefined) ended();
    });
  };
  begin();
  return {
    stop: async () => {
      stopped = true;
      if (!child || child.exitCode !== null || child.signalCode !== null) return;
      const gone = new Promise((resolve) => child!.once('exit', resolve));
      child.kill('SIGTERM');
      const timer = setTimeout(() => child!.kill('SIGKILL'), 4000);
      await gone;
      clearTimeout(timer);
    },
  };
}

main().catch((e: NodeJS.ErrnoException) => {
  const cause = (e.cause instanceof Error ? e.cause : e) as NodeJS.ErrnoException;
  if (cause.code === 'EADDRINUSE')
    console.error(
      `Port ${process.env.OSCILLUM_PORT ?? 4310} is taken by another program. Stop it, or choose another: OSCILLUM_PORT=4320 npm start`,
    );
  else if (cause.code === 'ECONNREFUSED')
    console.error(
      'The database does not answer. Check DATABASE_URL, or leave it unset to use Oscillum’s own database.',
    );
  else console.error(`Oscillum could not start: ${cause.message}`);
  process.exit(1);
});
