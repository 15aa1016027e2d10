import { expect, test } from '@playwright/test';
import { handOff } from '@oscillum/core/handoff';
import { defaultBake } from '@oscillum/core/bake';
import { openContainer } from '@oscillum/core/gltf';
import type { Shot } from '@oscillum/core/shot';
import { demoFiles } from '@oscillum/demo';
import { shotOf } from './clothShots';
import { bytesOf, dragSlider, freshShot, newer, run, saved } from './desk';

type Hair = Extract<Shot['parts'][string], { kind: 'strands' }>;
const hairOf = (shot: Shot): Hair => Object.values(shot.parts).find((p): p is Hair => p.kind === 'strands')!;

test('hair grows with one press, is tuned and looked at, and leaves as curves, the same bytes as the core writes', async ({
  page,
}) => {
  const id = await freshShot(page, 'Lookout', { range: { first: 0, last: 24 }, parts: {} });
  await page.goto(`/shot/${id}/tune?frame=18`);
  const first = await run(page);
  await page.getByRole('tab', { name: 'Meshes' }).click();
  await page.getByRole('option', { name: /fringe scalp/ }).click();
  await page.getByRole('button', { name: 'Grow hair' }).click();
  let now = await newer(page, first);
  const lane = page.getByTestId('lane-Fringe scalp hair').getByTestId('lane-numbers');
  await expect(lane).toContainText('off its groom by');
  await page.getByLabel('Guides', { exact: true }).fill('24');
  await page.keyboard.press('Enter');
  now = await newer(page, now);
  await page.getByLabel('Alike on both sides').check();
  now = await newer(page, now);
  const stiff = await lane.textContent();
  await dragSlider(page, 'Hold', 0.9);
  now = await newer(page, now);
  await expect(lane).not.toHaveText(stiff ?? '');
  // Unless it keeps its groom it sags; asked again, it stands as it was combed.
  await page.getByLabel('Keep the groom').uncheck();
  now = await newer(page, now);
  await page.getByLabel('Keep the groom').check();
  await newer(page, now);
  await saved(page);

  // How it looks moves nothing: the guides are the same.
  const before = await shotOf(page, id);
  for (const [label, value] of [
    ['Strands', '1500'],
    ['Curl', '0.01'],
    ['Curl from', '30'],
    ['Curl to', '70'],
  ] as const) {
    await page.getByLabel(label, { exact: true }).fill(value);
    await page.keyboard.press('Enter');
  }
  await saved(page);
  const shot = await shotOf(page, id);
  expect(hairOf(shot).look).toMatchObject({ strands: 1500, curl: 0.01, curlFrom: 0.3, curlTo: 0.7 });
  expect(hairOf(shot).groom).toEqual(hairOf(before).groom);
  expect(hairOf(shot).groom.points.length).toBe(24);

  await page.getByRole('link', { name: 'Hand off' }).click();
  await expect(page.getByText('curves in USD points and CSV points, or cards')).toBeVisible();
  await page.getByLabel('GLB hair cards').check();
  await page.getByLabel('Cards', { exact: true }).fill('12');
  await page.keyboard.press('Enter');
  await page.getByLabel('USD points').check();
  await page.getByRole('button', { name: 'Bake', exact: true }).click();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Download USD points' }).click(),
  ]);
  const bytes = await bytesOf(download);
  expect(new TextDecoder().decode(bytes)).toContain('def BasisCurves "Fringe_scalp_hair"');
  const [brindle] = await demoFiles();
  const job = handOff(openContainer(brindle!.bytes, 'brindle.glb'), shot, {
    ...{ bake: defaultBake(shot), clips: null, formats: ['points.usda'], stem: 'hair', unit: null, up: 'Y' },
    pack: 'none',
  });
  let step = job.next();
  while (!step.done) step = job.next();
  expect(Buffer.from(bytes).equals(Buffer.from(step.value.files[0]!.bytes))).toBe(true);
  await expect(page.getByText(/12 cards of 24 guides/)).toBeVisible();
  // It goes on moving: the file that holds it is no clip.
  expect(hairOf(await shotOf(page, id)).muted).toBe(false);
});
