import { sql } from 'drizzle-orm';
import {
  bigint,
  customType,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  real,
  text,
  timestamp,
  unique,
  uniqueIndex,
  uuid,
} from 'drizzle-orm/pg-core';
import type { JobRequest, JobResult } from '@oscillum/core/contract';
import type { Edit, Shot } from '@oscillum/core/shot';

const bytea = customType<{ data: Buffer }>({ dataType: () => 'bytea' });
const now = () =>
  timestamp({ withTimezone: true })
    .notNull()
    .default(sql`now()`);

/** A character file, named by the SHA-256 of its bytes. */
export const characters = pgTable('characters', {
  hash: text().primaryKey(),
  fileName: text().notNull(),
  bytes: bigint({ mode: 'number' }).notNull(),
  joints: integer().notNull(),
  clips: jsonb().$type<{ name: string; duration: number }[]>().notNull(),
  /** What a unit of the file is, m, and how that is known. */
  unit: jsonb()
    .$type<{ metres: number; why: string }>()
    .notNull()
    .default({ metres: 1, why: 'metres, as its format says' }),
  /** The character that it is with clips baked into it; null for one that was brought. */
  versionOf: text(),
  createdAt: now(),
});

/** Its bytes in rows of at most 1 MiB. */
export const characterChunks = pgTable(
  'character_chunks',
  {
    upload: text().notNull(),
    position: integer().notNull(),
    data: bytea().notNull(),
  },
  (t) => [primaryKey({ columns: [t.upload, t.position] })],
);

/** A shot as it stands, with the number of edits that made it so. */
export const shots = pgTable(
  'shots',
  {
    id: text().primaryKey(),
    characterHash: text()
      .notNull()
      .references(() => characters.hash),
    document: jsonb().$type<Shot>().notNull(),
    /** What lists say of it, so that they need not read its document. */
    name: text().notNull(),
    characterName: text().notNull(),
    clip: text().notNull(),
    parts: integer().notNull(),
    frames: integer().notNull(),
    revision: integer().notNull().default(0),
    deletedAt: timestamp({ withTimezone: true }),
    createdAt: now(),
    updatedAt: now(),
  },
  (t) => [
    index().on(t.characterHash),
    index('shots_listed')
      .on(t.updatedAt.desc(), t.id)
      .where(sql`deleted_at is null`),
  ],
);

/** Every edit ever acknowledged, in order; never changed. */
export const edits = pgTable(
  'edits',
  {
    shotId: text()
      .notNull()
      .references(() => shots.id),
    revision: integer().notNull(),
    editId: text().notNull(),
    edit: jsonb().$type<Edit>().notNull(),
    createdAt: now(),
  },
  (t) => [primaryKey({ columns: [t.shotId, t.revision] }), unique().on(t.shotId, t.editId)],
);

/**
 * Blocks of painted maps as bytes, named by their SHA-256: documents and edits hold the name, so that a block that
 * stands in many of them is kept once.
 */
export const mapBlocks = pgTable('map_blocks', { hash: text().primaryKey(), data: bytea().notNull() });

/**
 * What is to be done apart from the page, how far it is and what came of it. Who does it, and when it is tried again,
 * is the queue engine's to know (queue/queue.ts).
 */
export const jobs = pgTable(
  'jobs',
  {
    id: text().primaryKey(),
    /** SHA-256 of all that its result depends on. */
    key: text().notNull(),
    title: text().notNull(),
    request: jsonb().$type<JobRequest>().notNull(),
    /** The engine's name for it; null when it never came so far. */
    queued: uuid(),
    progress: real().notNull().default(0),
    /** Null as long as it is not over. */
    ended: text().$type<'done' | 'failed' | 'cancelled'>(),
    error: text(),
    result: jsonb().$type<JobResult>(),
    createdAt: now(),
    updatedAt: now(),
  },
  (t) => [
    index('jobs_going')
      .on(t.createdAt)
      .where(sql`ended is null`),
    uniqueIndex()
      .on(t.key)
      .where(sql`ended is null or ended = 'done'`),
  ],
);

/** Bytes that jobs have made, named by their SHA-256, in rows of at most 1 MiB. */
export const results = pgTable(
  'results',
  { hash: text().notNull(), position: integer().notNull(), data: bytea().notNull() },
  (t) => [primaryKey({ columns: [t.hash, t.position] })],
);

/** Baked clips, named by the SHA-256 of all that they depend on; `hash` names their bytes in results. */
export const pieces = pgTable('pieces', {
  key: text().primaryKey(),
  hash: text().notNull(),
  createdAt: now(),
});
