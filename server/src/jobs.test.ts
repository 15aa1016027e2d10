import { asChain } from '@oscillum/core/chain';
import { spawn, type ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import { createInterface } from 'node:readline';
import { fileURLToPath } from 'node:url';
import { sql } from 'drizzle-orm';
import { unzipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, it, onTestFinished } from 'vitest';
import { demoFiles } from '@oscillum/demo';
import { defaultBake } from '@oscillum/core/bake';
import { ApiError, Job, type BakeJob } from '@oscillum/core/contract';
import { openContainer } from '@oscillum/core/gltf';
import { handOff } from '@oscillum/core/handoff';
import { parseShot, type Shot } from '@oscillum/core/shot';
import { mulberry32 } from '@oscillum/core/math';
import { storeBird, testServer, type TestServer } from './testing';

const ROOT = fileURLToPath(new URL('../..', import.meta.url));
const [brindle] = await demoFiles();
const lookout = brindle!.shots.find((s) => s.clip?.name === 'Lookout')!;

/** A bake of a clip of the demo, thinned, as GLB and BVH. */
function request(name: string, more: Partial<Shot> = {}): BakeJob {
  const shot = parseShot({ ...lookout, name, ...more });
  const thin = { kind: 'cubic', degrees: 0.5, millimetres: 5 } as const;
  return {
    shot,
    plan: {
      bake: { ...defaultBake(shot), parts: null, joints: null, thin },
      ...{ clips: null, formats: ['glb', 'bvh'], stem: 'brindle', unit: null, up: 'Y', pack: 'none' },
    },
  };
}

/** What the same bake makes here, by file name. */
function meant({ shot, plan }: BakeJob): Map<string, string> {
  const run = handOff(openContainer(brindle!.bytes, shot.character.fileName), shot, plan);
  for (;;) {
    const step = run.next();
    if (step.done)
      return new Map(
        step.value.files.map((f) => [f.name, createHash('sha256').update(f.bytes).digest('hex')]),
      );
  }
}

async function launch(databaseUrl: string): Promise<ChildProcess> {
  const child = spawn(process.execPath, ['--import', 'tsx', 'server/src/worker.ts'], {
    cwd: ROOT,
    env: {
      ...process.env,
      DATABASE_URL: databaseUrl,
      OSCILLUM_LEASE_MS: '5000',
      OSCILLUM_LOG: 'silent',
      OSCILLUM_CHROMIUM: '/nowhere',
      OSCILLUM_PAGE: 'http://127.0.0.1:9',
    },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise<void>((resolve, reject) => {
    createInterface({ input: child.stdout! }).on('line', (line) => line.includes('ready') && resolve());
    child.once('exit', () => reject(new Error('The worker ended before it was ready')));
  });
  return child;
}

const ended = (child: ChildProcess) =>
  child.exitCode !== null || child.signalCode !== null
    ? Promise.resolve()
    : new Promise<void>((resolve) => child.once('exit', () => resolve()));

/** All that the server tells of jobs, as it tells it. */
async function listen(server: TestServer): Promise<{ told: Job[]; close: () => void }> {
  const stop = new AbortController();
  const response = await fetch(`${server.base}/api/jobs/events`, { signal: stop.signal });
  expect(response.headers.get('content-type')).toContain('text/event-stream');
  const told: Job[] = [];
  const read = async () => {
    let text = '';
    for await (const chunk of response.body!.pipeThrough(new TextDecoderStream())) {
      text += chunk;
      for (let at = text.indexOf('\n\n'); at >= 0; at = text.indexOf('\n\n')) {
        const data = /^data: (.*)$/m.exec(text.slice(0, at));
        if (data) told.push(Job.parse(JSON.parse(data[1]!)));
        text = text.slice(at + 2);
      }
    }
  };
  read().catch(() => undefined);
  return { told, close: () => stop.abort() };
}

const post = async (server: TestServer, ...jobs: BakeJob[]): Promise<Job[]> => {
  const { status, body } = await server.call('POST', '/api/jobs', { json: { jobs } });
  expect(status, JSON.stringify(body)).toBe(200);
  return body as Job[];
};
const jobOf = async (server: TestServer, id: string): Promise<Job> =>
  Job.parse((await server.call('GET', `/api/jobs/${id}`)).body);
const until = (server: TestServer, id: string, state: Job['state']) =>
  expect.poll(async () => (await jobOf(server, id)).state, { timeout: 90_000, interval: 50 }).toBe(state);

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
    expect(again).toMatchObject({ id: made!.id, state: 'done', attempts: 1 });
  });

  it('that are poisoned fail alone, with their reason; the others go on', async () => {
    const poisoned = request('Poisoned');
    // A part of joints that this character does not have.
    const part = asChain(Object.values(poisoned.shot.parts)[0]);
    part.joints = part.joints.map((j) => ({ ...j, node: j.node + 500 }));
    const [bad, good] = await post(server, poisoned, request('Beside it'));
    await until(server, bad!.id, 'failed');
    await until(server, good!.id, 'done');
    const { error, attempts } = await jobOf(server, bad!.id);
    expect(error).toMatch(/joint/i);
    expect(attempts).toBe(1);
    // Asked for again it is tried again.
    const again = await server.call('POST', `/api/jobs/${bad!.id}/retry`, { json: {} });
    expect(again.status).toBe(200);
    await until(server, bad!.id, 'failed');
  });

  it('are cancelled in the middle, and go on from the clips that were baked when they are asked for again', async () => {
    const asked = request('Many');
    asked.plan.clips = [0, 1, 2, 3];
    asked.plan.bake.name = '{clip} baked';
    const [made] = await post(server, asked);
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
    await until(server, made!.id, 'failed');
    expect((await jobOf(server, made!.id)).error).toMatch(/no browser to draw with.*Install Chromium/);
    expect((await server.call('GET', `/api/jobs/${made!.id}/request`)).body.film).toEqual(film);
  });

  it('that cannot be are refused with a sentence', async () => {
    const refused = async (json: unknown, status: number, code: string) => {
      const answer = await server.call('POST', '/api/jobs', { json });
      expect(answer.status).toBe(status);
      expect(ApiError.parse(answer.body).error.code).toBe(code);
    };
    const elsewhere = request('Elsewhere');
    elsewhere.shot.character.hash = 'f'.repeat(64) as typeof elsewhere.shot.character.hash;
    await refused({ jobs: [elsewhere] }, 404, 'not-found');
    const outside = request('Outside');
    outside.plan.bake.last = 5000;
    await refused({ jobs: [outside] }, 422, 'bake.invalid');
    await refused({ jobs: [] }, 422, 'body.invalid');
    const [done] = (await server.call('GET', '/api/jobs')).body as Job[];
    expect((await server.call('POST', `/api/jobs/${done!.id}/cancel`, { json: {} })).body.error.code).toBe(
      'job.over',
    );
    expect((await server.call('GET', '/api/jobs/aaaaaaaaaaaaaaaa')).status).toBe(404);
    expect((await server.call('GET', `/api/jobs/${done!.id}/files/nothing.glb`)).status).toBe(404);
  });
});

it('of three workers one is killed with -9 in mid job, ten times: every job ends once, none is missing or doubled', async () => {
  const server = await testServer();
  await storeBird(server);
  const { told, close } = await listen(server);
  const random = mulberry32(9);
  const workers = await Promise.all([0, 1, 2].map(() => launch(server.databaseUrl)));
  onTestFinished(() => workers.forEach((w) => w.kill('SIGKILL')));
  const asked: BakeJob[] = [];
  const jobs: Job[] = [];
  /** Puts jobs of four clips into the queue, all different, so that none is the same as another. */
  const more = async (count: number) => {
    const list = Array.from({ length: count }, (_, k) => {
      const made = request(`Job ${asked.length + k}`);
      made.plan.clips = [0, 1, 2, 3];
      made.plan.bake.name = '{clip} baked';
      return made;
    });
    asked.push(...list);
    jobs.push(...(await post(server, ...list)));
  };
  await more(4);
  for (let kills = 0; kills < 10; kills++) {
    await more(2);
    // A job that has got somewhere: its worker is in the middle of it.
    let victim = -1;
    await expect
      .poll(
        async () => {
          const { rows } = await server.connection.db.execute<{ worker: string }>(
            // Not the same one again and again: that one would rightly be given up.
            sql`select worker from jobs where state = 'running' and progress > 0.05 and attempts < 3`,
          );
          const row = rows[Math.floor(random() * rows.length)];
          victim = workers.findIndex((w) => w.pid === Number(row?.worker.split(' ')[1]));
          return victim;
        },
        { timeout: 60_000, interval: 10 },
      )
      .toBeGreaterThanOrEqual(0);
    workers[victim]!.kill('SIGKILL');
    await ended(workers[victim]!);
    workers[victim] = await launch(server.databaseUrl);
  }
  for (const { id } of jobs) await until(server, id, 'done');
  const list = await Promise.all(jobs.map(({ id }) => jobOf(server, id)));
  // Ended once each, as told to whoever listens; begun again where a worker was killed.
  await expect.poll(() => new Set(told.filter((j) => j.state === 'done').map((j) => j.id)).size).toBe(24);
  for (const { id } of jobs) expect(told.filter((j) => j.id === id && j.state === 'done')).toHaveLength(1);
  expect(list.reduce((n, j) => n + j.attempts - 1, 0)).toBeGreaterThanOrEqual(8);
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
