import { sql } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { brindleGlb } from '@oscillum/demo';
import { editShot, type Shot } from '@oscillum/core/shot';
import { birdShot, expectError, listShots, storeBird, testServer, type TestServer } from './testing';
import { sweepVersions } from './usecases/characters';

let server: TestServer;
let hash: string;
beforeAll(async () => {
  server = await testServer();
  hash = (await storeBird(server)).hash;
});
afterAll(() => server.close());

const newShot = () => birdShot(hash);
const list = (query = '') => listShots(server, query);

describe('lists of shots', () => {
  const names = async (query: string) => (await list(query)).shots.map((s) => s.name);
  beforeAll(async () => {
    for (const name of ['Heron, wing test', 'heron, landing', 'Ibis 100 % _wing', 'Adder'])
      await server.call('POST', '/api/shots', { json: { ...newShot(), name } });
  });

  it('hold what all words of a search are in, whatever their case, signs and order', async () => {
    expect((await names('?search=HERON&sort=name')).sort()).toEqual(['Heron, wing test', 'heron, landing']);
    expect(await names('?search=wing%20heron')).toEqual(['Heron, wing test']);
    expect(await names('?search=%25%20_wing')).toEqual(['Ibis 100 % _wing']);
    expect(await names('?search=nothing-like-it')).toEqual([]);
    // The clip and the character are searched too.
    expect((await list('?search=adder%20stride%20brindle.glb')).total).toBe(1);
  });

  it('come in the order that is asked, page by page, each once, with how many there are', async () => {
    const all = await names('?sort=name&count=200');
    expect(all).toEqual([...all].sort((a, b) => (a.toLowerCase() < b.toLowerCase() ? -1 : 1)));
    const pages: string[] = [];
    for (let from = 0; from < all.length; from += 3)
      pages.push(...(await names(`?sort=name&count=3&from=${from}`)));
    expect(pages).toEqual(all);
    const page = await list('?count=2');
    expect([page.shots.length, page.total]).toEqual([2, all.length]);
    expect((await list('?from=1000')).shots).toEqual([]);
  });

  it('say what an edit has changed, and put the shot first', async () => {
    const { shots } = await list('?search=adder');
    const { shot } = (await server.call('GET', `/api/shots/${shots[0]!.id}`)).body as { shot: Shot };
    const { edit } = editShot(shot, 'longer-0001', 'Set range', (d) => {
      d.name = 'Adder, longer';
      d.range = { first: 10, last: 19 };
    });
    await server.call('POST', `/api/shots/${shots[0]!.id}/edits`, {
      json: { baseRevision: 0, edits: [edit] },
    });
    expect((await list()).shots[0]).toMatchObject({ name: 'Adder, longer', frames: 10, revision: 1 });
  });

  it('that are asked for wrongly are refused with the place', async () => {
    expectError(await server.call('GET', '/api/shots?count=0'), 400, 'request.invalid');
    expectError(await server.call('GET', '/api/shots?sort=size'), 400, 'request.invalid');
    expectError(await server.call('GET', '/api/shots?from=-1'), 400, 'request.invalid');
  });

  it('of characters say how many shots are made with each', async () => {
    const { total } = await list();
    const [bird] = (await server.call('GET', '/api/characters')).body as { shots: number }[];
    expect(bird!.shots).toBe(total);
  });
});

it('a version of a character with baked clips is stored and not listed; unused ones go after 30 days', async () => {
  const copy = Buffer.concat([await brindleGlb()]);
  // Another name of the generator in its JSON: other bytes of the same length.
  copy[copy.indexOf('"generator":"') + 13]! ^= 1;
  const upload = (query: string) => server.call('POST', `/api/characters?${query}`, { bytes: copy });
  expectError(await upload('name=brindle.glb&of=nothing'), 404, 'not-found');
  const version = (await upload(`name=brindle.glb&of=${hash}`)).body.hash as string;
  expect(version).not.toBe(hash);
  const listed = (await server.call('GET', '/api/characters')).body as { hash: string }[];
  expect(listed.map((c) => c.hash)).toEqual([hash]);
  const { body } = await server.call('POST', '/api/shots', { json: birdShot(version) });
  const age = () =>
    server.connection.db.execute(sql`update characters set created_at = now() - interval '31 days'`);
  await age();
  await sweepVersions(server.connection.db);
  expect((await server.call('GET', `/api/characters/${version}`)).status).toBe(200);
  await server.connection.db.execute(sql`delete from shots where id = ${body.id}`);
  await sweepVersions(server.connection.db);
  expect((await server.call('GET', `/api/characters/${version}`)).status).toBe(404);
  expect((await server.call('GET', `/api/characters/${hash}`)).status).toBe(200);
});
