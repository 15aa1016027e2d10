import { createHash } from 'node:crypto';
import { inArray } from 'drizzle-orm';
import type { Tx } from '../db/database';
import { mapBlocks } from '../db/tables';
import { AppError } from '../errors';

/** What stands in a document or an edit for a block that is kept as bytes: its SHA-256. */
const MARK = '#';

type Path = readonly (string | number)[];

/** Whether a text at a path of a document is a block of a weight map: maps / setting / blocks / number. */
const isBlock = (path: Path, text: string): boolean =>
  path.at(-2) === 'blocks' && path.at(-4) === 'maps' && !text.startsWith('=');

/** Plain data with every block of a weight map changed; what has none is returned as it is. */
function withBlocks<T>(data: T, change: (block: string) => string, path: Path = []): T {
  if (typeof data === 'string') return (isBlock(path, data) ? change(data) : data) as T;
  if (typeof data !== 'object' || data === null) return data;
  const inside = (key: string | number, value: unknown) => withBlocks(value, change, [...path, key]);
  if (Array.isArray(data)) {
    const next = data.map((value, k) => inside(k, value));
    return (next.some((value, k) => value !== data[k]) ? next : data) as T;
  }
  const entries = Object.entries(data);
  // What a patch says stands where its path leads.
  const at = 'op' in data && 'path' in data && Array.isArray(data.path) ? (data.path as Path) : null;
  const next = entries.map(([key, value]) =>
    at && key === 'value' ? withBlocks(value as unknown, change, at) : inside(key, value),
  );
  return next.some((value, k) => value !== entries[k]![1])
    ? (Object.fromEntries(entries.map(([key], k) => [key, next[k]])) as T)
    : data;
}

/** Keeps the blocks of weight maps as bytes, each once, and returns the data with what names them. */
export async function keepBlocks<T>(tx: Tx, data: T): Promise<T> {
  const found = new Map<string, Buffer>();
  const kept = withBlocks(data, (block) => {
    const bytes = Buffer.from(block, 'base64');
    const hash = createHash('sha256').update(bytes).digest('hex');
    found.set(hash, bytes);
    return MARK + hash;
  });
  if (found.size > 0)
    await tx
      .insert(mapBlocks)
      // In one order, so that two who keep the same ones do not wait for each other.
      .values([...found].sort(([a], [b]) => (a < b ? -1 : 1)).map(([hash, bytes]) => ({ hash, data: bytes })))
      .onConflictDoNothing();
  return kept;
}

/** The same data with its blocks in it again. Throws AppError when one is not there. */
export async function readBlocks<T>(tx: Tx, data: T): Promise<T> {
  const wanted = new Set<string>();
  withBlocks(data, (block) => {
    if (block.startsWith(MARK)) wanted.add(block.slice(MARK.length));
    return block;
  });
  if (wanted.size === 0) return data;
  const rows = await tx
    .select()
    .from(mapBlocks)
    .where(inArray(mapBlocks.hash, [...wanted]));
  const known = new Map(rows.map((row) => [row.hash, row.data.toString('base64')]));
  return withBlocks(data, (block) => {
    if (!block.startsWith(MARK)) return block;
    const text = known.get(block.slice(MARK.length));
    if (text !== undefined) return text;
    throw new AppError(
      500,
      'map.lost',
      'A painted map of this shot is not in the database any more.',
      'Bring the database back from its last copy.',
    );
  });
}
