/** npm run bench:jobs: how many bakes a minute 1, 2 and 4 workers do. */
import { spawn, spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensurePackages, ROOT } from './packages.mjs';
import { startCluster } from './postgres.mjs';

const scratch = mkdtempSync(join(tmpdir(), 'oscillum-bench-'));
spawnSync('chmod', ['755', scratch]);
mkdirSync(join(scratch, 'db'), { mode: 0o755 });
ensurePackages();
const cluster = await startCluster(join(scratch, 'db', 'postgres'), { throwaway: true });
try {
  const child = spawn(process.execPath, ['--import', 'tsx', 'server/src/bench/jobs.ts'], {
    cwd: ROOT,
    env: { ...process.env, DATABASE_URL: cluster.url },
    stdio: ['ignore', 'inherit', 'inherit'],
  });
  process.exitCode = await new Promise((resolve) => child.once('exit', resolve));
} finally {
  cluster.stop();
  rmSync(scratch, { recursive: true, force: true });
}
