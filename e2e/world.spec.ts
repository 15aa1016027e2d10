import { expect, test } from '@playwright/test';
import { dragSlider, keysOf, laneNumbers, newer, run, saved, setKeys } from './desk';

test('colliders fitted, wind, a remedy, a profile, keys, an anchor pose and a feel: the shot answers each', async ({
  page,
}) => {
  await page.goto('/shot/demoshot0002/tune');
  const lane = 'Lappet, right';
  const still = await laneNumbers(page, lane);
  let now = await run(page);

  await page.getByRole('tab', { name: 'World' }).click();
  await page.getByRole('button', { name: 'Fit the body' }).click();
  now = await newer(page, now);
  await expect(page.getByText('on head')).toBeVisible();
  const touched = await laneNumbers(page, lane);
  expect(touched.degrees).not.toBe(still.degrees);

  // What is wrong is said with its cure, which one press applies and undo takes back.
  const advice = page.getByRole('list', { name: 'Advice' });
  const inside = advice.getByRole('listitem').filter({ hasText: 'Lappet, right begins' });
  await page.getByRole('button', { name: /^and \d+ more/ }).click();
  await inside.getByRole('button').click();
  await expect(inside).toHaveCount(0);
  now = await newer(page, now);
  await page.keyboard.press('Control+z');
  await expect(inside).toHaveCount(1);
  now = await newer(page, now);

  await page.getByRole('button', { name: '+ wind' }).click();
  now = await newer(page, now);
  await page.getByRole('textbox', { name: 'Speed', exact: true }).fill('15');
  await page.keyboard.press('Enter');
  now = await newer(page, now);
  expect((await laneNumbers(page, 'Crest, left')).degrees).toBeGreaterThan(0);

  await page.getByRole('button', { name: 'Select Crest, front' }).click();
  await page.getByRole('tab', { name: 'Parts' }).click();
  await expect(page.getByRole('group', { name: 'Feel' }).getByLabel('Lag', { exact: true })).toHaveValue(
    /^\d/,
  );
  const before = await laneNumbers(page, 'Crest, front');
  await page.getByRole('button', { name: 'More of Hold' }).click();
  await page.getByTitle('Most at the root, falling to the tip').click();
  now = await newer(page, now);
  expect((await laneNumbers(page, 'Crest, front')).degrees).not.toBe(before.degrees);
  const point = page.getByRole('slider', { name: 'Point 3' });
  await point.focus();
  await page.keyboard.press('ArrowDown');
  now = await newer(page, now);
  await expect(point).toHaveAttribute('aria-valuetext', '0.15 times at 100 % of the length');
  await page.keyboard.press('Control+z');
  await expect(point).toHaveAttribute('aria-valuetext', '0.2 times at 100 % of the length');
  now = await newer(page, now);

  // Keys: on this frame by one press, others on the curve; a keyed setting's slider moves the key of the frame.
  const keys = () => keysOf(page, 'Hold over time');
  await page.getByRole('button', { name: 'Key Hold' }).click();
  await expect.poll(keys).toEqual([expect.stringMatching(/ Hz on frame 0$/)]);
  await page.getByLabel('Hold value').fill('4');
  await page.keyboard.press('Enter');
  await setKeys(page, 'Hold over time', [[40, 6]]);
  await expect.poll(keys).toEqual(['4 Hz on frame 0', '6 Hz on frame 40']);
  now = await newer(page, now);
  await dragSlider(page, 'Hold', 0.5);
  await expect.poll(keys).toEqual(['2 Hz on frame 0', '6 Hz on frame 40']);
  now = await newer(page, now);
  await page.keyboard.press('Control+z');
  await expect.poll(keys).toEqual(['4 Hz on frame 0', '6 Hz on frame 40']);
  now = await newer(page, now);
  await page.getByLabel('Anchor poses').fill('40:10/10');
  await page.keyboard.press('Enter');
  now = await newer(page, now);

  // Asking for a feel finds the settings for it.
  const hold = page.getByLabel('Hold value');
  const held = await hold.inputValue();
  await page.getByRole('group', { name: 'Feel' }).getByLabel('Lag', { exact: true }).fill('3');
  await page.keyboard.press('Enter');
  await expect(hold).not.toHaveValue(held);
  await newer(page, now);
  await saved(page);
  await page.reload();
  await expect(page.getByLabel('Anchor poses')).toHaveValue('40:10/10');
});
