import { expect, test } from '@playwright/test';
import { goatGlb } from '@oscillum/demo';
import { validateBytes } from 'gltf-validator';
import { bytesOf, dropFile, newer, play, run } from './desk';

test('a newcomer on a rig nobody has seen: five chains, contact, wind and a bake in nine presses at most', async ({
  page,
}) => {
  // Every press of the mouse and of a key is counted; dropping the file is one more, which no build can spare.
  await page.addInitScript(() => {
    const count = () =>
      sessionStorage.setItem('presses', String(1 + Number(sessionStorage.getItem('presses'))));
    for (const kind of ['pointerdown', 'keydown']) addEventListener(kind, count, true);
  });
  await page.goto('/');
  await dropFile(page, 'goat.glb', await goatGlb());
  await expect(page).toHaveURL(/prepare/);
  await page.getByRole('link', { name: 'Tune' }).click();
  // What only rides along is offered by name, legs are not, and one press makes it move.
  await expect(page.getByRole('region', { name: 'First chains' })).toContainText('tail');
  await page.getByRole('button', { name: 'Make 5 chains' }).click();
  let now = await run(page);
  await page.getByRole('tab', { name: 'World' }).click();
  await page.getByRole('button', { name: 'Fit the body' }).click();
  now = await newer(page, now);
  await page.getByRole('button', { name: '+ wind' }).click();
  await newer(page, now);
  await page.getByRole('link', { name: 'Hand off' }).click();
  const made = await page.getByLabel('Name of the new clip').inputValue();
  await page.getByRole('button', { name: 'Bake', exact: true }).click();
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Download GLB' }).click();
  const baked = await bytesOf(await download);
  const presses = await page.evaluate(() => Number(sessionStorage.getItem('presses')));
  test.info().annotations.push({ type: 'presses', description: String(presses) });
  expect(presses).toBeLessThanOrEqual(9);

  expect((await validateBytes(baked)).issues).toMatchObject({ numErrors: 0, numWarnings: 0 });
  const at = await play(baked);
  for (const tip of ['ear_left_3', 'ear_right_3', 'beard_3', 'bell_strap_3', 'tail_4']) {
    const moves = [20, 40, 60, 80].map((f) =>
      at('Look about', f / 30, tip).distanceTo(at(made, f / 30, tip)),
    );
    expect(Math.max(...moves), tip).toBeGreaterThan(0.002);
  }
});
