import { readFileSync } from 'node:fs';
import { pino } from 'pino';
import { serveApp } from './app';
import { readConfig } from './config';
import { openDatabase } from './db/database';
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
  let ending = false;
  const end = async () => {
    if (ending) return;
    ending = true;
    await app.close();
    await connection.close();
    process.exit(0);
  };
  process.on('SIGINT', () => void end());
  process.on('SIGTERM', () => void end());
  if (process.env.OSCILLUM_CHILD) {
    // Our starter holds the other end of stdin: when it is gone, so are we.
    process.stdin.on('end', () => void end());
    process.stdin.resume();
  }
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
