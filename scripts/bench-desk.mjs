/**
 * npm run bench:memory, npm run bench:refine (the first argument is `memory` or `refine`): see e2e/bench-memory.ts,
 * e2e/bench-refine.ts. npm run bench:desk: slider movement to picture in the headless browser, ten chains of ten links
 * over 240 frames.
 */
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureBuild, ensurePackages, ROOT } from './packages.mjs';
import { freePort, installPackages, startCluster } from './postgres.mjs';

const [, , which, ...more] = process.argv;
const [script, rest] =
  which === 'memory' || which === 'refine'
    ? [`bench-${which}.ts`, more]
    : ['bench-desk.ts', process.argv.slice(2)];
const scratch = mkdtempSync(join(tmpdir(), 'oscillum-bench-'));
spawnSync('chmod', ['755', scratch]);
mkdirSync(join(scratch, 'db'), { mode: 0o755 });
ensurePackages();
ensureBuild();
if (!existsSync('/usr/bin/chromium')) installPackages(['chromium'], 'Chromium');
const cluster = await startCluster(join(scratch, 'db', 'postgres'), { throwaway: true });
const port = await freePort();
const server = spawn(process.execPath, ['--import', 'tsx', 'server/src/main.ts'], {
  cwd: ROOT,
  env: {
    ...process.env,
    DATABASE_URL: cluster.url,
    OSCILLUM_PORT: String(port),
    OSCILLUM_STATIC: join(ROOT, 'web', 'dist'),
    OSCILLUM_SEED: 'none',
  },
  stdio: ['ignore', 'pipe', 'inherit'],
});
await new Promise((resolve) => server.stdout.on('data', (d) => String(d).includes('ready') && resolve()));
try {
  const result = spawnSync('npx', ['tsx', `e2e/${script}`, `http://127.0.0.1:${port}`, ...rest], {
    cwd: ROOT,
    stdio: ['ignore', 'inherit', 'inherit'],
  });
  process.exitCode = result.status ?? 1;
} finally {
  server.kill('SIGTERM');
  await new Promise((resolve) => server.once('exit', resolve));
  cluster.stop();
  rmSync(scratch, { recursive: true, force: true });
}
