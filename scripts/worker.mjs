/** npm run worker: one worker that takes jobs from the queue of the database in DATABASE_URL. */
import { spawn } from 'node:child_process';
import { ensurePackages, ROOT } from './packages.mjs';

if (!process.env.DATABASE_URL) {
  console.error(
    'DATABASE_URL is not set. Give it the address of the database that the server uses: npm start runs a worker of its own, so this is for more of them.',
  );
  process.exit(1);
}
ensurePackages();
const child = spawn(process.execPath, ['--import', 'tsx', 'server/src/worker.ts'], {
  cwd: ROOT,
  env: { ...process.env, OSCILLUM_CHILD: '1' },
  // The pipe tells the worker when we are gone.
  stdio: ['pipe', 'inherit', 'inherit'],
});
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => child.kill(signal));
child.once('exit', (code) => process.exit(code ?? 1));
