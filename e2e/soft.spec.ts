import { expect, test } from '@playwright/test';
import { validateBytes } from 'gltf-validator';
import { readGltf } from '@oscillum/core/gltf';
import { readWeightMap } from '@oscillum/core/model';
import type { RegionPart } from '@oscillum/core/soft';
import { bakedGlb, coreBake, shotOf } from './clothShots';
import { dragSlider, freshShot, newer, run, saved } from './desk';

const regionOf = async (...of: Parameters<typeof shotOf>): Promise<RegionPart> =>
  Object.values((await shotOf(...of)).parts).find((p) => p.kind === 'region') as RegionPart;

test('a wattle is made soft, painted, tuned, and baked to what the command line bakes', async ({ page }) => {
  const id = await freshShot(page, 'Lookout', { range: { first: 0, last: 40 } });
  await page.goto(`/shot/${id}/tune?frame=16`);
  const first = await run(page);
  const crest = page.getByTestId('lane-Crest, front').getByTestId('lane-numbers');
  const before = await crest.textContent();
  await page.getByRole('tab', { name: 'Meshes' }).click();
  await page.getByRole('option', { name: /wattle mesh/ }).click();
  await page.getByRole('button', { name: 'Make soft', exact: true }).click();
  const made = await newer(page, first);
  const lane = page.getByTestId('lane-Wattle');
  await expect(lane).toContainText('off its skin by');
  await expect(page.getByRole('option', { name: /wattle mesh/ })).toContainText('soft region');
  expect(await crest.textContent()).toBe(before);
  await page.getByRole('button', { name: 'Flesh' }).click();
  const flesh = await newer(page, made);
  const numbers = await lane.getByTestId('lane-numbers').textContent();
  await dragSlider(page, 'Amount', 0.9);
  const more = await newer(page, flesh);
  await expect(lane.getByTestId('lane-numbers')).not.toHaveText(numbers ?? '');

  // Painted: it begins with what the ball reached, and a faint stroke is one edit.
  await page.getByRole('button', { name: 'Paint softness' }).click();
  const bar = page.getByRole('region', { name: 'Paint softness' });
  await expect(bar).toContainText('Softness of Wattle');
  await saved(page);
  const shares = async () => [...readWeightMap((await regionOf(page, id)).maps.weight!)];
  const plain = await shares();
  expect((await regionOf(page, id)).where).toEqual({ by: 'map' });
  await bar.getByLabel('Value, %').fill('5');
  await page.keyboard.press('Enter');
  await bar.getByRole('button', { name: 'fill', exact: true }).click();
  await saved(page);
  expect((await shares()).every((s) => Math.abs(s - 0.05) < 1e-4)).toBe(true);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(shares).toEqual(plain);
  await page.keyboard.press('Escape');
  await expect(bar).toBeHidden();
  await newer(page, more);

  const whole = await shotOf(page, id);
  await page.getByRole('link', { name: 'Hand off' }).click();
  const bytes = await bakedGlb(page);
  expect((await validateBytes(bytes)).issues.messages).toEqual([]);
  expect(Buffer.from(bytes).equals(await coreBake(whole))).toBe(true);
  const wattle = readGltf(bytes, 'soft.glb').nodes.findIndex((n) => n.name === 'wattle mesh');
  const paths = readGltf(bytes, 'soft.glb')
    .clips.at(-1)!
    .channels.filter((c) => c.node === wattle);
  expect(paths.map((c) => c.path)).toEqual(['weights']);
});

test('one region spans mailbag and bell; its reaches are dragged while it plays, and nothing explodes', async ({
  page,
}) => {
  const id = await freshShot(page, 'Leap', { range: { first: 0, last: 40 }, parts: {} });
  await page.goto(`/shot/${id}/tune`);
  const first = await run(page);
  await page.getByRole('tab', { name: 'Meshes' }).click();
  await page.getByRole('option', { name: /mailbag mesh/ }).click();
  await page.getByRole('button', { name: 'Make soft', exact: true }).click();
  let now = await newer(page, first);
  await page.getByText('Meshes it spans').click();
  await page.getByRole('group', { name: 'Meshes it spans' }).getByLabel('bell mesh').check();
  now = await newer(page, now);
  await saved(page);
  expect((await regionOf(page, id)).also.map((m) => m.name)).toEqual(['bell mesh']);
  await page.getByLabel('Middle, y').fill('0.25');
  await page.keyboard.press('Enter');
  now = await newer(page, now);
  const lane = page.getByTestId('lane-Mailbag').getByTestId('lane-numbers');
  const off = async () => (await lane.textContent())!;
  await saved(page);
  const were = (await regionOf(page, id)).where;
  await page.keyboard.press('Space');
  for (const [label, by] of [
    ['Outer reach', 60],
    ['Inner reach', 25],
  ] as const) {
    const thumb = page.getByRole('slider', { name: label });
    const box = (await thumb.boundingBox())!;
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width / 2 + by, box.y + box.height / 2, { steps: 6 });
    await page.mouse.up();
  }
  await newer(page, now);
  await saved(page);
  const { where } = await regionOf(page, id);
  if (where.by !== 'ball' || were.by !== 'ball') throw new Error('It is not a ball any more');
  expect(where.outer).toBeGreaterThan(were.outer);
  expect(where.inner).toBeGreaterThan(were.inner);
  // Its reach keeps it within a share of its size.
  expect(await off()).toMatch(/off its skin by \d+(\.\d+)? (mm|cm)/);
});

test('thighs are filled on the left, softened and mirrored; the strip plays all clips, and a press opens the worst frame', async ({
  page,
}) => {
  const id = await freshShot(page, 'Leap', { range: { first: 0, last: 24 }, parts: {} });
  await page.goto(`/shot/${id}/tune?frame=16`);
  const first = await run(page);
  await page.getByRole('tab', { name: 'Meshes' }).click();
  await page.getByRole('option', { name: /body mesh/ }).click();
  await page.getByRole('button', { name: 'Make soft', exact: true }).click();
  const made = await newer(page, first);
  await page.getByRole('button', { name: 'Paint softness' }).click();
  const bar = page.getByRole('region', { name: 'Paint softness' });
  // How many have a partner stands there before the first stroke.
  await expect(bar.getByText(/^mirror/)).toBeVisible();
  await bar.getByLabel('Value, %').fill('100');
  await page.keyboard.press('Enter');
  await bar.getByLabel('Fill from').selectOption({ label: 'thigh left' });
  await bar.getByRole('button', { name: 'soften all' }).click();
  await bar.getByRole('button', { name: 'soften all' }).click();
  await bar.getByRole('button', { name: 'left to right' }).click();
  await newer(page, made);
  await page.keyboard.press('Escape');
  await saved(page);
  const region = await regionOf(page, id);
  const map = readWeightMap(region.maps.weight!);
  const soft = [...map].filter((s) => s > 0.01).length;
  expect(soft).toBeGreaterThan(100);

  await page.getByRole('button', { name: 'All clips' }).click();
  const strip = page.getByRole('region', { name: 'All clips' });
  await expect(strip.getByRole('button', { name: /off on frame/ })).toHaveCount(4);
  await expect(strip).toContainText('the worst frame of each');
  await strip.getByRole('button', { name: 'play slowly' }).click();
  const canvas = strip.locator('canvas').first();
  const picture = () => canvas.evaluate((c: HTMLCanvasElement) => c.toDataURL());
  const one = await picture();
  await expect.poll(picture).not.toBe(one);
  // Without what is simulated, and with it again.
  await page.getByRole('button', { name: 'Without', exact: true }).click();
  await page.getByRole('button', { name: 'Without', exact: true }).click();
  await strip.getByRole('button', { name: 'play slowly' }).click();
  const leap = strip.getByRole('button', { name: /Leap/ });
  const worst = Number(/frame (\d+)/.exec((await leap.textContent())!)![1]);
  await leap.click();
  await expect(page.getByTestId('frame')).toHaveText(String(worst));
  await strip.getByRole('button', { name: /Lookout/ }).click();
  await expect(page).not.toHaveURL(new RegExp(id));
  await expect(page.getByTestId('lane-Body')).toContainText('off its skin by');
});
