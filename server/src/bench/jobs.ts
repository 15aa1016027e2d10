import { spawn, type ChildProcess } from 'node:child_process';
import { availableParallelism } from 'node:os';
import { createInterface } from 'node:readline';
import { fileURLToPath } from 'node:url';
import { demoFiles } from '@oscillum/demo';
import { defaultBake } from '@oscillum/core/bake';
import { Job, type BakeJob } from '@oscillum/core/contract';
import { parseShot } from '@oscillum/core/shot';
import { testServer, storeBird } from '../testing';

/**
 * Four clips of the demo character baked, thinned, written as GLB, BVH and USD text and checked: how many such jobs a
 * minute.
 */
const JOBS = 12;
const [brindle] = await demoFiles();

async function launch(url: string): Promise<ChildProcess> {
  const child = spawn(
    process.execPath,
    ['--import', 'tsx', fileURLToPath(new URL('../worker.ts', import.meta.url))],
    {
      env: { ...process.env, DATABASE_URL: url },
      stdio: ['ignore', 'pipe', 'inherit'],
    },
  );
  await new Promise<void>((resolve) =>
    createInterface({ input: child.stdout! }).on('line', (line) => line.includes('ready') && resolve()),
  );
  return child;
}

function request(name: string): BakeJob {
  const shot = parseShot({ ...brindle!.shots[0]!, name });
  const bake = { ...defaultBake(shot), parts: null, joints: null, name: '{clip} baked' };
  const thin = { kind: 'cubic', degrees: 0.5, millimetres: 5 } as const;
  return {
    shot,
    plan: {
      bake: { ...bake, thin },
      ...{
        clips: [0, 1, 2, 3],
        formats: ['glb', 'bvh', 'usda'],
        stem: 'brindle',
        unit: null,
        up: 'Y',
        pack: 'none',
      },
    },
  };
}

console.log(`${JOBS} jobs of four clips each, on ${availableParallelism()} cores`);
let alone = 0;
for (const count of [1, 2, 4]) {
  const server = await testServer();
  await storeBird(server);
  const workers = await Promise.all(Array.from({ length: count }, () => launch(server.databaseUrl)));
  const jobs = Array.from({ length: JOBS }, (_, k) => request(`Of ${count}, ${k}`));
  const began = performance.now();
  await server.call('POST', '/api/jobs', { json: { jobs } });
  for (;;) {
    const list = ((await server.call('GET', '/api/jobs')).body as unknown[]).map((j) => Job.parse(j));
    const failed = list.find((j) => j.state === 'failed');
    if (failed) throw new Error(failed.error ?? 'failed');
    if (list.every((j) => j.state === 'done')) break;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  const seconds = (performance.now() - began) / 1000;
  alone ||= seconds;
  const again = performance.now();
  await server.call('POST', '/api/jobs', { json: { jobs } });
  console.log(
    [
      `${count} ${count === 1 ? 'worker ' : 'workers'}:`,
      `${((60 * JOBS) / seconds).toFixed(1).padStart(6)} jobs a minute,`,
      `${(alone / seconds).toFixed(2)} times one worker;`,
      `all asked for again: ${(performance.now() - again).toFixed(0)} ms`,
    ].join(' '),
  );
  await Promise.all(
    workers.map((w) => {
      const gone = new Promise((resolve) => w.once('exit', resolve));
      w.kill('SIGTERM');
      return gone;
    }),
  );
  await server.close();
}
process.exit(0);
