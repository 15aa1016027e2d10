import { afterAll, beforeAll, expect, it } from 'vitest';
import { makeClothPart, type ClothPart } from '@oscillum/core/cloth';
import { makeWeightMap, putShares, readWeightMap } from '@oscillum/core/model';
import { editShot, parseShot, type Edit, type Shot } from '@oscillum/core/shot';
import { birdShot, storeBird, testServer, type TestServer } from './testing';

let server: TestServer;
let hash: string;
beforeAll(async () => {
  server = await testServer();
  hash = (await storeBird(server)).hash;
});
afterAll(() => server.close());

const SHARES = Float64Array.from({ length: 1300 }, (_, v) => ((v * 37) % 1024) / 1023);
const rows = async (query: string) => (await server.connection.db.execute(query)).rows;

it('keeps painted maps as bytes, each block once, and gives documents and edits back as they were', async () => {
  const poncho = makeClothPart({
    ...{ id: 'p1', name: 'Poncho', mesh: { node: 0, name: 'poncho' } },
    maps: { leash: makeWeightMap(SHARES), hold: makeWeightMap(new Float64Array(1300).fill(0.5)) },
  });
  const plain = birdShot(hash);
  const posted = await server.call('POST', '/api/shots', { json: plain });
  const { id, shot } = posted.body as { id: string; shot: Shot };
  const edits: Edit[] = [];
  const edit = (from: Shot, name: string, recipe: (d: Shot) => void): Shot => {
    const made = editShot(from, crypto.randomUUID(), name, (d) => recipe(d as Shot));
    edits.push(made.edit);
    return made.shot;
  };
  let now = edit(parseShot(shot), 'Make cloth', (d) => void (d.parts.p1 = poncho));
  now = edit(now, 'Stroke', (d) => {
    const shares = readWeightMap((d.parts.p1 as ClothPart).maps.leash!);
    shares.fill(0, 0, 20);
    putShares((d.parts.p1 as ClothPart).maps.leash!, shares);
  });
  await server.call('POST', `/api/shots/${id}/edits`, { json: { baseRevision: 0, edits } });

  const state = (await server.call('GET', `/api/shots/${id}`)).body as { shot: Shot };
  expect(parseShot(state.shot)).toEqual(now);
  const told = (await server.call('GET', `/api/shots/${id}/edits?after=0`)).body as unknown as {
    edit: Edit;
  }[];
  expect(told.map((t) => t.edit)).toEqual(edits);

  // No base64 stands in the tables; three blocks of the leash, and the first one as it was painted over.
  const stored = JSON.stringify([
    await rows(`select document from shots where id = '${id}'`),
    await rows(`select edit from edits where shot_id = '${id}'`),
  ]);
  expect(stored).not.toMatch(/[A-Za-z0-9+/]{200}/);
  const sizes = (await rows('select length(data) as n from map_blocks order by n')).map((r) => Number(r.n));
  expect(sizes).toEqual([2 * (1300 - 1024), 1024, 1024, 1024]);

  // A shot that uses the same map keeps nothing new.
  await server.call('POST', '/api/shots', { json: now });
  expect(await rows('select hash from map_blocks')).toHaveLength(4);

  // A block that is gone is said, not made up.
  await rows('delete from map_blocks where length(data) < 1024');
  const lost = await server.call('GET', `/api/shots/${id}`);
  expect(lost.status).toBe(500);
  expect(JSON.stringify(lost.body)).toContain('painted map');
});
