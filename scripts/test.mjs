/** npm test: sets up all it needs, runs check, unit, server and browser tests, and ends with one line of counts. */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureBuild, ensurePackages, ROOT } from './packages.mjs';
import { installPackages, SetupError, startCluster } from './postgres.mjs';

const counts = { passed: 0, failed: 0 };
const scratch = mkdtempSync(join(tmpdir(), 'oscillum-test-'));

function stage(name, command, args, env = {}) {
  console.log(`\n── ${name}`);
  return (
    spawnSync(command, args, {
      cwd: ROOT,
      stdio: ['ignore', 'inherit', 'inherit'],
      env: { ...process.env, ...env },
    }).status ?? 1
  );
}

/** Counts the tests of a JSON report; a runner that failed without a failed test counts as one. */
function tally(file, status, read) {
  const { passed, failed } = existsSync(file)
    ? read(JSON.parse(readFileSync(file, 'utf8')))
    : { passed: 0, failed: 0 };
  counts.passed += passed;
  counts.failed += failed || (status !== 0 ? 1 : 0);
}

let cluster = null;
try {
  ensurePackages();
  if (!existsSync('/usr/bin/chromium')) installPackages(['chromium'], 'Chromium');
  mkdirSync(join(scratch, 'db'), { recursive: true, mode: 0o755 });
  spawnSync('chmod', ['755', scratch]);
  cluster = await startCluster(join(scratch, 'db', 'postgres'), { throwaway: true });
  const env = { DATABASE_URL: cluster.url };

  for (const part of ['types', 'lint', 'imports', 'unused', 'kernel', 'format']) {
    const ok = stage(`check: ${part}`, 'npm', ['run', '--silent', `check:${part}`]) === 0;
    counts[ok ? 'passed' : 'failed']++;
  }
  console.log('\n── build');
  ensureBuild();

  const unit = join(scratch, 'unit.json');
  tally(
    unit,
    stage(
      'unit and server tests',
      'npx',
      ['vitest', 'run', '--reporter=default', '--reporter=json', `--outputFile.json=${unit}`],
      env,
    ),
    (r) => ({ passed: r.numPassedTests, failed: r.numFailedTests }),
  );

  const browser = join(scratch, 'browser.json');
  tally(
    browser,
    stage(
      'browser tests',
      'npx',
      ['playwright', 'test', '--config', 'e2e/playwright.config.ts', '--reporter=list,json'],
      { ...env, PLAYWRIGHT_JSON_OUTPUT_FILE: browser },
    ),
    (r) => ({ passed: r.stats.expected, failed: r.stats.unexpected + r.stats.flaky }),
  );
} catch (e) {
  console.error(e instanceof SetupError ? `\n${e.message}` : e);
  counts.failed++;
} finally {
  cluster?.stop();
  rmSync(scratch, { recursive: true, force: true });
}
console.log(`\n${counts.passed} passed, ${counts.failed} failed`);
process.exitCode = counts.failed ? 1 : 0;
