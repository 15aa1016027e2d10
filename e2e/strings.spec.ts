import { expect, test } from '@playwright/test';
import { validateBytes } from 'gltf-validator';
import { bakedGlb, clothOf, coreBake, part, shotOf } from './clothShots';
import { newer, run, saved } from './desk';

test('the cords of a hoist go round with its drums, one is made anew from its lines, and they are baked as the core bakes', async ({
  page,
}) => {
  const id = await part(page, 'Mail hoist, Four turns', { first: 0, last: 90 }, {});
  await page.goto(`/shot/${id}/tune?parts=cordleft&frame=60`);
  let now = await run(page);
  const lane = page.getByTestId('lane-Cord left').getByTestId('lane-numbers');
  await expect(lane).toContainText(/off its skin by .*, pulls with up to 0\.\d+ N/);
  // On its drums it falls off nothing.
  await expect(page.getByText('falls off the figure')).toBeHidden();
  const gripped = await lane.textContent();
  await page.getByLabel('Friction', { exact: true }).fill('0');
  await page.keyboard.press('Enter');
  now = await newer(page, now);
  await expect(lane).not.toHaveText(gripped ?? '');
  await page.getByRole('button', { name: 'Cord', exact: true }).click();
  now = await newer(page, now);

  // Made anew of its lines it is a cord as thick as its lines ask for, and lies on the drums that are there.
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  now = await newer(page, now);
  await page.getByRole('tab', { name: 'Meshes' }).click();
  await page.getByRole('option', { name: /cord left mesh/ }).click();
  await page.getByRole('button', { name: 'Make string' }).click();
  now = await newer(page, now);
  await expect(page.getByText('falls off the figure')).toBeHidden();
  await page.getByRole('button', { name: 'Beads', exact: true }).click();
  now = await newer(page, now);
  await page.getByRole('button', { name: 'Cord', exact: true }).click();
  await newer(page, now);
  await saved(page);
  const shot = await shotOf(page, id);
  const others = Object.fromEntries(Object.entries(shot.parts).filter(([id]) => id !== 'cordright'));
  expect(clothOf({ ...shot, parts: others }).settings.thickness).toBeCloseTo(0.007, 3);
  await page.getByRole('link', { name: 'Hand off' }).click();
  const bytes = await bakedGlb(page);
  expect((await validateBytes(bytes)).issues.messages).toEqual([]);
  expect(Buffer.from(bytes).equals(await coreBake(shot))).toBe(true);
});
