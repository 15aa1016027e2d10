import { spawn, type ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import { createInterface } from 'node:readline';
import { fileURLToPath } from 'node:url';
import { sql } from 'drizzle-orm';
import { expect } from 'vitest';
import { demoFiles } from '@oscillum/demo';
import { defaultBake } from '@oscillum/core/bake';
import { Job, type BakeJob } from '@oscillum/core/contract';
import { openContainer } from '@oscillum/core/gltf';
import { handOff } from '@oscillum/core/handoff';
import { parseShot, type Shot } from '@oscillum/core/shot';
import type { TestServer } from './testing';

const ROOT = fileURLToPath(new URL('../..', import.meta.url));
const [brindle] = await demoFiles();
export const lookout = brindle!.shots.find((s) => s.clip?.name === 'Lookout')!;

/** A bake of a clip of the demo, thinned, as GLB and BVH. */
export function request(name: string, more: Partial<Shot> = {}): BakeJob {
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

/** The same of four clips, which takes a while. */
export function longRequest(name: string): BakeJob {
  const made = request(name);
  made.plan.clips = [0, 1, 2, 3];
  made.plan.bake.name = '{clip} baked';
  return made;
}

/** What the same bake makes here, by file name. */
export function meant({ shot, plan }: BakeJob): Map<string, string> {
  const run = handOff(openContainer(brindle!.bytes, shot.character.fileName), shot, plan);
  for (;;) {
    const step = run.next();
    if (step.done)
      return new Map(
        step.value.files.map((f) => [f.name, createHash('sha256').update(f.bytes).digest('hex')]),
      );
  }
}

/** A worker in a process of its own. */
export async function launch(databaseUrl: string): Promise<ChildProcess> {
  const child = spawn(process.execPath, ['--import', 'tsx', 'server/src/worker.ts'], {
    cwd: ROOT,
    env: {
      ...process.env,
      DATABASE_URL: databaseUrl,
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

export const ended = (child: ChildProcess) =>
  child.exitCode !== null || child.signalCode !== null
    ? Promise.resolve()
    : new Promise<void>((resolve) => child.once('exit', () => resolve()));

/** All that the server tells of jobs, as it tells it. */
export async function listen(server: TestServer): Promise<{ told: Job[]; close: () => void }> {
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

export const post = async (server: TestServer, ...jobs: BakeJob[]): Promise<Job[]> => {
  const { status, body } = await server.call('POST', '/api/jobs', { json: { jobs } });
  expect(status, JSON.stringify(body)).toBe(200);
  return body as Job[];
};
export const jobOf = async (server: TestServer, id: string): Promise<Job> =>
  Job.parse((await server.call('GET', `/api/jobs/${id}`)).body);
export const until = (server: TestServer, id: string, state: Job['state']) =>
  expect.poll(async () => (await jobOf(server, id)).state, { timeout: 90_000, interval: 50 }).toBe(state);

/** Process ids of workers that are in the middle of a job, not begun more often than that. */
export async function workersAt(server: TestServer, retries: number): Promise<number[]> {
  const { rows } = await server.connection.db.execute<{ name: string }>(sql`
    select a.application_name as name from jobs j join pgboss.job q on q.id = j.queued
      join pg_locks l on l.locktype = 'advisory' and (l.classid::bigint << 32) | l.objid::bigint =
        hashtextextended(q.id::text || ' ' || q.retry_count::text, 0)
      join pg_stat_activity a on a.pid = l.pid
    where q.state = 'active' and q.retry_count <= ${retries} and j.progress > 0.05`);
  return rows.map((r) => Number(r.name.split(' ').at(-1)));
}
