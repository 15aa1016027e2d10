import { spawn, type ChildProcess } from 'node:child_process';
import { createInterface } from 'node:readline';
import { fileURLToPath } from 'node:url';
import { expect, it } from 'vitest';
import { brindleGlb } from '@oscillum/demo';
import { makeClothPart, type ClothPart } from '@oscillum/core/cloth';
import { makeWeightMap, putShares, readWeightMap, type WeightMap } from '@oscillum/core/model';
import { editShot, makeShot, type Edit, type Shot } from '@oscillum/core/shot';
import { mulberry32 } from '@oscillum/core/math';
import { freshDatabase } from './testing';

const ROOT = fileURLToPath(new URL('../..', import.meta.url));

/** A server process of its own, ready to be killed. */
async function launch(databaseUrl: string): Promise<{ child: ChildProcess; base: string }> {
  const child = spawn(process.execPath, ['--import', 'tsx', 'server/src/main.ts'], {
    cwd: ROOT,
    env: {
      ...process.env,
      ...{ DATABASE_URL: databaseUrl, OSCILLUM_PORT: '0', OSCILLUM_SEED: 'none', OSCILLUM_WORKERS: '0' },
    },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const base = await new Promise<string>((resolve, reject) => {
    createInterface({ input: child.stdout! }).on('line', (line) => {
      const found = /http:\S+/.exec(line);
      if (found) resolve(found[0]);
    });
    child.once('exit', () => reject(new Error('The server ended before it was ready')));
  });
  return { child, base };
}

/** A map of two blocks and a bit on a cloth; a stroke says its number in the first vertex. */
const VERTICES = 1100;
const STEPS = 65535;
const withPoncho = (shot: Shot): Shot => ({
  ...shot,
  parts: {
    p1: makeClothPart({
      ...{ id: 'p1', name: 'Poncho', mesh: { node: 0, name: 'poncho' } },
      maps: { leash: makeWeightMap(new Float64Array(VERTICES).fill(1, 1)) },
    }),
  },
});
const leashOf = (shot: Shot): WeightMap => (shot.parts.p1 as ClothPart).maps.leash!;
function stroke(map: WeightMap, number: number): void {
  const shares = readWeightMap(map);
  shares[0] = number / STEPS;
  putShares(map, shares);
}

const gone = (child: ChildProcess) =>
  child.exitCode !== null || child.signalCode !== null
    ? Promise.resolve()
    : new Promise((resolve) => child.once('exit', resolve));

it('killed with -9 at 60 random moments while a map is painted, it loses no acknowledged stroke', async () => {
  const url = await freshDatabase();
  const random = mulberry32(60);
  let { child, base } = await launch(url);
  const post = async (path: string, body: BodyInit, type: string) => {
    const r = await fetch(base + path, { method: 'POST', body, headers: { 'Content-Type': type } });
    return {
      status: r.status,
      body: (await r.json()) as { id: string; hash: string; shot: Shot; revision: number },
    };
  };
  const { hash } = (
    await post('/api/characters?name=brindle.glb', await brindleGlb(), 'application/octet-stream')
  ).body;
  const made = (
    await post(
      '/api/shots',
      JSON.stringify(withPoncho(makeShot({ name: 'Killed', hash, fileName: 'brindle.glb', clip: null }))),
      'application/json',
    )
  ).body;
  const acknowledged: string[] = [];
  let { shot } = made;
  let revision = 0;
  let number = 0;
  // What the browser does: an edit without an answer is sent again, with the same id.
  let waiting: { edit: Edit; shot: Shot } | null = null;

  for (let kill = 0; kill < 60; kill++) {
    const moment = random() * 300;
    const { child: victim } = { child };
    const timer = new Promise<void>((resolve) =>
      setTimeout(() => (victim.kill('SIGKILL'), resolve()), moment),
    );
    try {
      for (;;) {
        waiting ??= editShot(shot, crypto.randomUUID(), 'Paint leash', (d) =>
          stroke(leashOf(d as Shot), ++number),
        );
        const answer = await post(
          `/api/shots/${made.id}/edits`,
          JSON.stringify({ baseRevision: revision, edits: [waiting.edit] }),
          'application/json',
        );
        expect(answer.status).toBe(200);
        acknowledged.push(waiting.edit.id);
        shot = waiting.shot;
        revision = answer.body.revision;
        waiting = null;
      }
    } catch (e) {
      // The connection went with the server; anything else is a failure of the test.
      if (!(e instanceof TypeError || e instanceof SyntaxError)) throw e;
    }
    await timer;
    await gone(child);
    ({ child, base } = await launch(url));
    const now = (await (await fetch(`${base}/api/shots/${made.id}`)).json()) as {
      revision: number;
      shot: Shot;
    };
    const edits = (await (await fetch(`${base}/api/shots/${made.id}/edits?after=0`)).json()) as {
      edit: Edit;
    }[];
    const kept = edits.map((e) => e.edit.id);
    expect(kept.slice(0, acknowledged.length)).toEqual(acknowledged);
    // At most the one in flight is there beyond them, and the document is what its edits make it.
    expect(kept.length).toBeLessThanOrEqual(acknowledged.length + 1);
    expect(now.revision).toBe(kept.length);
    const painted = readWeightMap(leashOf(now.shot));
    expect(Math.round(painted[0]! * STEPS)).toBe(kept.length);
    expect([...painted.subarray(1)].every((s) => s === 1)).toBe(true);
  }
  child.kill('SIGTERM');
  await gone(child);
  expect(acknowledged.length).toBeGreaterThan(50);
}, 600_000);
