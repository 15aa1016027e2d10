import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { expect, test } from '@playwright/test';
import { unzipSync } from 'fflate';
import { brindleGlb } from '@oscillum/demo';
import { bytesOf, curveKeys, dragSlider, freshShot, newer, play, run, takeSpan } from './desk';

const ROOT = fileURLToPath(new URL('..', import.meta.url));

test('tuned once on Stride, baked on all four clips with few keys, one settle softened, checked, and the same by the command line', async ({
  page,
}) => {
  const id = await freshShot(page, 'Stride away', { clip: { index: 0, name: 'Stride' } });
  await page.goto(`/shot/${id}/tune`);
  const now = await run(page);
  await page.getByRole('button', { name: 'Select Plume, middle' }).click();
  await dragSlider(page, 'Damping', 0.4);
  await newer(page, now);

  await page.getByRole('link', { name: 'Refine' }).click();
  await page.getByLabel('Reduce keys').selectOption('cubic');
  await page.getByRole('button', { name: 'plume middle 3', exact: true }).click();
  const plain = await curveKeys(page);
  await takeSpan(page, 0.5, 0.75);
  await page.getByRole('button', { name: 'Smooth' }).click();
  await dragSlider(page, 'Over', 0.5);
  await page.getByRole('button', { name: 'Apply', exact: true }).click();
  await expect(page.getByRole('listitem').filter({ hasText: 'Smooth plume middle 3' })).toBeVisible();
  expect(await curveKeys(page)).not.toBe(plain);

  await page.getByRole('link', { name: 'Hand off' }).click();
  await page.getByRole('button', { name: 'An animation editor' }).click();
  await page.getByRole('checkbox', { name: 'BVH' }).check();
  await page.getByRole('combobox', { name: 'Bake', exact: true }).selectOption('all');
  const [json] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Shot as JSON' }).click(),
  ]);
  const [measures] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Measures as CSV' }).click(),
  ]);
  const lines = Buffer.from(await bytesOf(measures))
    .toString()
    .trim()
    .split('\r\n');
  expect(lines[0]).toContain('"Plume, middle off source °"');
  expect(lines).toHaveLength(98);
  await page.getByRole('button', { name: 'Bake', exact: true }).click();
  await expect(page.getByText('Ready: 9 files')).toBeVisible();
  // Every file was read back, and played by somebody else's player.
  const check = page.getByRole('table', { name: 'Check' });
  for (const by of ['GLB by three.js', 'BVH by three.js', 'BVH by our own reader', 'USDA by our own reader'])
    await expect(check.getByRole('row').filter({ hasText: by })).toContainText('✓');
  const [zipped] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Download all as zip' }).click(),
  ]);
  const files = unzipSync(await bytesOf(zipped));
  const manifest = JSON.parse(Buffer.from(files['manifest.json']!).toString()) as {
    clips: { keysBefore: number; keys: number; degreesOff: number }[];
  };
  expect(manifest.clips).toHaveLength(4);
  for (const c of manifest.clips) {
    expect(c.keys).toBeLessThan(c.keysBefore / 4);
    expect(c.degreesOff).toBeLessThanOrEqual(0.5);
  }
  const at = await play(files['brindle-baked.glb'] as Uint8Array<ArrayBuffer>);
  expect(
    at('Lookout', 1.4, 'crest_front_4').distanceTo(at('Lookout with follow-through', 1.4, 'crest_front_4')) +
      at('Stride', 1.4, 'plume_middle_7').distanceTo(at('Stride with follow-through', 1.4, 'plume_middle_7')),
  ).toBeGreaterThan(0.005);

  // Baking again is of the same motion, not of what was baked: one press brings the chains back.
  await expect(page.getByText('chains are muted, so that motion baked already is not doubled')).toBeVisible();
  await page.getByRole('button', { name: 'Unmute' }).click();
  await expect(page.getByText('is not doubled')).toBeHidden();

  const folder = mkdtempSync(join(tmpdir(), 'oscillum-handoff-'));
  writeFileSync(join(folder, 'shot.json'), await bytesOf(json));
  writeFileSync(join(folder, 'brindle.glb'), await brindleGlb());
  execFileSync(
    'node',
    [
      ...[
        'cli/bin/oscillum.mjs',
        'bake',
        join(folder, 'shot.json'),
        '--character',
        join(folder, 'brindle.glb'),
      ],
      ...['--out', join(folder, 'brindle-baked.glb'), '--clips', 'all', '--format', 'glb,bvh,usda'],
    ],
    { cwd: ROOT, stdio: 'pipe' },
  );
  const names = Object.keys(files).filter((n) => n !== 'manifest.json');
  expect(names).toHaveLength(9);
  for (const name of names)
    expect(readFileSync(join(folder, name)).equals(Buffer.from(files[name]!)), name).toBe(true);
});

test('a BVH file opens as a skeleton with its motion, and its chains move', async ({ page }) => {
  const bvh = `HIERARCHY
ROOT hips
{
  OFFSET 0 0 0
  CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation
${['tail 1', 'tail 2', 'tail 3', 'tail 4'].map((n) => `  JOINT ${n}\n  {\n  OFFSET 0 0 -20\n  CHANNELS 3 Zrotation Xrotation Yrotation`).join('\n')}
  End Site { OFFSET 0 0 -20 }
  } } } }
}
MOTION
Frames: 60
Frame Time: 0.0333333
${Array.from({ length: 60 }, (_, f) => `0 100 0 0 0 ${(40 * Math.sin(f / 5)).toFixed(3)}${' 0'.repeat(12)}`).join('\n')}
`;
  await page.goto('/');
  await page.getByLabel('Choose a character file').setInputFiles({
    name: 'capture.bvh',
    mimeType: 'text/plain',
    buffer: Buffer.from(bvh),
  });
  await expect(page).toHaveURL(/prepare/);
  await expect(page.getByRole('treeitem', { name: /tail 3/ })).toBeVisible();
  await page.getByRole('link', { name: 'Tune' }).click();
  await page.getByRole('button', { name: /suggest/ }).click();
  await page.getByRole('button', { name: /^Make/ }).click();
  await expect(page.getByTestId('lane-numbers').first()).toHaveText(/off source/);
  const strays = /off source ([\d.]+)/.exec((await page.getByTestId('lane-numbers').first().textContent())!)!;
  expect(Number(strays[1])).toBeGreaterThan(2);
});

test('a motion from a file drives a character with joints of like names', async ({ page }) => {
  await page.goto(`/shot/${await freshShot(page, 'Lookout')}/prepare`);
  const bytes = (text: string) => ({ mimeType: 'text/plain', buffer: Buffer.from(text) });
  const nod = `HIERARCHY
ROOT neck
{
  OFFSET 0 0 0
  CHANNELS 3 Zrotation Xrotation Yrotation
  JOINT head
  {
    OFFSET 0 15 0
    CHANNELS 3 Zrotation Xrotation Yrotation
    JOINT halo
    {
      OFFSET 0 10 0
      CHANNELS 0
    }
  }
}
MOTION
Frames: 31
Frame Time: 0.0333333
${Array.from({ length: 31 }, (_, f) => `0 ${(30 * Math.sin(f / 5)).toFixed(3)} 0 0 0 0`).join('\n')}
`;
  const choose = page.getByLabel('Choose a motion file');
  await choose.setInputFiles({ name: 'letter.bvh', ...bytes('Dear Brindle') });
  await expect(page.getByRole('alert')).toContainText('neither BVH nor USD');
  await choose.setInputFiles({ name: 'nod.bvh', ...bytes(nod) });
  await expect(page.getByText('“nod” moves 2 joints. 1 of its joints have no like here: halo')).toBeVisible();
  await expect(page.getByRole('combobox', { name: 'Clip', exact: true })).toHaveValue('4');
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('heading', { name: 'brindle.glb' })).toBeVisible();
});

test('the shot leaves as a film, as pictures and as contact sheets, still and animated, by the page or by a worker', async ({
  page,
}) => {
  const id = await freshShot(page, 'Lookout', { range: { first: 30, last: 41 } });
  await page.goto(`/shot/${id}/hand-off`);
  await expect(page.getByTestId('stage')).toHaveAttribute('data-drawn-frame', '30');
  const make = async (kind: string) => {
    await page.getByRole('combobox', { name: 'As', exact: true }).selectOption(kind);
    const waiting = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Make the film' }).click();
    const file = await waiting;
    return { name: file.suggestedFilename(), bytes: await bytesOf(file) };
  };
  const pictures = unzipSync((await make('png')).bytes);
  const names = Object.keys(pictures);
  expect(names).toHaveLength(12);
  expect(names[0]).toMatch(/\.0030\.png$/);
  // Her head turns: no two pictures are alike.
  expect(new Set(names.map((n) => Buffer.from(pictures[n]!).toString('base64'))).size).toBe(12);
  expect((await make('sheet')).name).toBe('Fresh Lookout.png');

  const film = await make('webm');
  expect(film.name).toBe('Fresh Lookout.webm');
  // Played by the browser: twelve frames at thirty a second, however long they took to draw.
  const elsewhere = await page.context().newPage();
  const play = (bytes: Uint8Array) =>
    elsewhere.evaluate(async (base64) => {
      const video = document.createElement('video');
      const bytes = Uint8Array.from(atob(base64), (c) => c.charCodeAt(0));
      video.src = URL.createObjectURL(new Blob([bytes], { type: 'video/webm' }));
      await new Promise((r, no) => {
        video.onloadeddata = r;
        video.onerror = no;
      });
      return { seconds: video.duration, width: video.videoWidth };
    }, Buffer.from(bytes).toString('base64'));
  const played = await play(film.bytes);
  expect(played.seconds).toBeCloseTo(12 / 30, 1);
  expect(played.width).toBeGreaterThan(600);
  // Four views at once are as long and as large.
  expect(await play((await make('four')).bytes)).toEqual(played);

  // The same by a worker, in a browser of its own, while this page goes on.
  await page.getByRole('combobox', { name: 'As', exact: true }).selectOption('webm');
  await page.getByRole('button', { name: 'Film in the queue' }).click();
  const job = page
    .getByRole('list', { name: 'Jobs' })
    .getByRole('listitem')
    .filter({ hasText: 'Fresh Lookout, film' });
  await expect(job).toContainText('ready');
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    job.getByRole('link', { name: 'WebM' }).click(),
  ]);
  expect(await play(await bytesOf(file))).toEqual(played);
});

test('a take, another shot and another character are baked in the queue by one press, also while the page is closed', async ({
  page,
}) => {
  await freshShot(page, 'Lookout', { name: 'The other one' });
  // Another file with joints of the same names: a GLB may be followed by anything.
  await page.request.post('/api/characters?name=twin.glb', {
    data: Buffer.concat([await brindleGlb(), Buffer.from('twin')]),
    headers: { 'Content-Type': 'application/octet-stream' },
  });
  const id = await freshShot(page, 'Stride away', { name: `Queued ${Date.now()}` });
  await page.goto(`/shot/${id}/tune`);
  await run(page);
  await page.getByRole('tab', { name: 'Takes' }).click();
  await page.getByRole('button', { name: 'Keep a take' }).click();
  await page.getByRole('link', { name: 'Hand off' }).click();
  await page.getByRole('checkbox', { name: 'BVH' }).check();
  await page.getByText('with takes, other shots and characters').click();
  await page.getByRole('checkbox', { name: /^take / }).check();
  await page.getByRole('checkbox', { name: 'The other one' }).first().check();
  await page.getByRole('checkbox', { name: 'on twin.glb' }).check();
  await page.getByRole('button', { name: 'Put 4 in the queue' }).click();
  await expect(page.getByText('4 bakes are in the queue')).toBeVisible();
  await page.goto('about:blank');
  await page.goto(`/shot/${id}/hand-off`);
  const jobs = page.getByRole('list', { name: 'Jobs' }).getByRole('listitem');
  const mine = jobs.filter({ hasText: 'Queued' }).filter({ hasNotText: 'twin' });
  await expect(mine).toHaveCount(2);
  for (const job of [mine.first(), mine.last(), jobs.filter({ hasText: 'The other one' }).first()])
    await expect(job).toContainText('ready, 3 checks passed');
  // On the twin all four clips, each as GLB and BVH: read back, and played.
  await expect(jobs.filter({ hasText: 'on twin.glb, 4 clips' })).toContainText('ready, 12 checks passed');
  const [glb] = await Promise.all([
    page.waitForEvent('download'),
    mine.first().getByRole('link', { name: 'GLB' }).click(),
  ]);
  const at = await play(await bytesOf(glb));
  expect(
    at('Stride away', 1.4, 'plume_middle_7').distanceTo(
      at('Stride away with follow-through', 1.4, 'plume_middle_7'),
    ),
  ).toBeGreaterThan(0.005);

  // Of GLB alone it is another job, made of what was baked already; what is removed is gone.
  await page.getByRole('button', { name: 'Put in the queue' }).click();
  await expect(mine).toHaveCount(3);
  await expect(mine.first()).toContainText('ready, 1 check passed');
  await mine
    .last()
    .getByRole('button', { name: /^Remove/ })
    .click();
  await expect(mine).toHaveCount(2);
});

test('a GLB is packed with Draco or meshopt when it is asked for, and says before what will be in it', async ({
  page,
}) => {
  await page.goto(`/shot/${await freshShot(page, 'Lookout')}/hand-off`);
  await page.getByText('What will be in the file').click();
  const holds = page.getByRole('listitem').filter({ hasText: 'the whole character' });
  await expect(holds).toContainText('its 4 clips and “Lookout with follow-through”; turns of 20 joints');
  await page.getByRole('textbox', { name: 'Name of the files' }).fill('courier');
  await expect(holds).toContainText('courier.glb');
  const sizes: number[] = [];
  for (const pack of ['none', 'draco', 'meshopt']) {
    await page.getByRole('combobox', { name: 'GLB packed' }).selectOption(pack);
    await page.getByRole('button', { name: 'Bake', exact: true }).click();
    await expect(page.getByRole('button', { name: 'Bake', exact: true })).toBeVisible();
    await expect(page.getByText('Ready: courier.glb')).toBeVisible();
    await expect(
      page.getByRole('table', { name: 'Check' }).getByRole('row').filter({ hasText: 'GLB by three.js' }),
    ).toContainText('✓');
    const [file] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Download GLB' }).click(),
    ]);
    sizes.push((await bytesOf(file)).length);
  }
  expect(sizes[1]).toBeLessThan(0.8 * sizes[0]!);
  expect(sizes[2]).toBeLessThan(0.8 * sizes[0]!);
});
