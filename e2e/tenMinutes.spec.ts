import { expect, test } from '@playwright/test';
import { validateBytes } from 'gltf-validator';
import { bytesOf, dropFile, laneNumbers, newer, play, run, setKeys } from './desk';
import { brindleGlb } from '@oscillum/demo';

test('ten minutes: five chains, colliders, wind, a profile, a keyed amount with an anchor pose, two takes, and a bake', async ({
  page,
}) => {
  test.setTimeout(300_000);
  await page.goto('/');
  await dropFile(page, 'courier.glb', await brindleGlb());
  await expect(page).toHaveURL(/prepare/);
  await page.getByLabel('Clip', { exact: true }).selectOption({ label: 'Stride away · 3.20 s' });
  await page.getByRole('link', { name: 'Tune' }).click();
  await expect(page.getByRole('region', { name: 'Lanes' })).toBeVisible();

  // The plume: three rows by a pattern, in one press. Crest and strap by name.
  const search = page.getByLabel('Search joints');
  await search.fill('plume * 1');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Make 3 chains' }).click();
  for (const row of ['crest front 1', 'strap 1']) {
    await search.fill(row);
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Make chain' }).click();
  }
  await laneNumbers(page, 'Strap');
  let now = await run(page);

  await page.getByRole('tab', { name: 'World' }).click();
  await page.getByRole('button', { name: 'Fit the body' }).click();
  now = await newer(page, now);
  await page.getByRole('button', { name: '+ wind' }).click();
  now = await newer(page, now);
  await page.getByRole('textbox', { name: 'Gusts', exact: true }).fill('0.8');
  await page.keyboard.press('Enter');
  now = await newer(page, now);

  // The plume limp toward its tip, coming home at the end.
  await page.getByRole('button', { name: 'Select Plume middle' }).click();
  await page.getByRole('tab', { name: 'Parts' }).click();
  await page.getByRole('button', { name: 'More of Hold' }).click();
  await page.getByTitle('Most at the root, falling to the tip').click();
  now = await newer(page, now);
  await page.getByRole('button', { name: 'More of Amount' }).click();
  await setKeys(page, 'Amount over time', [
    [0, 40],
    [24, 100],
  ]);
  now = await newer(page, now);
  await page.keyboard.press('End');
  await page.keyboard.press('p');
  now = await newer(page, now);

  // Two takes, and back to the better one.
  await page.getByRole('tab', { name: 'Takes' }).click();
  await page.getByRole('button', { name: 'Keep a take' }).click();
  await expect(page.getByLabel('Name of the take')).toHaveCount(1);
  const kept = await laneNumbers(page, 'Plume middle');
  await page.getByRole('tab', { name: 'Parts' }).click();
  await page.getByRole('button', { name: 'presets' }).click();
  await page.getByRole('menuitem', { name: /Stiff crest/ }).click();
  now = await newer(page, now);
  await page.getByRole('tab', { name: 'Takes' }).click();
  await page.getByRole('button', { name: 'Keep a take' }).click();
  await expect(page.getByLabel('Name of the take')).toHaveCount(2);
  await page.getByRole('button', { name: 'Restore' }).first().click();
  await newer(page, now);
  expect(await laneNumbers(page, 'Plume middle')).toEqual(kept);

  await page.getByRole('link', { name: 'Hand off' }).click();
  await page.getByLabel('Name of the new clip').fill('Blown');
  await page.getByRole('button', { name: 'Bake', exact: true }).click();
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Download GLB' }).click(),
  ]);
  const baked = await bytesOf(file);
  expect((await validateBytes(baked)).issues.messages).toEqual([]);
  // In another player the five rows move, and the plume meets its source on the last frame.
  const at = await play(baked);
  const apart = (joint: string, frame: number) =>
    at('Stride away', frame / 30, joint).distanceTo(at('Blown', frame / 30, joint));
  for (const tip of ['plume_middle_7', 'plume_left_7', 'plume_right_7', 'crest_front_4', 'mailbag'])
    expect(Math.max(...[20, 40, 60, 80].map((f) => apart(tip, f))), tip).toBeGreaterThan(0.002);
  expect(apart('plume_middle_7', 96)).toBeLessThan(1e-4);
});
