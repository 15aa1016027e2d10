import { describe, expect, it } from 'vitest';
import { isDatabaseLost } from './errors';

describe('a lost database', () => {
  it('is known by what the query failed of', () => {
    const query = new Error('Failed query: select timeout from jobs', {
      cause: Object.assign(new Error('terminating connection'), { code: '57P01' }),
    });
    expect(isDatabaseLost(query)).toBe(true);
    expect(isDatabaseLost(Object.assign(new Error('connect'), { code: 'ECONNREFUSED' }))).toBe(true);
    expect(isDatabaseLost(new Error('Connection terminated unexpectedly'))).toBe(true);
  });

  it('is not what a job says of a timeout, a child that cannot be spawned, or a wrong query', () => {
    expect(isDatabaseLost(new Error('page.goto: Timeout 30000ms exceeded'))).toBe(false);
    expect(isDatabaseLost(Object.assign(new Error('spawn chromium'), { code: 'EAGAIN' }))).toBe(false);
    expect(
      isDatabaseLost(
        new Error('Failed query', { cause: Object.assign(new Error('terminates'), { code: '42601' }) }),
      ),
    ).toBe(false);
    expect(isDatabaseLost('timeout')).toBe(false);
  });
});
