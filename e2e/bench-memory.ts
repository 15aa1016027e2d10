import { readFileSync } from 'node:fs';
import { chromium } from '@playwright/test';
import { benchFile } from '@oscillum/demo';

/**
 * Tunes ten chains without a pause for some minutes (20, or as many as are asked) and prints how much memory the page
 * and its workers hold after collection, at the start and every few minutes.
 */
const base = process.argv[2]!;
const at = process.argv.indexOf('--minutes');
const minutes = at > 0 ? Number(process.argv[at + 1]) : 20;
const json = process.argv.includes('--json');
/** Free memory is kept for half a minute and more: after 5 s that is half of what the process has. */
const SETTLE_MS = 60_000;

const { bytes, touching } = await benchFile(10, 10);
const post = async (path: string, body: BodyInit, type: string) =>
  (await (await fetch(base + path, { method: 'POST', body, headers: { 'Content-Type': type } })).json()) as {
    id: string;
  };
await post('/api/characters?name=bench.glb', bytes, 'application/octet-stream');
const { id } = await post('/api/shots', JSON.stringify(touching), 'application/json');
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: [
    '--headless',
    '--no-sandbox',
    '--disable-quic',
    '--js-flags=--expose-gc',
    '--use-angle=swiftshader',
    '--enable-unsafe-swiftshader',
    '--disable-gpu-compositing',
    '--disable-gpu-rasterization',
  ],
});
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.addInitScript('globalThis.__name = (f) => f');
  await page.goto(`${base}/shot/${id}/tune?parts=${Object.keys(touching.parts).join(',')}`);
  await page.getByTestId('lane-numbers').first().filter({ hasText: 'strays' }).waitFor();
  const session = await page.context().newCDPSession(page);
  const { processInfo } = await (await browser.newBrowserCDPSession()).send('SystemInfo.getProcessInfo');
  const renderers = processInfo.filter((p) => p.type === 'renderer').map((p) => p.id);
  const collected = async () => {
    for (const worker of page.workers()) await worker.evaluate('globalThis.gc()');
    await session.send('HeapProfiler.collectGarbage');
    // What is free but kept for later is given back, as when memory is short, though not at once: what is left is held.
    // Only a change of level is told on, so it falls first.
    for (const level of ['moderate', 'critical'] as const)
      await session.send('Memory.simulatePressureNotification', { level });
    await page.waitForTimeout(SETTLE_MS);
    const { usedSize } = await session.send('Runtime.getHeapUsage');
    const resident = renderers.map((pid) =>
      Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))![1]),
    );
    return { page: usedSize / 2 ** 20, process: Math.max(...resident) / 1024 };
  };
  const tune = async (ms: number) =>
    page.evaluate(async (until) => {
      const slider = document.querySelector<HTMLInputElement>('#setting-hold')!;
      const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')!.set!;
      const end = performance.now() + until;
      let moves = 0;
      while (performance.now() < end) {
        set.call(slider, String(0.5 + 0.1 * ((moves++ * 7) % 40)));
        slider.dispatchEvent(new Event('input', { bubbles: true }));
        await new Promise((r) => setTimeout(r, 120));
        // Now and then the hand lets go, so that there are edits too.
        if (moves % 50 === 0) slider.dispatchEvent(new Event('pointerup', { bubbles: true }));
      }
      return moves;
    }, ms);
  // What is loaded and compiled once is not growth.
  await tune(60_000);
  const start = await collected();
  const samples = [start];
  if (!json) console.log('0 min', start);
  let moves = 0;
  const rounds = Math.max(1, Math.round(minutes / 4));
  for (let k = 0; k < rounds; k++) {
    moves += await tune((minutes / rounds) * 60_000);
    samples.push(await collected());
    if (!json) console.log(`${((minutes / rounds) * (k + 1)).toFixed(0)} min`, samples.at(-1));
  }
  const end = samples.at(-1)!;
  const result = {
    minutes,
    moves,
    'MB.page.growth': end.page - start.page,
    'MB.process.growth': end.process - start.process,
    'MB.page': end.page,
    'MB.process': end.process,
  };
  console.log(json ? JSON.stringify(result, null, 1) : result);
} finally {
  await browser.close();
}
