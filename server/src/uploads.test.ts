import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { request, type ClientRequest, type IncomingMessage } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { brindleGlb } from '@oscillum/demo';
import { sql } from 'drizzle-orm';
import { expectError, testServer, type TestServer } from './testing';

let server: TestServer;
beforeAll(async () => {
  // A folder of our own, which other tests do not fill.
  process.env.TMPDIR = mkdtempSync(join(tmpdir(), 'oscillum-uploads-test-'));
  server = await testServer();
});
afterAll(async () => {
  await server.close();
  rmSync(tmpdir(), { recursive: true, force: true });
});

/** An upload whose bytes are sent by hand. */
function upload(name: string): { sender: ClientRequest; answer: Promise<number> } {
  const sender = request(`${server.base}/api/characters?name=${name}`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/octet-stream' },
  });
  const answer = new Promise<number>((resolve, reject) => {
    sender.once('response', (r: IncomingMessage) => {
      r.resume();
      r.once('end', () => resolve(r.statusCode!));
    });
    sender.once('error', reject);
  });
  return { sender, answer };
}

/** Files of uploads under way, in the system's folder for such. */
const spooled = () => readdirSync(tmpdir()).filter((n) => n.startsWith('oscillum-upload-'));

describe('uploads', () => {
  it('twenty slow ones hold up nobody, and each arrives', async () => {
    const bird = await brindleGlb();
    const before = spooled().length;
    const slow = Array.from({ length: 20 }, (_, i) => upload(`slow${i}.glb`));
    for (const { sender } of slow) sender.write(bird.subarray(0, 1000));
    await vi.waitFor(() => expect(spooled().length).toBe(before + 20), { timeout: 20_000 });
    expect((await server.call('GET', '/api/shots')).status).toBe(200);
    for (const { sender } of slow) sender.end(bird.subarray(1000));
    expect(await Promise.all(slow.map((s) => s.answer))).toEqual(Array(20).fill(200));
    const { body } = await server.call('GET', '/api/characters');
    expect(body).toHaveLength(1);
    const back = await fetch(`${server.base}/api/characters/${body[0].hash}/file`);
    expect(Buffer.compare(Buffer.from(await back.arrayBuffer()), Buffer.from(bird))).toBe(0);
  });

  it('one refused and one broken off leave nothing', async () => {
    const before = spooled();
    const refused = await server.call('POST', '/api/characters?name=text.glb', {
      bytes: new TextEncoder().encode('no scene at all'),
    });
    expectError(refused, 422, 'file.not-gltf');
    const { sender, answer } = upload('cut.glb');
    answer.catch(() => undefined);
    sender.write(new Uint8Array(5000));
    await vi.waitFor(() => expect(spooled().length).toBe(before.length + 1));
    sender.destroy();
    await vi.waitFor(() => expect(spooled()).toEqual(before));
    const rows = await server.connection.db.execute(
      sql`select upload from character_chunks where upload not in (select hash from characters)`,
    );
    expect(rows.rows).toEqual([]);
  });
});
