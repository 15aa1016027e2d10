import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, it, onTestFinished } from 'vitest';
import { mulberry32 } from '@oscillum/core/math';
import type { BakeJob, Job } from '@oscillum/core/contract';
import { startCluster } from '../../scripts/postgres.mjs';
import { ended, jobOf, launch, listen, longRequest, meant, post, until, workersAt } from './jobTesting';
import { storeBird, testServer } from './testing';

/** A database of its own, which may be stopped. */
async function ownCluster() {
  const scratch = mkdtempSync(join(tmpdir(), 'oscillum-kills-'));
  // The owner of the database is another user when we are root.
  spawnSync('chmod', ['755', scratch]);
  mkdirSync(join(scratch, 'db'), { mode: 0o755 });
  const cluster = await startCluster(join(scratch, 'db', 'postgres'), { throwaway: true });
  onTestFinished(() => {
    cluster.stop();
    rmSync(scratch, { recursive: true, force: true });
  });
  return cluster;
}

it('of three workers one is killed with -9 in mid job, ten times, and the database is started again: every job ends once', async () => {
  const cluster = await ownCluster();
  const server = await testServer({ DATABASE_URL: cluster.url });
  await storeBird(server);
  const { told, close } = await listen(server);
  const random = mulberry32(9);
  const workers = await Promise.all([0, 1, 2].map(() => launch(server.databaseUrl)));
  onTestFinished(() => workers.forEach((w) => w.kill('SIGKILL')));
  const asked: BakeJob[] = [];
  const jobs: Job[] = [];
  /** Puts jobs of four clips into the queue, all different, so that none is the same as another. */
  const more = async (count: number) => {
    const list = Array.from({ length: count }, (_, k) => longRequest(`Job ${asked.length + k}`));
    asked.push(...list);
    jobs.push(...(await post(server, ...list)));
  };
  await more(4);
  for (let kills = 0; kills < 11; kills++) {
    await more(1);
    // A job that has got somewhere: its worker is in the middle of it.
    let victim = -1;
    await expect
      .poll(
        async () => {
          // Not the same one again and again: that one would rightly be given up.
          const list = await workersAt(server, 1);
          const pid = list[Math.floor(random() * list.length)];
          victim = workers.findIndex((w) => w.pid === pid);
          return victim;
        },
        { timeout: 60_000, interval: 10 },
      )
      .toBeGreaterThanOrEqual(0);
    if (kills === 5) {
      cluster.stop();
      await cluster.restart();
      continue;
    }
    workers[victim]!.kill('SIGKILL');
    await ended(workers[victim]!);
    workers[victim] = await launch(server.databaseUrl);
  }
  for (const { id } of jobs) await until(server, id, 'done');
  const list = await Promise.all(jobs.map(({ id }) => jobOf(server, id)));
  // Ended once each, as told to whoever listens, and never further back than before.
  await expect.poll(() => new Set(told.filter((j) => j.state === 'done').map((j) => j.id)).size).toBe(15);
  for (const { id } of jobs) {
    const mine = told.filter((j) => j.id === id);
    expect(mine.filter((j) => j.state === 'done')).toHaveLength(1);
    expect(mine.map((j) => j.progress)).toEqual(mine.map((j) => j.progress).sort((a, b) => a - b));
  }
  // Each result is whole, and what it would have been without any kill.
  for (const [k, { result }] of list.entries()) {
    expect(result!.files).toHaveLength(5);
    expect(result!.clips).toHaveLength(4);
    if (k % 8 === 0) expect(new Map(result!.files.map((f) => [f.name, f.hash]))).toEqual(meant(asked[k]!));
  }
  close();
  for (const w of workers) w.kill('SIGTERM');
  await Promise.all(workers.map(ended));
  await server.close();
}, 300_000);
