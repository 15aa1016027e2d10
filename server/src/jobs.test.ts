import { createHash } from 'node:crypto';
import type { ChildProcess } from 'node:child_process';
import { sql } from 'drizzle-orm';
import { unzipSync } from 'fflate';
import PgBoss from 'pg-boss';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { asChain } from '@oscillum/core/chain';
import { ApiError, type Job } from '@oscillum/core/contract';
import {
  ended,
  jobOf,
  launch,
  listen,
  longRequest,
  lookout,
  meant,
  post,
  request,
  until,
  workersAt,
} from './jobTesting';
import { storeBird, testServer, type TestServer } from './testing';

describe('jobs', () => {
  let server: TestServer;
  let worker: ChildProcess;
  beforeAll(async () => {
    server = await testServer();
    await storeBird(server);
    worker = await launch(server.databaseUrl);
  });
  afterAll(async () => {
    worker.kill('SIGTERM');
    await ended(worker);
    await server.close();
  });

  const change = (what: ReturnType<typeof sql>) => server.connection.db.execute(what);
  const middle = () =>
    expect.poll(() => workersAt(server, 9), { timeout: 60_000, interval: 10 }).toHaveLength(1);
  /** How often the engine has given a job to a worker. */
  const tries = async ({ id }: Job): Promise<number> => {
    const { rows } = await server.connection.db.execute<{ n: number }>(
      sql`select retry_count + 1 n from pgboss.job where id = (select queued from jobs where id = ${id})`,
    );
    return rows[0]!.n;
  };

  it('make the very files that a bake in the page makes, are told of as they go, and cost nothing the second time', async () => {
    const { told, close } = await listen(server);
    const asked = request('Once');
    const [made] = await post(server, asked);
    await until(server, made!.id, 'done');
    const done = await jobOf(server, made!.id);
    const files = new Map(done.result!.files.map((f) => [f.name, f.hash]));
    expect(files).toEqual(meant(asked));
    // Read back by us and played by another, whose pictures stay unread here.
    expect(done.result!.checks.map((c) => [c.by.replace(/ \(.*/, ''), c.fine])).toEqual([
      ['our own reader', true],
      ['three.js', true],
      ['three.js', true],
    ]);
    expect(done.result!.faults).toEqual([]);
    const bytes = Buffer.from(
      await (await fetch(`${server.base}/api/jobs/${made!.id}/files/brindle.glb`)).arrayBuffer(),
    );
    expect(createHash('sha256').update(bytes).digest('hex')).toBe(files.get('brindle.glb'));
    const zip = unzipSync(
      new Uint8Array(await (await fetch(`${server.base}/api/jobs/${made!.id}/files/all.zip`)).arrayBuffer()),
    );
    expect(Object.keys(zip).sort()).toEqual(['brindle.bvh', 'brindle.glb', 'manifest.json']);
    await expect.poll(() => told.at(-1)?.state).toBe('done');
    expect(new Set(told.map((j) => j.state))).toEqual(new Set(['waiting', 'running', 'done']));
    close();

    const [again] = await post(server, asked);
    expect(again).toMatchObject({ id: made!.id, state: 'done' });
    expect(await tries(made!)).toBe(1);
  });

  it('that are poisoned fail alone, with their reason; the others go on', async () => {
    const poisoned = request('Poisoned');
    // A part of joints that this character does not have.
    const part = asChain(Object.values(poisoned.shot.parts)[0]);
    part.joints = part.joints.map((j) => ({ ...j, node: j.node + 500 }));
    const [bad, good] = await post(server, poisoned, request('Beside it'));
    await until(server, bad!.id, 'failed');
    await until(server, good!.id, 'done');
    expect((await jobOf(server, bad!.id)).error).toMatch(/joint/i);
    expect(await tries(bad!)).toBe(1);
    // Asked for again it is tried again.
    const again = await server.call('POST', `/api/jobs/${bad!.id}/retry`, { json: {} });
    expect(again.status).toBe(200);
    await until(server, bad!.id, 'failed');
  });

  it('are cancelled in the middle, and go on from the clips that were baked when they are asked for again', async () => {
    const [made] = await post(server, longRequest('Many'));
    const pieces = async () =>
      Number(
        (await server.connection.db.execute<{ n: string }>(sql`select count(*) n from pieces`)).rows[0]!.n,
      );
    const before = await pieces();
    await expect.poll(pieces, { timeout: 60_000, interval: 20 }).toBeGreaterThan(before);
    expect((await server.call('POST', `/api/jobs/${made!.id}/cancel`, { json: {} })).body.state).toBe(
      'cancelled',
    );
    // Its worker lets go of it and takes another.
    const [next] = await post(server, request('Next'));
    await until(server, next!.id, 'done');
    expect((await jobOf(server, made!.id)).state).toBe('cancelled');
    await server.call('POST', `/api/jobs/${made!.id}/retry`, { json: {} });
    await until(server, made!.id, 'done');
    expect((await jobOf(server, made!.id)).result!.clips).toHaveLength(4);
    // Four clips and the one of the other job: none was baked twice.
    expect(await pieces()).toBe(before + 5);
    expect(await server.call('DELETE', `/api/jobs/${made!.id}`)).toMatchObject({ status: 200 });
    expect((await server.call('GET', `/api/jobs/${made!.id}`)).status).toBe(404);
  });

  it('of films end with a sentence where there is no browser to draw with', async () => {
    const film = {
      ...{ kind: 'webm', numbers: true, size: { width: 320, height: 200 }, shown: {} },
      camera: { target: [0, 1, 0], at: [3, 1, 0], zoom: 1 },
    };
    const { body } = await server.call('POST', '/api/jobs', { json: { jobs: [{ shot: lookout, film }] } });
    const [made] = body as Job[];
    expect(made!.title).toBe(`${lookout.name}, film`);
    // A film has a limit of its own.
    const { rows } = await change(
      sql`select extract(epoch from expire_in)::int as seconds from pgboss.job
        where id = (select queued from jobs where id = ${made!.id})`,
    );
    expect(rows).toEqual([{ seconds: 2 * 3600 }]);
    await until(server, made!.id, 'failed');
    expect((await jobOf(server, made!.id)).error).toMatch(/no browser to draw with.*Install Chromium/);
    expect((await server.call('GET', `/api/jobs/${made!.id}/request`)).body.film).toEqual(film);
  });

  it('of which one cannot be are put into the queue but for that one, which says why by its name', async () => {
    const elsewhere = request('Elsewhere');
    elsewhere.shot.character.hash = 'f'.repeat(64) as typeof elsewhere.shot.character.hash;
    const outside = request('Outside');
    outside.plan.bake.last = 5000;
    const [lost, late, fine] = await post(server, elsewhere, outside, request('Between'));
    expect(lost).toMatchObject({ state: 'failed', title: expect.stringMatching(/^Elsewhere/) });
    expect(lost!.error).toMatch(/not in the library.*Drop its file/);
    expect(late).toMatchObject({ state: 'failed', title: expect.stringMatching(/^Outside/) });
    expect(late!.error).toMatch(/5000/);
    await until(server, fine!.id, 'done');
  });

  it('are handed back at once by a worker that is told to end, and the next one goes on', async () => {
    const [made] = await post(server, longRequest('Handed back'));
    await middle();
    worker.kill('SIGTERM');
    await ended(worker);
    const between = await jobOf(server, made!.id);
    expect(between.state).toBe('waiting');
    expect(between.progress).toBeGreaterThan(0.05);
    worker = await launch(server.databaseUrl);
    await until(server, made!.id, 'done');
    // It counts as no try.
    expect(await tries(made!)).toBe(1);
  });

  it('that last too long, or whose workers end again and again, are given up by the engine, which says so', async () => {
    const [long] = await post(server, longRequest('Too long'));
    await middle();
    await change(sql`update pgboss.job set retry_limit = 0, started_on = now() - interval '7 hours'
      where id = (select queued from jobs where id = ${long!.id})`);
    const boss = new PgBoss({ connectionString: server.databaseUrl, supervise: false, schedule: false });
    await boss.start();
    await boss.expire();
    await boss.stop({ graceful: false });
    await until(server, long!.id, 'failed');
    expect((await jobOf(server, long!.id)).error).toMatch(/took longer than one job may/);

    const [heavy] = await post(server, longRequest('Heavy'));
    await middle();
    await change(
      sql`update pgboss.job set retry_limit = 0 where id = (select queued from jobs where id = ${heavy!.id})`,
    );
    worker.kill('SIGKILL');
    worker = await launch(server.databaseUrl);
    await until(server, heavy!.id, 'failed');
    expect((await jobOf(server, heavy!.id)).error).toMatch(/worker ended in the middle of it.*fewer clips/);
    await server.call('POST', `/api/jobs/${heavy!.id}/retry`, { json: {} });
    await until(server, heavy!.id, 'done');
  });

  it('that cannot be are refused with a sentence', async () => {
    const refused = async (json: unknown, status: number, code: string) => {
      const answer = await server.call('POST', '/api/jobs', { json });
      expect(answer.status).toBe(status);
      expect(ApiError.parse(answer.body).error.code).toBe(code);
    };
    await refused({ jobs: [] }, 422, 'body.invalid');
    const [done] = (await server.call('GET', '/api/jobs')).body as Job[];
    expect((await server.call('POST', `/api/jobs/${done!.id}/cancel`, { json: {} })).body.error.code).toBe(
      'job.over',
    );
    expect((await server.call('GET', '/api/jobs/aaaaaaaaaaaaaaaa')).status).toBe(404);
    expect((await server.call('GET', `/api/jobs/${done!.id}/files/nothing.glb`)).status).toBe(404);
  });
});
