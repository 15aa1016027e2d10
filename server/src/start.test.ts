import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import {
  appendFileSync,
  chmodSync,
  cpSync,
  mkdtempSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';

const ROOT = fileURLToPath(new URL('../..', import.meta.url));
const data = mkdtempSync(join(tmpdir(), 'oscillum-start-'));
const postgres = join(data, 'postgres', 'data');
/** What the start command prints, per process. */
const said = new Map<ChildProcess, string>();

function start(env: Record<string, string> = {}): ChildProcess {
  const child = spawn(process.execPath, ['scripts/start.mjs'], {
    cwd: ROOT,
    env: {
      ...process.env,
      ...{
        DATABASE_URL: '',
        OSCILLUM_DATA: data,
        OSCILLUM_PORT: '0',
        OSCILLUM_SEED: 'none',
        OSCILLUM_WORKERS: '0',
      },
      ...env,
    },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  said.set(child, '');
  for (const stream of [child.stdout!, child.stderr!])
    stream.on('data', (text) => said.set(child, said.get(child)! + String(text)));
  return child;
}

const ended = (child: ChildProcess): Promise<number | null> =>
  child.exitCode !== null ? Promise.resolve(child.exitCode) : new Promise((r) => child.once('exit', r));

const patiently = <T>(look: () => T | Promise<T>) => vi.waitFor(look, { timeout: 60_000, interval: 100 });

const address = (child: ChildProcess, nth = 0) =>
  patiently(() => {
    const found = [...said.get(child)!.matchAll(/ready at (\S+)/g)][nth];
    if (!found) throw new Error(`Not ready: ${said.get(child)}`);
    return found[1]!;
  });

const lists = async (base: string) => {
  const answer = await fetch(`${base}/api/shots`);
  expect(answer.status).toBe(200);
};

const postmaster = () => Number(readFileSync(join(postgres, 'postmaster.pid'), 'utf8').split('\n')[0]);

describe('npm start', () => {
  let first: ChildProcess;
  beforeAll(async () => {
    chmodSync(data, 0o755);
    first = start();
    await address(first);
  }, 300_000);
  afterAll(async () => {
    first.kill('SIGTERM');
    await ended(first);
    rmSync(data, { recursive: true, force: true });
  }, 60_000);

  it('a second one on the same folder opens the address of the first, which goes on', async () => {
    const base = await address(first);
    const second = start();
    expect(await ended(second)).toBe(0);
    expect(said.get(second)).toContain(`running already at ${base}`);
    // The first one has said if it runs as root, which it need not.
    expect(said.get(first)!.includes('runs as root')).toBe(process.getuid?.() === 0);
    await lists(base);
  }, 120_000);

  it('a database that dies is started again, and the server goes on with it', async () => {
    const base = await address(first);
    const before = postmaster();
    process.kill(before, 'SIGKILL');
    await patiently(() => expect(said.get(first)).toContain('The database ended; it is started again.'));
    await patiently(() => expect(postmaster()).not.toBe(before));
    await patiently(() => lists(base));
  }, 120_000);

  it('a server that dies is started again', async () => {
    const { pid } = first;
    const server = Number(readFileSync(`/proc/${pid}/task/${pid}/children`, 'utf8').split(' ')[0]);
    expect(server).toBeGreaterThan(0);
    process.kill(server, 'SIGKILL');
    await lists(await address(first, 1));
  }, 120_000);

  it('told to end, it ends its server and its database; a number left in their files harms nothing', async () => {
    first.kill('SIGTERM');
    expect(await ended(first)).toBe(0);
    expect(() => postmaster()).toThrow();
    // As after a crash: the number of the dead database is that of another process now, and one of the same user.
    writeFileSync(
      join(postgres, 'postmaster.pid'),
      `${process.pid}\n${postgres}\n0\n1\n\n127.0.0.1\n0 0\nready\n`,
    );
    writeFileSync(
      join(data, 'running.json'),
      JSON.stringify({ pid: process.pid, address: 'http://127.0.0.1:1' }),
    );
    first = start();
    await lists(await address(first));
  }, 120_000);

  it('a log of the database that has grown is put aside while it runs, and is written on', async () => {
    const log = join(data, 'postgres', 'server.log');
    appendFileSync(log, 'x'.repeat(11 * 2 ** 20));
    await patiently(() => expect(statSync(log).size).toBeLessThan(2 ** 20));
    expect(statSync(`${log}.1`).size).toBeGreaterThan(11 * 2 ** 20);
    process.kill(postmaster(), 'SIGHUP');
    await patiently(() => expect(readFileSync(log, 'utf8')).toMatch(/^\d{4}-.*SIGHUP/));
  }, 120_000);

  it('a checkout that cannot be written ends in a sentence, before anything is installed', async () => {
    const checkout = mkdtempSync(join(tmpdir(), 'oscillum-checkout-'));
    cpSync(join(ROOT, 'scripts'), join(checkout, 'scripts'), { recursive: true });
    cpSync(join(ROOT, 'package-lock.json'), join(checkout, 'package-lock.json'));
    chmodSync(checkout, 0o555);
    // Nothing is closed to root, so that then another user tries.
    const other =
      process.getuid?.() === 0 ? ['setpriv', '--reuid=postgres', '--regid=postgres', '--init-groups'] : [];
    const place = mkdtempSync(join(tmpdir(), 'oscillum-data-'));
    chmodSync(place, 0o777);
    const [command, ...args] = [...other, process.execPath, join(checkout, 'scripts', 'start.mjs')];
    const tried = spawnSync(command!, args, {
      encoding: 'utf8',
      env: { ...process.env, DATABASE_URL: '', OSCILLUM_DATA: join(place, 'here') },
    });
    rmSync(checkout, { recursive: true });
    rmSync(place, { recursive: true });
    expect(tried.status).toBe(1);
    expect(tried.stdout + tried.stderr).toMatch(
      /^\n?\S+ cannot be written \(EACCES\)\..*make \S+ writable, or copy it/,
    );
  }, 60_000);

  it('an impossible data folder ends in a sentence', async () => {
    const child = start({ OSCILLUM_DATA: '/dev/null/here' });
    expect(await ended(child)).toBe(1);
    expect(said.get(child)).toContain(
      'The data folder /dev/null/here cannot be written (ENOTDIR). Make it writable, or choose another',
    );
    expect(said.get(child)).not.toMatch(/\n\s+at /);
  }, 60_000);
});
