import { expect } from 'vitest';
import { ApiError, ShotPage } from '@oscillum/core/contract';
import { makeShot, type Shot } from '@oscillum/core/shot';
import { brindleGlb } from '@oscillum/demo';
import { pino } from 'pino';
import { serveApp, type Running } from './app';
import { readConfig } from './config';
import { openDatabase, type Connection } from './db/database';

/** A server on a database of its own, for tests. DATABASE_URL names the throwaway cluster that npm test made. */
export interface TestServer {
  base: string;
  connection: Connection;
  databaseUrl: string;
  call(
    method: string,
    path: string,
    options?: { json?: unknown; bytes?: Uint8Array; headers?: Record<string, string> },
  ): Promise<{ status: number; body: any }>; // eslint-disable-line @typescript-eslint/no-explicit-any
  close(): Promise<void>;
}

export async function freshDatabase(url = process.env.DATABASE_URL): Promise<string> {
  if (!url) throw new Error('DATABASE_URL is not set: run the tests with npm test');
  const name = `t${crypto.randomUUID().replace(/-/g, '')}`;
  const { default: pg } = await import('pg');
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  await client.query(`create database ${name}`);
  await client.end();
  return Object.assign(new URL(url), { pathname: `/${name}` }).toString();
}

export async function testServer(env: Record<string, string> = {}): Promise<TestServer> {
  const url = await freshDatabase(env.DATABASE_URL);
  const connection = await openDatabase(url);
  const running: Running = await serveApp(
    readConfig({ OSCILLUM_PORT: '0', ...env, DATABASE_URL: url }),
    connection.db,
    pino({ level: 'silent' }),
    'test',
  );
  const base = `http://127.0.0.1:${running.address.port}`;
  return {
    base,
    connection,
    databaseUrl: url,
    call: async (method, path, { json, bytes, headers = {} } = {}) => {
      const response = await fetch(base + path, {
        method,
        headers: {
          ...(json === undefined ? {} : { 'Content-Type': 'application/json' }),
          ...(bytes ? { 'Content-Type': 'application/octet-stream' } : {}),
          ...headers,
        },
        body: json !== undefined ? JSON.stringify(json) : (bytes as Uint8Array<ArrayBuffer> | undefined),
      });
      const text = await response.text();
      return {
        status: response.status,
        body: text.startsWith('{') || text.startsWith('[') ? JSON.parse(text) : text,
      };
    },
    close: async () => {
      await running.close();
      await connection.close();
    },
  };
}

/** The demo bird, stored. */
export async function storeBird(
  server: TestServer,
): Promise<{ hash: string; clips: { name: string; duration: number }[] }> {
  return (await server.call('POST', '/api/characters?name=brindle.glb', { bytes: await brindleGlb() })).body;
}

/** A shot of that bird. */
export const birdShot = (hash: string): Shot =>
  makeShot({ name: 'Test', hash, fileName: 'brindle.glb', clip: { index: 0, name: 'Stride', duration: 2 } });

export const listShots = async (server: TestServer, query = ''): Promise<ShotPage> =>
  ShotPage.parse((await server.call('GET', `/api/shots${query}`)).body);

/** Every failure has the one shape: a code, a sentence, a remedy. */
export function expectError(answer: { status: number; body: unknown }, status: number, code: string): void {
  expect(answer.status).toBe(status);
  const { error } = ApiError.parse(answer.body);
  expect(error.code).toBe(code);
  expect(error.message).toMatch(/\.$/);
  expect(error.remedy.length).toBeGreaterThan(5);
}
