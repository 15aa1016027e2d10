import { expect, it } from 'vitest';
import { truthTable } from './main';

it('the truth table in its quick form: every row passes', async () => {
  const rows = await truthTable(true);
  expect(rows.filter((r) => r.status === 'fail')).toEqual([]);
  expect([...new Set(rows.filter((r) => r.status === 'pass').map((r) => r.row))]).toEqual([
    1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29,
    30, 31,
  ]);
}, 600_000);
