import { fileURLToPath } from 'node:url';
import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres';
import { migrate } from 'drizzle-orm/node-postgres/migrator';
import pg from 'pg';

export type Database = NodePgDatabase;
/** What queries take: a transaction, or the database for a single read. */
export type Tx = Pick<Database, 'select' | 'insert' | 'update' | 'delete' | 'execute'>;

export interface Connection {
  db: Database;
  close(): Promise<void>;
}

/** Connects and brings the tables up to date. */
export async function openDatabase(url: string): Promise<Connection> {
  const pool = new pg.Pool({ connectionString: url, max: 8, connectionTimeoutMillis: 5000 });
  // A connection that dies while idle (server restart) is replaced on the next query; without a listener it would end
  // the process.
  pool.on('error', () => undefined);
  // The same of one that dies in the middle of a transaction: its query fails, and that is told there.
  pool.on('connect', (client) => client.on('error', () => undefined));
  const db = drizzle(pool, { casing: 'snake_case' });
  await migrate(db, { migrationsFolder: fileURLToPath(new URL('./migrations', import.meta.url)) });
  return { db, close: () => pool.end() };
}
