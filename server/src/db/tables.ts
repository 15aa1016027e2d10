import { sql } from 'drizzle-orm';
import {
  bigint,
  customType,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  timestamp,
  unique,
} from 'drizzle-orm/pg-core';
import type { Edit, Shot } from '@oscillum/core/model';

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
    revision: integer().notNull().default(0),
    deletedAt: timestamp({ withTimezone: true }),
    createdAt: now(),
    updatedAt: now(),
  },
  (t) => [index().on(t.characterHash)],
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
