/** npm start, npm run dev: from a fresh clone to a running Oscillum. */
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { ensureBuild, ensurePackages, ROOT } from './packages.mjs';
import { freePort, SetupError, startCluster } from './postgres.mjs';

const dev = process.argv.includes('--dev');
let cluster = null;
const children = [];
let ending = false;

/** Ends what was started, in order: server first, then its database. */
async function end(code) {
  if (ending) return;
  ending = true;
  await Promise.all(
    children.map((child) => {
      if (child.exitCode !== null || child.signalCode !== null) return null;
      const gone = new Promise((resolve) => child.once('exit', resolve));
      child.kill('SIGTERM');
      const timer = setTimeout(() => child.kill('SIGKILL'), 8000);
      return gone.then(() => clearTimeout(timer));
    }),
  );
  cluster?.stop();
  process.exit(code);
}

function launch(command, args, env) {
  // The pipe on stdin tells the child when we are gone, even by kill -9.
  const child = spawn(command, args, {
    cwd: ROOT,
    env: { ...process.env, ...env },
    stdio: ['pipe', 'inherit', 'inherit'],
  });
  child.once('exit', (code) => void end(code ?? 1));
  children.push(child);
}

/** A program of an npm package, without npx between: signals reach it. */
const bin = (name) => join(ROOT, 'node_modules', '.bin', name);

process.on('SIGINT', () => void end(0));
process.on('SIGTERM', () => void end(0));

try {
  ensurePackages();
  if (!dev) ensureBuild();
  let url = process.env.DATABASE_URL;
  if (!url) {
    cluster = await startCluster(join(process.env.OSCILLUM_DATA ?? join(ROOT, '.oscillum'), 'postgres'));
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
  } else {
    launch(process.execPath, ['--import', 'tsx', 'server/src/main.ts'], {
      ...env,
      OSCILLUM_STATIC: join(ROOT, 'web', 'dist'),
    });
  }
} catch (e) {
  console.error(e instanceof SetupError ? `\n${e.message}` : e);
  await end(1);
}
