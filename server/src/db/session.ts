import { drizzle } from 'drizzle-orm/node-postgres';
import pg from 'pg';
import type { Database } from './database';

/** One connection of one's own. Locks taken on it last until it ends, in whatever way it ends. */
export interface Session {
  readonly db: Database;
  /** Whether it has ended. */
  lost(): boolean;
  close(): Promise<void>;
}

/** A silent machine at the other end is known for gone after 10 + 3 × 5 s. */
const KEEP_ALIVE =
  'set tcp_keepalives_idle = 10; set tcp_keepalives_interval = 5; set tcp_keepalives_count = 3';

/** Opens a session that the database lists by this name. Throws the error of the connection. */
export async function openSession(url: string, name: string): Promise<Session> {
  const client = new pg.Client({
    ...{ connectionString: url, application_name: name, connectionTimeoutMillis: 5000, keepAlive: true },
  });
  let lost = false;
  client.on('error', () => (lost = true));
  client.on('end', () => (lost = true));
  await client.connect();
  await client.query(KEEP_ALIVE);
  return {
    db: drizzle(client, { casing: 'snake_case' }) as unknown as Database,
    lost: () => lost,
    close: () => client.end().catch(() => undefined),
  };
}
