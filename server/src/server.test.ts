import { createHash } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { brindleGlb } from '@oscillum/demo';
import { editShot, type Edit, type Shot } from '@oscillum/core/shot';
import { ApiError, ENDPOINTS } from '@oscillum/core/contract';
import { birdShot, expectError, listShots, storeBird, testServer, type TestServer } from './testing';

let server: TestServer;
let hash: string;
beforeAll(async () => {
  server = await testServer();
  hash = (await storeBird(server)).hash;
});
afterAll(() => server.close());

const newShot = () => birdShot(hash);
const list = (query = '') => listShots(server, query);
const rename = (shot: Shot, to: string): { shot: Shot; edit: Edit } =>
  editShot(shot, crypto.randomUUID(), 'Rename shot', (d) => void (d.name = to));

describe('characters', () => {
  it('come back byte for byte and are stored once', async () => {
    const bytes = await brindleGlb();
    expect(hash).toBe(createHash('sha256').update(bytes).digest('hex'));
    const again = await storeBird(server);
    expect(again.hash).toBe(hash);
    const list = (await server.call('GET', '/api/characters')).body as { hash: string; joints: number }[];
    expect(list.filter((c) => c.hash === hash)).toHaveLength(1);
    const file = new Uint8Array(
      await (await fetch(`${server.base}/api/characters/${hash}/file`)).arrayBuffer(),
    );
    expect(Buffer.from(file).equals(Buffer.from(bytes))).toBe(true);
  });
  it('larger than a row are cut into rows and put together again', async () => {
    const bird = await brindleGlb();
    // The GLB may be followed by anything: 5 MiB of it.
    const bytes = new Uint8Array(bird.length + 5 * 2 ** 20);
    bytes.set(bird);
    for (let i = bird.length; i < bytes.length; i++) bytes[i] = i * 31;
    const { body } = await server.call('POST', '/api/characters?name=big.glb', { bytes });
    const file = new Uint8Array(
      await (await fetch(`${server.base}/api/characters/${body.hash}/file`)).arrayBuffer(),
    );
    expect(Buffer.from(file).equals(Buffer.from(bytes))).toBe(true);
    expect((await server.call('DELETE', `/api/characters/${body.hash}`)).status).toBe(200);
    expectError(await server.call('GET', `/api/characters/${body.hash}`), 404, 'not-found');
  });
  it('that cannot be read are refused and leave nothing behind', async () => {
    const count = async () =>
      (await server.connection.db.execute('select count(*)::int as n from character_chunks')).rows[0]!.n;
    const before = await count();
    const bird = await brindleGlb();
    expectError(
      await server.call('POST', '/api/characters?name=cut.glb', { bytes: bird.slice(0, 300_000) }),
      422,
      'file.truncated',
    );
    expectError(
      await server.call('POST', '/api/characters?name=x.glb', { bytes: new TextEncoder().encode('hello') }),
      422,
      'file.not-gltf',
    );
    expect(await count()).toBe(before);
  });
  it('must be declared as a file', async () => {
    expectError(
      await server.call('POST', '/api/characters?name=a.glb', {
        bytes: new Uint8Array(4),
        headers: { 'Content-Type': 'text/html' },
      }),
      415,
      'body.type',
    );
  });
  it('cannot be removed while a shot uses them', async () => {
    await server.call('POST', '/api/shots', { json: newShot() });
    expectError(await server.call('DELETE', `/api/characters/${hash}`), 409, 'character.in-use');
  });
});

describe('shots', () => {
  it('are made, edited, duplicated, deleted and restored', async () => {
    const made = (await server.call('POST', '/api/shots', { json: newShot() })).body;
    const { shot, edit } = rename(made.shot, 'Renamed');
    expect(
      (await server.call('POST', `/api/shots/${made.id}/edits`, { json: { baseRevision: 0, edits: [edit] } }))
        .body,
    ).toEqual({ revision: 1 });
    expect((await server.call('GET', `/api/shots/${made.id}`)).body).toEqual({
      id: made.id,
      revision: 1,
      shot,
    });
    const copy = (await server.call('POST', `/api/shots/${made.id}/duplicate`, { json: {} })).body;
    expect(copy.shot.name).toBe('Renamed copy');
    await server.call('DELETE', `/api/shots/${made.id}`);
    expectError(await server.call('GET', `/api/shots/${made.id}`), 404, 'not-found');
    const ids = (await list()).shots.map((s) => s.id);
    expect(ids).toContain(copy.id);
    expect(ids).not.toContain(made.id);
    expect((await server.call('POST', `/api/shots/${made.id}/restore`, { json: {} })).body.shot.name).toBe(
      'Renamed',
    );
  });
  it('edits on a stale revision get 409 and can be fetched and rebased', async () => {
    const made = (await server.call('POST', '/api/shots', { json: newShot() })).body;
    const mine = rename(made.shot, 'Mine').edit;
    const theirs = rename(made.shot, 'Theirs').edit;
    const post = (baseRevision: number, edits: Edit[]) =>
      server.call('POST', `/api/shots/${made.id}/edits`, { json: { baseRevision, edits } });
    await post(0, [theirs]);
    expectError(await post(0, [mine]), 409, 'edit.stale');
    expect((await server.call('GET', `/api/shots/${made.id}/edits?after=0`)).body).toEqual([
      { revision: 1, edit: theirs },
    ]);
    expect((await post(1, [mine])).body).toEqual({ revision: 2 });
  });
  it('an edit sent twice after a lost answer is applied once', async () => {
    const made = (await server.call('POST', '/api/shots', { json: newShot() })).body;
    const a = rename(made.shot, 'A');
    const b = rename(a.shot, 'B');
    const post = (baseRevision: number, edits: Edit[]) =>
      server.call('POST', `/api/shots/${made.id}/edits`, { json: { baseRevision, edits } });
    expect((await post(0, [a.edit])).body.revision).toBe(1);
    expect((await post(0, [a.edit])).body.revision).toBe(1);
    expect((await post(0, [a.edit, b.edit])).body.revision).toBe(2);
    expect((await server.call('GET', `/api/shots/${made.id}/edits?after=0`)).body).toHaveLength(2);
  });
  it('edits from many hands at once are all there, in one order', async () => {
    const made = (await server.call('POST', '/api/shots', { json: newShot() })).body;
    await Promise.all(
      Array.from({ length: 12 }, async (_, i) => {
        const { edit } = rename(made.shot, `Hand ${i}`);
        for (;;) {
          const { revision } = (await server.call('GET', `/api/shots/${made.id}`)).body;
          const answer = await server.call('POST', `/api/shots/${made.id}/edits`, {
            json: { baseRevision: revision, edits: [edit] },
          });
          if (answer.status === 200) return;
          expect(answer.status).toBe(409);
        }
      }),
    );
    const list = (await server.call('GET', `/api/shots/${made.id}/edits?after=0`)).body as {
      revision: number;
    }[];
    expect(list.map((e) => e.revision)).toEqual(Array.from({ length: 12 }, (_, i) => i + 1));
  });
  it('a document or an edit that is not valid is refused with the place', async () => {
    const answer = await server.call('POST', '/api/shots', { json: { ...newShot(), fps: -1 } });
    expectError(answer, 422, 'shot.invalid');
    expect(answer.body.error.message).toContain('/fps');
    const made = (await server.call('POST', '/api/shots', { json: newShot() })).body;
    const bad = {
      id: crypto.randomUUID(),
      name: 'x',
      patches: [{ op: 'replace', path: ['fps'], value: 'fast' }],
      inverse: [],
    };
    expectError(
      await server.call('POST', `/api/shots/${made.id}/edits`, { json: { baseRevision: 0, edits: [bad] } }),
      422,
      'shot.invalid',
    );
    expectError(
      await server.call('POST', `/api/shots/${made.id}/edits`, {
        json: {
          baseRevision: 0,
          edits: [{ ...bad, patches: [{ op: 'replace', path: ['parts', 'gone', 'muted'], value: true }] }],
        },
      }),
      409,
      'edit.invalid',
    );
    expectError(
      await server.call('POST', `/api/shots/${made.id}/edits`, {
        json: {
          baseRevision: 0,
          edits: [{ ...bad, patches: [{ op: 'add', path: ['__proto__', 'x'], value: 1 }] }],
        },
      }),
      422,
      'body.invalid',
    );
    expect((await server.call('GET', `/api/shots/${made.id}`)).body.revision).toBe(0);
    expectError(
      await server.call('POST', '/api/shots', {
        json: { ...newShot(), character: { ...newShot().character, hash: 'f'.repeat(64) } },
      }),
      404,
      'not-found',
    );
  });
});

it('when the database goes away the answer says so and what to do', async () => {
  const lost = await testServer();
  await lost.connection.db
    .execute(
      'select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()',
    )
    .catch(() => undefined);
  await lost.connection.close();
  const answer = await lost.call('GET', '/api/health');
  expect(answer.status).toBeGreaterThanOrEqual(500);
  expect(ApiError.parse(answer.body).error.remedy).not.toBe('');
});

it('every endpoint of the contract answers something other than "nothing here"', async () => {
  for (const { method, path } of Object.values(ENDPOINTS)) {
    const filled = path.replace(/\?.*$/, '').replace(':hash', hash).replace(':id', 'abcdefghijkl');
    if (method === 'DELETE' && filled.includes(hash)) continue;
    // Events have no end; they are listened to in jobs.test.ts.
    if (path === ENDPOINTS.watchJobs.path) continue;
    const { body } = await server.call(method, filled, method === 'POST' ? { json: {} } : {});
    expect(body?.error?.message ?? '').not.toContain('There is nothing at');
  }
});
