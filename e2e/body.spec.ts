import { expect, test } from '@playwright/test';
import { validateBytes } from 'gltf-validator';
import { readGltf } from '@oscillum/core/gltf';
import { bakedGlb, clothOf, coreBake, part, shotOf } from './clothShots';
import { dragSlider, freshShot, newer, run, saved } from './desk';

test('a jelly parcel begins higher by one press, gets finer cells, and is baked to what the command line bakes', async ({
  page,
}) => {
  const id = await part(page, 'Parcel, Bounce', { first: 0, last: 40 }, {});
  await page.goto(`/shot/${id}/tune?parts=parcel`);
  const first = await run(page);
  const lane = page.getByTestId('lane-Parcel').getByTestId('lane-numbers');
  await expect(lane).toContainText('off its animation by');
  await expect(page.getByText(/Parcel begins inside Ground, 3.\d cm deep/)).toBeVisible();
  await page.getByRole('button', { name: /higher, its animation unchanged/ }).click();
  let now = await newer(page, first);
  await expect(page.getByText('Parcel begins inside Ground')).toBeHidden();
  await page.getByRole('button', { name: 'Rubber' }).click();
  now = await newer(page, now);
  const numbers = await lane.textContent();
  await page.getByLabel('Cells along it').fill('5');
  await page.keyboard.press('Enter');
  now = await newer(page, now);
  await expect(page.getByText(/125 cells of 8.\d cm: about/)).toBeVisible();
  expect(await lane.textContent()).not.toBe(numbers);
  await dragSlider(page, 'Hold', 0.2);
  await newer(page, now);
  await saved(page);
  const shot = await shotOf(page, id);
  await page.getByRole('link', { name: 'Hand off' }).click();
  const bytes = await bakedGlb(page);
  expect((await validateBytes(bytes)).issues.messages).toEqual([]);
  expect(Buffer.from(bytes).equals(await coreBake(shot))).toBe(true);
  const out = readGltf(bytes, 'parcel.glb');
  const parcel = out.nodes.findIndex((n) => n.name === 'parcel mesh');
  expect(
    out.clips
      .at(-1)!
      .channels.filter((c) => c.node === parcel)
      .map((c) => c.path),
  ).toEqual(['weights']);
});

test('a mailbag is made a soft body, and its hold is painted', async ({ page }) => {
  const id = await freshShot(page, 'Leap', { range: { first: 0, last: 30 }, parts: {} });
  await page.goto(`/shot/${id}/tune?frame=20`);
  const first = await run(page);
  await page.getByRole('tab', { name: 'Meshes' }).click();
  await page.getByRole('option', { name: /mailbag mesh/ }).click();
  await page.getByRole('button', { name: 'Make soft body' }).click();
  const made = await newer(page, first);
  await expect(page.getByRole('option', { name: /mailbag mesh/ })).toContainText('soft body');
  await page.getByRole('button', { name: 'cells', exact: true }).click();
  await page.getByRole('button', { name: 'Paint hold' }).click();
  const bar = page.getByRole('region', { name: 'Paint hold' });
  await expect(bar).toContainText('Hold of Mailbag');
  await bar.getByLabel('Value, Hz').fill('0.5');
  await page.keyboard.press('Enter');
  await bar.getByRole('button', { name: 'fill', exact: true }).click();
  await newer(page, made);
  await saved(page);
  const body = Object.values((await shotOf(page, id)).parts)[0]!;
  expect(body.kind === 'body' && body.maps.hold !== undefined).toBe(true);
  await page.keyboard.press('Escape');
  // The bell gets the same set-up with one press.
  await page.getByText('Copy to other meshes').click();
  await page.getByRole('group', { name: 'Copy to other meshes' }).getByLabel('bell mesh').check();
  await page.getByRole('button', { name: 'copy', exact: true }).click();
  await expect(page.getByTestId('lane-Bell')).toContainText('off its animation by');
});

test('post balloons float on their strings; their lift is edited, and nothing is cleared', async ({
  page,
}) => {
  const id = await part(page, 'Brindle, Stride with balloons', { first: 0, last: 12 }, {});
  await page.goto(`/shot/${id}/tune?parts=balloons&frame=6`);
  const first = await run(page);
  const lane = page.getByTestId('lane-Balloons').getByTestId('lane-numbers');
  await expect(lane).toContainText('off its skin by');
  const before = await lane.textContent();
  await dragSlider(page, 'Lift of the filling', 0.9);
  await newer(page, first);
  expect(await lane.textContent()).not.toBe(before);
  await saved(page);
  const shot = await shotOf(page, id);
  expect(clothOf(shot).settings.float).toBeGreaterThan(4);
  expect(clothOf(shot).holds.length).toBe(1);
  await page.getByRole('link', { name: 'Hand off' }).click();
  expect(Buffer.from(await bakedGlb(page)).equals(await coreBake(shot))).toBe(true);
});
