import { chromium } from '@playwright/test';
import { keyAt, sha256 } from './desk';
import { containerOf, toGlb } from '@oscillum/core/gltf';
import { makeShot } from '@oscillum/core/shot';
import type { Motion } from '@oscillum/core/motion';

/**
 * Drags all keys of a clip of 10 000 at once in Refine, and times each movement of the hand until the curves and
 * the stage are drawn anew.
 */
const base = process.argv[2]!;
const JOINTS = 100;
const FRAMES = 101;
const MOVES = 40;

function manyKeys(): Motion {
  const joints = Array.from({ length: JOINTS }, (_, i) => ({
    ...{ name: `joint ${i}`, parent: i % 10 === 0 ? (i === 0 ? -1 : 0) : i - 1 },
    ...{ t: i === 0 ? [0, 1, 0] : [0.02 * Math.floor(i / 10), 0.05, 0], r: [0, 0, 0, 1], s: [1, 1, 1] },
  }));
  const t = new Float64Array(3 * JOINTS * FRAMES);
  const r = new Float64Array(4 * JOINTS * FRAMES);
  for (let f = 0; f < FRAMES; f++)
    joints.forEach((j, i) => {
      const half = 0.1 * Math.sin(0.15 * f + 0.2 * i);
      t.set(j.t, 3 * (f * JOINTS + i));
      r.set([0, Math.sin(half) * 0.6, Math.sin(half) * 0.8, Math.cos(half)], 4 * (f * JOINTS + i));
    });
  const s = new Float64Array(3 * JOINTS * FRAMES).fill(1);
  return { name: 'Sway', joints, fps: 30, first: 0, count: FRAMES, t, r, s };
}

const bytes = toGlb(containerOf(manyKeys(), 'many.glb'));
const send = async (path: string, body: BodyInit, type: string) => {
  const answer = await fetch(base + path, { method: 'POST', body, headers: { 'Content-Type': type } });
  if (!answer.ok) throw new Error(await answer.text());
  return (await answer.json()) as { id: string };
};
await send('/api/characters?name=many.glb', bytes, 'application/octet-stream');
const clip = { index: 0, name: 'Sway', duration: (FRAMES - 1) / 30 };
const shot = makeShot({ name: 'Many keys', hash: sha256(bytes), fileName: 'many.glb', clip });
const { id } = await send('/api/shots', JSON.stringify(shot), 'application/json');

const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: [
    ...['--headless', '--no-sandbox', '--disable-quic', '--no-first-run', '--disable-background-networking'],
    ...['--use-angle=swiftshader', '--enable-unsafe-swiftshader'],
    ...['--disable-gpu-compositing', '--disable-gpu-rasterization'],
  ],
});
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.addInitScript('globalThis.__name = (f) => f');
  const joints = Array.from({ length: JOINTS }, (_, i) => i).join(',');
  await page.goto(`${base}/shot/${id}/refine?joints=${joints}&frame=50`);
  const field = page.getByRole('application', { name: /Keys and curves/ });
  await field.waitFor();
  await field.focus();
  await page.keyboard.press('Control+a');
  const keys = Number(await field.getAttribute('data-chosen'));
  // In the page: each movement is timed from its event to the end of the frame in which the curves were drawn anew.
  await page.evaluate(() => {
    const field = document.querySelector<HTMLElement>('.curve-field')!;
    const look = () => field.dataset.places;
    const times: number[] = ((window as unknown as { times: number[] }).times = []);
    let busy = false;
    window.addEventListener(
      'pointermove',
      (e) => {
        if (busy || !(e.buttons & 1)) return;
        busy = true;
        const before = look();
        const began = e.timeStamp;
        const wait = () =>
          look() === before
            ? requestAnimationFrame(wait)
            : // After the stage, which draws in the same frame.
              setTimeout(() => {
                times.push(performance.now() - began);
                busy = false;
              });
        requestAnimationFrame(wait);
      },
      true,
    );
  });
  const { x, y } = await keyAt(page, 50, 2);
  await page.mouse.move(x, y);
  await page.mouse.down();
  for (let k = 0; k < MOVES; k++) {
    await page.mouse.move(x, y - 6 - 3 * (k % 9));
    await page.waitForFunction((n) => (window as unknown as { times: number[] }).times.length > n, k);
  }
  await page.mouse.up();
  const times = await page.evaluate(() => (window as unknown as { times: number[] }).times);
  const sorted = times.slice(5).sort((a, b) => a - b);
  const chosen = Number(await field.getAttribute('data-chosen'));
  if (chosen !== keys) throw new Error('The drag took other keys than all');
  console.log(`${keys} keys of ${JOINTS} joints dragged at once, in the headless browser (software drawing)`);
  console.log(
    `ms, drag to picture: median ${sorted[sorted.length >> 1]!.toFixed(0)}, worst ${sorted.at(-1)!.toFixed(0)}`,
  );
} finally {
  await browser.close();
}
