import { chromium } from '@playwright/test';
import { benchFile } from '@oscillum/demo';

/** Drags Hold of ten selected chains step by step and times each: input event to whole picture, and to the first changed rows. */
const base = process.argv[2]!;
const json = process.argv.includes('--json');
const STEPS = 40;

const { bytes, shot } = await benchFile(10, 10);
const post = async (path: string, body: BodyInit, type: string) =>
  (await (await fetch(base + path, { method: 'POST', body, headers: { 'Content-Type': type } })).json()) as {
    id: string;
  };
await post('/api/characters?name=bench.glb', bytes, 'application/octet-stream');
const { id } = await post('/api/shots', JSON.stringify(shot), 'application/json');

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
  await page.goto(`${base}/shot/${id}/tune?parts=${Object.keys(shot.parts).join(',')}`);
  await page.getByTestId('lane-numbers').first().filter({ hasText: 'strays' }).waitFor();
  const samples = await page.evaluate(async (steps) => {
    const slider = document.querySelector<HTMLInputElement>('#setting-hold')!;
    const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')!.set!;
    const frame = () => new Promise<void>((r) => requestAnimationFrame(() => r()));
    const progress = () => (document.querySelector('[data-simulated]') as HTMLElement).dataset;
    const out: { first: number; whole: number; worker: number }[] = [];
    for (let k = 0; k < steps; k++) {
      const before = progress().simulated!;
      const start = performance.now();
      set.call(slider, String(0.5 + 0.1 * ((k * 7) % 40)));
      slider.dispatchEvent(new Event('input', { bubbles: true }));
      let first = 0;
      for (;;) {
        await frame();
        const now = progress();
        if (!first && now.simulated !== before) first = performance.now() - start;
        if (now.simulated !== before && now.whole === 'true') break;
        if (performance.now() - start > 5000) throw new Error('no picture after 5 s');
      }
      out.push({ first, whole: performance.now() - start, worker: Number(progress().ms) });
    }
    return out;
  }, STEPS);
  const median = (a: number[]) => [...a].sort((x, y) => x - y)[a.length >> 1]!;
  const warm = samples.slice(10);
  const result = {
    'ms.worker': median(warm.map((s) => s.worker)),
    'ms.worker.best': Math.min(...warm.map((s) => s.worker)),
    'ms.slider-to-first-change': median(warm.map((s) => s.first)),
    'ms.slider-to-picture': median(warm.map((s) => s.whole)),
    'ms.slider-to-picture.best': Math.min(...warm.map((s) => s.whole)),
    'ms.slider-to-picture.worst': Math.max(...warm.map((s) => s.whole)),
  };
  if (json) console.log(JSON.stringify(result, null, 1));
  else {
    console.log('ten chains of ten links, 240 frames, in the headless browser (software drawing); medians');
    for (const [k, v] of Object.entries(result)) console.log(k.padEnd(32), v.toFixed(0).padStart(6));
  }
} finally {
  await browser.close();
}
