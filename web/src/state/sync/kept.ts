import { delMany, entries, set } from 'idb-keyval';
import { Edit, parseShot, type Shot } from '@oscillum/core/shot';
import { z } from 'zod';
import { randomId } from '../../api/ids';

/** What a window keeps of a shot in this browser until the server has acknowledged it. */
export interface Kept {
  readonly shot: Shot;
  /** Of the last edit the server acknowledged to this window. */
  readonly revision: number;
  readonly pending: Edit[];
  readonly aside: { edit: Edit; why: string }[];
  /** When it was kept, ms. */
  readonly at: number;
}

/** The same as it was found, under its key. */
export interface Found extends Kept {
  readonly key: string;
}

const Stored = z.object({
  shot: z.unknown(),
  revision: z.int(),
  pending: z.array(Edit),
  aside: z.array(z.object({ edit: Edit, why: z.string() })).default([]),
  at: z.number().default(0),
});

/** Each window keeps under a key of its own: two that are closed with unsent edits must not write over each other. */
const WINDOW = randomId(12);
const prefix = (id: string) => `shot:${id}`;
const ownKey = (id: string) => `${prefix(id)}:${WINDOW}`;

/** All that windows of this browser have kept of a shot, the latest last; what cannot be read is left out. */
export async function readKept(id: string): Promise<Found[]> {
  const all = await entries<string, unknown>().catch(() => []);
  return all
    .filter(([key]) => key === prefix(id) || String(key).startsWith(`${prefix(id)}:`))
    .flatMap(([key, value]): Found[] => {
      const stored = Stored.safeParse(value);
      if (!stored.success) return [];
      try {
        return [{ ...stored.data, key, shot: parseShot(stored.data.shot) }];
      } catch {
        return [];
      }
    })
    .sort((a, b) => a.at - b.at);
}

/** Keeps what this window has to send. */
export const keep = (id: string, kept: Omit<Kept, 'at'>, now: number): Promise<void> =>
  set(ownKey(id), { ...kept, at: now });

/** Forgets what this window kept, and what it has taken over from windows that are gone. */
export const forget = (id: string, others: readonly string[] = []): Promise<void> =>
  delMany([ownKey(id), ...others]);

/** Forgets what was taken over from other windows. */
export const forgetOthers = (keys: readonly string[]): Promise<void> => delMany([...keys]);
