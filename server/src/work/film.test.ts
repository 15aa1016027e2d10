import { expect, it } from 'vitest';
import { browserOptions } from './film';

it('the browser that draws films has its sandbox, unless root starts it', () => {
  expect(browserOptions(false).chromiumSandbox).toBe(true);
  expect(browserOptions(true).chromiumSandbox).toBe(false);
  for (const root of [false, true]) expect(browserOptions(root).args).not.toContain('--no-sandbox');
});
