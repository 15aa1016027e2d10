import { readFileSync } from 'node:fs';
import { chromium } from '@playwright/test';
import { benchFile } from '@oscillum/demo';

/**
 * Tunes ten chains without a pause for some minutes (20, or as many as are asked) and prints, at the start and every
 * few minutes and always after collection: the page's heap, all that the page and its workers hold, and what the
 * system has given their process.
 */
const base = process.argv[2]!;
const at = process.argv.indexOf('--minutes');
const minutes = at > 0 ? Number(process.argv[at + 1]) : 20;
const json = process.argv.includes('--json');

/** Part of the browser's account of one process; sizes in bytes, written to base 16. */
interface MemoryDump {
  ph: string;
  pid: number;
  args: { dumps: { allocators?: Record<string, { attrs: { size?: { value: string } } }> } };
}
/** What a process has in use: heaps of the page and its workers, the page's nodes, buffers, everything native. */
const HELD = [
  'v8',
  'blink_gc/main/allocated_objects',
  'partition_alloc/allocated_objects',
  'malloc/allocated_objects',
];

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
  await page.getByTestId('lane-numbers').first().filter({ hasText: 'off source' }).waitFor();
  const session = await page.context().newCDPSession(page);
  const whole = await browser.newBrowserCDPSession();
  const { processInfo } = await whole.send('SystemInfo.getProcessInfo');
  const renderers = processInfo.filter((p) => p.type === 'renderer').map((p) => p.id);
  /** The browser's own account of its memory, taken after every heap of every process has been collected. */
  const account = async (): Promise<MemoryDump[]> => {
    const events: MemoryDump[] = [];
    const take = ({ value }: { value: object[] }) => events.push(...(value as MemoryDump[]));
    whole.on('Tracing.dataCollected', take);
    await whole.send('Tracing.start', {
      traceConfig: {
        includedCategories: ['disabled-by-default-memory-infra'],
        excludedCategories: ['*'],
        memoryDumpConfig: {},
      },
    });
    const { success } = await whole.send('Tracing.requestMemoryDump', {
      deterministic: true,
      levelOfDetail: 'detailed',
    });
    const complete = new Promise((resolve) => whole.once('Tracing.tracingComplete', resolve));
    await whole.send('Tracing.end');
    await complete;
    whole.off('Tracing.dataCollected', take);
    if (!success) throw new Error('The browser gave no account of its memory');
    return events.filter((event) => event.ph === 'v' && event.args.dumps.allocators);
  };
  const collected = async () => {
    for (const worker of page.workers()) await worker.evaluate('globalThis.gc()');
    const dumps = await account();
    const size = (dump: MemoryDump, name: string) =>
      parseInt(dump.args.dumps.allocators![name]?.attrs.size?.value ?? '0', 16) / 2 ** 20;
    // A name that is gone would count as nothing held.
    for (const name of HELD)
      if (!dumps.some((dump) => size(dump, name) > 0))
        throw new Error(`The browser's account of its memory has no ${name}`);
    const held = renderers.map((pid) =>
      dumps
        .filter((dump) => dump.pid === pid)
        .reduce((sum, dump) => sum + HELD.reduce((s, n) => s + size(dump, n), 0), 0),
    );
    const resident = renderers.map((pid) =>
      Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))![1]),
    );
    const { usedSize } = await session.send('Runtime.getHeapUsage');
    return {
      heap: usedSize / 2 ** 20,
      held: Math.max(...held),
      process: Math.max(...resident) / 1024,
    };
  };
  const tune = async (ms: number) =>
    page.evaluate(async (until) => {
      const slider = document.querySelector<HTMLInputElement>('#setting-hold')!;
      const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')!.set!;
      const end = performance.now() + until;
      let moves = 0;
      while (performance.now() < end) {
        set.call(slider, String(Number(slider.max) * (0.06 + 0.012 * ((moves++ * 7) % 40))));
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
    'MB.heap.growth': end.heap - start.heap,
    'MB.held.growth': end.held - start.held,
    'MB.process.growth': end.process - start.process,
    'MB.heap': end.heap,
    'MB.held': end.held,
    'MB.process': end.process,
  };
  console.log(json ? JSON.stringify(result, null, 1) : result);
} finally {
  await browser.close();
}
