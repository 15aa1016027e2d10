import { defineConfig } from '@playwright/test';

/**
 * Debian's Chromium, drawn in software; the application on a throwaway database (scripts/test.mjs gives DATABASE_URL).
 */
export default defineConfig({
  testDir: '.',
  outputDir: './results',
  // Generous: the page is drawn by the processor, on machines that others use too.
  timeout: 300_000,
  expect: { timeout: 60_000 },
  workers: 1,
  retries: 0,
  use: {
    baseURL: 'http://127.0.0.1:4377',
    actionTimeout: 60_000,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--headless',
        '--no-sandbox',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        '--use-angle=swiftshader',
        '--enable-unsafe-swiftshader',
        '--disable-gpu-compositing',
        '--disable-gpu-rasterization',
      ],
    },
  },
  webServer: {
    command: 'node --import tsx server/src/main.ts',
    cwd: '..',
    url: 'http://127.0.0.1:4377/api/health',
    env: { OSCILLUM_PORT: '4377', OSCILLUM_STATIC: 'web/dist', DATABASE_URL: process.env.DATABASE_URL ?? '' },
    timeout: 60_000,
  },
});
