/** npm start, npm run dev: from a fresh clone to a running Oscillum, which is begun again when a part of it dies. */
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { makeTries } from './keep.mjs';
import { dropLock, readLock, takeLock, tellAddress } from './lock.mjs';
import { ensureBuild, ensurePackages, ROOT } from './packages.mjs';
import { freePort, SetupError, startCluster } from './postgres.mjs';

const dev = process.argv.includes('--dev');
const DATA = process.env.OSCILLUM_DATA ?? join(ROOT, '.oscillum');
const LOCK = join(DATA, 'running.json');
const WATCH_MS = 500;
let cluster = null;
const children = new Set();
let ending = false;

/** Ends what was started, in order: server first, then its database. */
async function end(code) {
  if (ending) return;
  ending = true;
  await Promise.all(
    [...children].map((child) => {
      if (child.exitCode !== null || child.signalCode !== null) return null;
      const gone = new Promise((resolve) => child.once('exit', resolve));
      child.kill('SIGTERM');
      // The server gives requests under way ten seconds.
      const timer = setTimeout(() => child.kill('SIGKILL'), 15_000);
      return gone.then(() => clearTimeout(timer));
    }),
  );
  cluster?.stop();
  dropLock(LOCK);
  process.exit(code);
}

function giveUp(what) {
  console.error(
    `\n${what} ended five times within a short while. Look at the lines above, then start again.`,
  );
  return end(1);
}

/** Starts a program. One that was ready once is begun again when it dies; one that never was has said why. */
function launch(command, args, env, next = makeTries()) {
  // The pipe on stdin tells the child when we are gone, even by kill -9.
  const child = spawn(command, args, {
    cwd: ROOT,
    env: { ...process.env, ...env },
    stdio: ['pipe', 'inherit', 'inherit', 'ipc'],
  });
  let ready = false;
  child.on('message', ({ address }) => {
    ready = true;
    if (!process.env.DATABASE_URL) tellAddress(LOCK, address);
  });
  child.once('exit', async (code, signal) => {
    children.delete(child);
    if (ending) return;
    if (!ready) return end(code ?? 1);
    const wait = next();
    if (wait === null) return giveUp('The server');
    console.error(`The server ended (${signal ?? code}); it is started again.`);
    await pause(wait);
    if (!ending) launch(command, args, env, next);
  });
  children.add(child);
}

/** Starts the database again, on the same port, whenever it has died, and keeps its log short. */
async function watchDatabase() {
  const next = makeTries();
  let logTrouble = false;
  while (!ending) {
    await pause(WATCH_MS);
    if (ending) return;
    try {
      cluster.rotateLog();
    } catch (e) {
      if (!logTrouble) console.error(`The log of the database could not be put aside: ${e.message}`);
      logTrouble = true;
    }
    if (cluster.isRunning()) continue;
    const wait = next();
    if (wait === null) return giveUp('The database');
    console.error('The database ended; it is started again.');
    await pause(wait);
    try {
      if (!ending) await cluster.restart();
    } catch (e) {
      console.error(e.message);
    }
  }
}

/** Says where the Oscillum of this folder runs already; ours is not needed then. */
async function pointTo(holder) {
  for (let i = 0; i < 120 && !holder?.address; i++) {
    await pause(WATCH_MS);
    holder = readLock(LOCK);
  }
  if (!holder?.address)
    throw new SetupError(
      `Another npm start (process ${holder?.pid}) holds ${DATA} and does not serve yet. Wait for it, or choose another folder: OSCILLUM_DATA=/some/folder npm start`,
    );
  console.log(`Oscillum is running already at ${holder.address} (process ${holder.pid}, folder ${DATA}).`);
  process.exit(0);
}

/** A sentence for a checkout on a read-only or full disk, or null for any other failure. */
const unwritable = ({ code, path }) =>
  ['EROFS', 'EACCES', 'EPERM', 'ENOSPC'].includes(code)
    ? `\n${path ?? ROOT} cannot be written (${code}). Oscillum builds itself in its own folder: make ${ROOT} writable, or copy it to a place that is.`
    : null;

/** A program of an npm package, without npx between: signals reach it. */
const bin = (name) => join(ROOT, 'node_modules', '.bin', name);

process.on('SIGINT', () => void end(0));
process.on('SIGTERM', () => void end(0));

try {
  if (!process.env.DATABASE_URL) {
    const holder = takeLock(LOCK);
    if (holder) await pointTo(holder);
  }
  ensurePackages();
  if (!dev) ensureBuild();
  let url = process.env.DATABASE_URL;
  if (!url) {
    cluster = await startCluster(join(DATA, 'postgres'));
    url = cluster.url;
  }
  const port = process.env.OSCILLUM_PORT ?? (dev ? String(await freePort()) : '4310');
  const env = { DATABASE_URL: url, OSCILLUM_PORT: port, OSCILLUM_CHILD: '1' };
  if (dev) {
    const page = process.env.OSCILLUM_DEV_PORT ?? '4311';
    launch(bin('tsx'), ['watch', '--clear-screen=false', 'server/src/main.ts'], {
      ...env,
      OSCILLUM_ORIGINS: `http://127.0.0.1:${page}`,
    });
    launch(bin('vite'), ['web', '--host', '127.0.0.1', '--port', page, '--strictPort'], {
      OSCILLUM_API: `http://127.0.0.1:${port}`,
    });
    if (cluster) tellAddress(LOCK, `http://127.0.0.1:${page}`);
  } else {
    launch(process.execPath, ['--import', 'tsx', 'server/src/main.ts'], {
      ...env,
      OSCILLUM_STATIC: join(ROOT, 'web', 'dist'),
    });
  }
  if (cluster) void watchDatabase();
} catch (e) {
  console.error(e instanceof SetupError ? `\n${e.message}` : (unwritable(e) ?? e));
  await end(1);
}
