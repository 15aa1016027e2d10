import { expect, it } from 'vitest';
import type { Job } from '@oscillum/core/contract';
import { mergeList, mergeOne } from './jobs';

const job = (id: string, state: Job['state'], second: number): Job => ({
  ...{ id, state, title: id, progress: 0, error: null, result: null },
  ...{ createdAt: '2026-01-01T00:00:00.000Z', updatedAt: `2026-01-01T00:00:0${second}.000Z` },
});

it('of a job the newest that is known stays, whichever answer comes last', () => {
  const told = mergeOne([], job('a', 'done', 5));
  // The list was asked for before the job was done, and comes after.
  expect(mergeList(told, [job('b', 'waiting', 4), job('a', 'running', 4)])).toEqual([
    job('b', 'waiting', 4),
    job('a', 'done', 5),
  ]);
  expect(mergeOne(told, job('a', 'running', 4))).toEqual(told);
  expect(mergeOne(told, job('a', 'waiting', 6))).toEqual([job('a', 'waiting', 6)]);
  // What the list does not have any more is gone.
  expect(mergeList(told, [])).toEqual([]);
});
