import { integer, pgSchema, text, uuid } from 'drizzle-orm/pg-core';

/** The one queue of jobs. */
export const WORK = 'oscillum-work';

/** The queue engine's own table, as far as our queries read it. */
export const engine = pgSchema('pgboss').table('job', {
  id: uuid().notNull(),
  name: text().notNull(),
  state: text().notNull(),
  retryCount: integer().notNull(),
});

/** A job by two names: `id` is ours, `queued` the engine's. */
export interface Asked {
  readonly id: string;
  readonly queued: string;
}

/** A job that a worker has: this try of it and no other. */
export interface Claim extends Asked {
  readonly attempt: number;
}
