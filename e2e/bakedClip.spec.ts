import { expect, test } from '@playwright/test';
import { curveKeys, freshShot, laneNumbers, run, saved } from './desk';

test('a wing is baked into the clip, the clip is edited, a strap moves on top, and the wing is live again in one press', async ({
  page,
}) => {
  const id = await freshShot(page, 'Stride away', { parts: {} });
  await page.goto(`/shot/${id}/tune`);
  const make = async (search: string, joint: RegExp) => {
    await page.getByLabel('Search joints').fill(search);
    await page.getByRole('treeitem', { name: joint }).click();
    await page.getByRole('button', { name: 'Make chain' }).click();
    await page.getByLabel('Search joints').fill('');
  };
  await make('wing left', /wing left/);
  const wing = page.getByTestId('lane-Wing left');
  const live = await laneNumbers(page, 'Wing left');

  // Baked: the lane says so, and the shot is on another clip.
  await page.getByRole('button', { name: 'Bake into the clip' }).click();
  await expect(wing).toContainText(/baked: \d+ keys/);
  await expect(page.getByText('Baked into “Stride away with follow-through”')).toBeVisible();
  await saved(page);

  // The clip is edited, and what was edited becomes part of it.
  await page.getByRole('link', { name: 'Refine' }).click();
  await page.getByLabel('Search joints').fill('chest');
  await page.getByRole('button', { name: 'chest', exact: true }).click();
  const before = await curveKeys(page);
  await page.getByRole('button', { name: 'Smooth', exact: true }).click();
  await page.getByRole('button', { name: 'Apply', exact: true }).click();
  await expect.poll(() => curveKeys(page)).not.toBe(before);
  await page.getByRole('button', { name: 'Bake these into the clip' }).click();
  await expect(page.getByText('Nothing yet. What you do here')).toBeVisible();

  // A strap moves on top.
  await page.getByRole('link', { name: 'Tune' }).click();
  await expect(wing).toContainText(/baked: \d+ keys/);
  await make('strap', /strap 1/);
  expect((await laneNumbers(page, 'Strap')).degrees).toBeGreaterThan(1);

  // The wing again, as it was.
  await wing.getByRole('button', { name: 'Unmute Wing left' }).click();
  await run(page);
  const again = await laneNumbers(page, 'Wing left');
  expect(again.degrees).toBeGreaterThan(0.5 * live.degrees);
  await wing.getByRole('button', { name: 'Mute Wing left' }).click();
  await expect(wing).toContainText(/baked: \d+ keys/);

  // Undo goes back through all of it, to the clip of the file.
  for (let n = 0; n < 6; n++) await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Select Wing left' }).click();
  await expect(page.getByRole('button', { name: 'Bake into the clip' })).toBeVisible();
  expect((await laneNumbers(page, 'Wing left')).degrees).toBe(live.degrees);
});
