import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: [
      'core/**/*.test.ts',
      'demo/**/*.test.ts',
      'player/**/*.test.ts',
      'server/**/*.test.ts',
      'cli/**/*.test.ts',
      'web/src/**/*.test.ts',
    ],
    // As many as there are processors on the smallest machine; one would leave the other idle.
    maxWorkers: 2,
    testTimeout: 120_000,
    hookTimeout: 120_000,
  },
});
