import type { ChainPart } from '@oscillum/core/chain';
import { readdirSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { chromium } from '@playwright/test';
import type { Shot } from '@oscillum/core/shot';
import { benchFile } from '@oscillum/demo';

/**
 * Times the simulation in one worker and shared by two, beside a page that is blank; then drags Hold of ten selected
 * chains step by step and times each: input event to whole picture, and to the first changed rows.
 */
const base = process.argv[2]!;
const json = process.argv.includes('--json');
const STEPS = 40;

/** Re-simulations in workers beside a page that does nothing. */
const ALONE = 25;

/** In the page: times of re-simulations shared by `of` workers, ms, without the first ten. */
async function aloneIn({
  file,
  url,
  shot,
  of,
  rounds,
}: {
  file: string;
  url: string;
  shot: Shot;
  of: number;
  rounds: number;
}): Promise<number[]> {
  const bytes = await (await fetch(url)).arrayBuffer();
  const workers = Array.from({ length: of }, () => new Worker(file, { type: 'module' }));
  const answered = (worker: Worker, is: (m: { kind: string; finished?: boolean }) => boolean) =>
    new Promise<void>((resolve, reject) => {
      worker.onmessage = ({ data }) => {
        if (data.kind === 'failed') reject(new Error(data.trouble.sentence));
        else if (is(data)) resolve();
      };
    });
  const all = (say: (worker: Worker, index: number) => void, is: Parameters<typeof answered>[1]) => {
    const done = workers.map((w) => answered(w, is));
    workers.forEach(say);
    return Promise.all(done);
  };
  await all(
    (w) => w.postMessage({ kind: 'open', job: 1, fileName: 'bench.glb', bytes: bytes.slice(0) }),
    (m) => m.kind === 'opened',
  );
  const times: number[] = [];
  for (let k = 0; k < rounds; k++) {
    for (const part of Object.values(shot.parts))
      (part as ChainPart).settings.hold = 0.5 + 0.1 * ((k * 7) % 40);
    const start = performance.now();
    await all(
      (w, index) => w.postMessage({ kind: 'simulate', job: 2 + k, shot, share: { index, of } }),
      (m) => m.kind === 'rows' && m.finished === true,
    );
    times.push(performance.now() - start);
  }
  workers.forEach((w) => w.terminate());
  return times.slice(10);
}

/**
 * In the page: moves the slider of Hold step by step. A change counts when the browser's frame with it is done: first
 * on the stage with the first new rows, then lanes and stage with all of them. What is waited for is watched, not asked
 * for every frame, which would make frames.
 */
async function dragHold(
  steps: number,
): Promise<{ first: number; whole: number; worker: number; blocked: number }[]> {
  const slider = document.querySelector<HTMLInputElement>('#setting-hold')!;
  const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')!.set!;
  const lanes = document.querySelector<HTMLElement>('[data-simulated]')!.dataset;
  const stage = document.querySelector<HTMLElement>('[data-testid="stage"]')!.dataset;
  const until = (is: () => boolean) =>
    new Promise<void>((resolve, reject) => {
      const late = setTimeout(() => reject(new Error('no picture after 20 s')), 20000);
      const watch = new MutationObserver(() => {
        if (!is()) return;
        clearTimeout(late);
        watch.disconnect();
        resolve();
      });
      watch.observe(document.body, { subtree: true, attributes: true });
    });
  // The task after a frame's callbacks runs when the page has handed the frame over.
  const frameDone = () =>
    new Promise<number>((resolve) => {
      requestAnimationFrame(() => {
        const after = new MessageChannel();
        after.port1.onmessage = () => resolve(performance.now());
        after.port2.postMessage(0);
      });
    });
  let blocked = 0;
  new PerformanceObserver((list) => {
    for (const e of list.getEntries()) blocked = Math.max(blocked, e.duration);
  }).observe({ type: 'longtask' });
  const out: { first: number; whole: number; worker: number; blocked: number }[] = [];
  for (let k = 0; k < steps; k++) {
    const before = lanes.simulated!;
    blocked = 0;
    const start = performance.now();
    set.call(slider, String(Number(slider.max) * (0.06 + 0.012 * ((k * 7) % 40))));
    slider.dispatchEvent(new Event('input', { bubbles: true }));
    const first = until(() => stage.drawnRun !== before).then(frameDone);
    await until(
      () =>
        lanes.whole === 'true' &&
        lanes.simulated !== before &&
        stage.drawnRun === lanes.simulated &&
        stage.drawnWhole === 'true',
    );
    const whole = (await frameDone()) - start;
    out.push({ first: (await first) - start, whole, worker: Number(lanes.ms), blocked });
  }
  return out;
}

const { bytes, shot, touching } = await benchFile(10, 10);
const assets = fileURLToPath(new URL('../web/dist/assets', import.meta.url));
const workerFile = readdirSync(assets).find((f) => f.startsWith('simulation.worker') && f.endsWith('.js'))!;
const post = async (path: string, body: BodyInit, type: string) =>
  (await (await fetch(base + path, { method: 'POST', body, headers: { 'Content-Type': type } })).json()) as {
    id: string;
  };
await post('/api/characters?name=bench.glb', bytes, 'application/octet-stream');
const { id } = await post('/api/shots', JSON.stringify(shot), 'application/json');
const { id: touchingId } = await post('/api/shots', JSON.stringify(touching), 'application/json');
const all = Object.keys(shot.parts);

const browser = await chromium.launch({
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
    // The page itself is put together by the processor, as on any machine without a graphics processor.
    '--disable-gpu-compositing',
    '--disable-gpu-rasterization',
  ],
});
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  // The transpiler names inner functions through a helper that the page does not have.
  await page.addInitScript('globalThis.__name = (f) => f');
  await page.goto(`${base}/api/health`);
  const median = (a: number[]) => [...a].sort((x, y) => x - y)[a.length >> 1]!;
  const result: Record<string, number> = {};
  for (const of of [1, 2]) {
    const times = await page.evaluate(aloneIn, {
      ...{ file: `/assets/${workerFile}`, url: `/api/characters/${shot.character.hash}/file`, shot, of },
      rounds: ALONE,
    });
    result[`ms.worker.alone.${of}`] = median(times);
    result[`ms.worker.alone.${of}.best`] = Math.min(...times);
  }
  await page.goto(`${base}/`);
  for (const [name, shotId, parts] of [
    ['ten', id, all],
    ['ten among capsules', touchingId, all],
    ['one of ten among capsules', touchingId, all.slice(0, 1)],
  ] as const) {
    await page.goto(`${base}/shot/${shotId}/tune?parts=${parts.join(',')}`);
    await page.getByTestId('lane-numbers').first().filter({ hasText: 'off source' }).waitFor();
    const warm = (await page.evaluate(dragHold, STEPS)).slice(10);
    const of = (what: keyof (typeof warm)[number]) => warm.map((s) => s[what]);
    Object.assign(result, {
      [`ms.worker, ${name}`]: median(of('worker')),
      [`ms.slider-to-first-change, ${name}`]: median(of('first')),
      [`ms.slider-to-picture, ${name}`]: median(of('whole')),
      [`ms.slider-to-picture.best, ${name}`]: Math.min(...of('whole')),
      [`ms.slider-to-picture.worst, ${name}`]: Math.max(...of('whole')),
      [`ms.blocked.median, ${name}`]: median(of('blocked')),
      [`ms.blocked.worst, ${name}`]: Math.max(...of('blocked')),
    });
  }
  if (json) console.log(JSON.stringify(result, null, 1));
  else {
    console.log('chains of ten links, 240 frames, in the headless browser (software drawing); medians');
    console.log('blocked: longest task of the page over 50 ms within a movement, 0 when there was none');
    for (const [k, v] of Object.entries(result)) console.log(k.padEnd(54), v.toFixed(0).padStart(6));
  }
} finally {
  await browser.close();
}
