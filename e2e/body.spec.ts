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
  await expect(lane).not.toHaveText(numbers ?? '');
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

test('six linked parcels swell in the bag: starts move alone or all together, and what does not touch stays', async ({
  page,
}) => {
  const id = await part(page, 'Mailbag, Swelling parcels', { first: 0, last: 24 }, {});
  await page.goto(`/shot/${id}/tune?parts=parcel2&frame=20`);
  const first = await run(page);
  await expect(page.getByText('Linked with Parcel 1, Parcel 3, Parcel 4, Parcel 5, Parcel 6')).toBeVisible();
  const bodies = async () => {
    await saved(page);
    const all = Object.values((await shotOf(page, id)).parts).filter((p) => p.kind === 'body');
    return all.sort((a, b) => a.order - b.order);
  };
  const starts = async () => (await bodies()).map((p) => p.start);
  const keys = async () => (await bodies()).map((p) => p.keys.swell![0]!.frame);
  const numbers = (name: string) =>
    page.getByTestId(`lane-${name}`).getByTestId('lane-numbers').textContent();
  expect(await starts()).toEqual([0, 8, 16, 24, 32, 40]);
  await expect(page.getByTestId('lane-Parcel 6')).toContainText('volume');
  const far = await numbers('Parcel 6');
  await page.getByLabel('Starts later by, frames').fill('2');
  await page.keyboard.press('Enter');
  let now = await newer(page, first);
  expect(await starts()).toEqual([0, 2, 16, 24, 32, 40]);
  expect(await keys()).toEqual([22, 24, 38, 46, 54, 62]);
  // The last one is nowhere near it yet.
  expect(await numbers('Parcel 6')).toBe(far);
  await page.getByTestId('lane-Parcel 1').getByText('Parcel 1').click();
  await page.getByLabel('Starts later by, frames').fill('3');
  await page.keyboard.press('Enter');
  now = await newer(page, now);
  expect(await starts()).toEqual([3, 5, 19, 27, 35, 43]);
  expect(await keys()).toEqual([25, 27, 41, 49, 57, 65]);

  // What is set on one holds for all; one cell is too few, and the advice offers more.
  await page.getByLabel('Cells along it').fill('1');
  await page.keyboard.press('Enter');
  now = await newer(page, now);
  expect((await bodies()).map((p) => p.cells)).toEqual([1, 1, 1, 1, 1, 1]);
  await page.getByRole('button', { name: /and \d+ more/ }).click();
  await page
    .getByRole('button', { name: /Finer cells: 2 along it/ })
    .first()
    .click();
  await newer(page, now);
  expect((await bodies()).map((p) => p.cells)).toEqual([2, 2, 2, 2, 2, 2]);
  const shot = await shotOf(page, id);
  await page.getByRole('link', { name: 'Hand off' }).click();
  expect(Buffer.from(await bakedGlb(page)).equals(await coreBake(shot))).toBe(true);
});

test('a skin is laid over a soft body that hangs on a string, breathes, and is seen to settle', async ({
  page,
}) => {
  const id = await freshShot(page, 'Leap', { range: { first: 0, last: 20 }, parts: {} });
  await page.goto(`/shot/${id}/tune?frame=16`);
  const first = await run(page);
  await page.getByRole('tab', { name: 'Meshes' }).click();
  await page.getByRole('option', { name: /mailbag mesh/ }).click();
  await page.getByRole('button', { name: 'Make soft body' }).click();
  let now = await newer(page, first);
  const hang = page.getByRole('combobox', { name: 'Hang on a joint' });
  await hang.fill('strap 3');
  await page.getByRole('option', { name: 'strap 3', exact: true }).click();
  now = await newer(page, now);
  await expect(page.getByRole('group', { name: 'String to strap 3' })).toBeVisible();
  await page
    .getByRole('option', { name: /strap mesh|bell mesh/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Lay over soft bodies' }).click();
  now = await newer(page, now);
  await expect(page.getByRole('group', { name: 'Lies over' }).getByLabel('Mailbag')).toBeChecked();
  await page.getByRole('button', { name: 'tune it', exact: true }).click();
  await page.getByRole('group', { name: 'Breathe by' }).getByRole('button', { name: 'volume' }).click();
  now = await newer(page, now);
  await expect(page.getByRole('group', { name: 'Mailbag, volume' })).toBeVisible();
  await page.getByRole('tab', { name: 'World' }).click();
  await page.getByLabel('Frames to settle').fill('10');
  await page.keyboard.press('Enter');
  await newer(page, now);
  await saved(page);
  const shot = await shotOf(page, id);
  expect(shot.range.last).toBe(30);
  expect(
    Object.values(shot.parts)
      .map((p) => p.kind)
      .sort(),
  ).toEqual(['body', 'pendulum', 'skin']);
  await page.getByRole('link', { name: 'Hand off' }).click();
  await expect(page.getByLabel('Last frame to bake')).toHaveValue('20');
  expect(Buffer.from(await bakedGlb(page)).equals(await coreBake(shot))).toBe(true);
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
  await expect(lane).not.toHaveText(before ?? '');
  await saved(page);
  const shot = await shotOf(page, id);
  expect(clothOf(shot).settings.float).toBeGreaterThan(4);
  expect(clothOf(shot).holds.length).toBe(1);
  await page.getByRole('link', { name: 'Hand off' }).click();
  expect(Buffer.from(await bakedGlb(page)).equals(await coreBake(shot))).toBe(true);
});
