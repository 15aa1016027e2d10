import AxeBuilder from '@axe-core/playwright';
import { expect, test } from '@playwright/test';
import { laneNumbers } from './desk';

const faults = async (page: Parameters<typeof laneNumbers>[0]) => {
  const { violations } = await new AxeBuilder({ page }).analyze();
  return violations.map(
    (v) => `${v.id}: ${v.help} — ${v.nodes.map((n) => n.html.slice(0, 120)).join(' | ')}`,
  );
};

test('axe finds nothing: library, Prepare, Tune with its panels, Refine, Hand off, by day and by night', async ({
  page,
}) => {
  await page.goto('/');
  await expect(page.getByText('Brindle, Stride away')).toBeVisible();
  expect.soft(await faults(page)).toEqual([]);
  await page.goto('/shot/demoshot0001/prepare');
  await expect(page.getByTestId('stage')).toHaveAttribute('data-drawn-frame', /\d/);
  expect.soft(await faults(page)).toEqual([]);
  await page.getByRole('treeitem', { name: /^neck/ }).click();
  await page.getByRole('button', { name: 'turn', exact: true }).click();
  await page.getByRole('button', { name: 'Add joints to a mesh' }).click();
  expect.soft(await faults(page)).toEqual([]);
  await page.keyboard.press('Control+z');
  await page.goto('/shot/demoshot0001/tune');
  await laneNumbers(page, 'Crest');
  await page.getByRole('button', { name: 'Select Crest' }).click();
  await page.getByRole('button', { name: 'More of Hold' }).click();
  await page.getByRole('button', { name: 'base', exact: true }).click();
  await expect(page.getByRole('slider', { name: 'Point 1' })).toBeVisible();
  expect.soft(await faults(page)).toEqual([]);
  await page.getByRole('button', { name: 'Show ▾' }).click();
  await expect(page.getByLabel(/Nearby frames/)).toBeVisible();
  expect.soft(await faults(page)).toEqual([]);
  await page.keyboard.press('Escape');
  await page.keyboard.press('n');
  expect.soft(await faults(page)).toEqual([]);
  await page.getByRole('tab', { name: 'World' }).click();
  await page.getByRole('button', { name: '+ sphere' }).click();
  await page.getByRole('button', { name: '+ wind' }).click();
  await page.getByRole('button', { name: 'Who touches whom' }).click();
  await expect(page.getByRole('checkbox', { name: 'Crest touches Sphere' })).toBeVisible();
  expect.soft(await faults(page)).toEqual([]);
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  expect.soft(await faults(page)).toEqual([]);
  await page.getByRole('tab', { name: 'Takes' }).click();
  expect.soft(await faults(page)).toEqual([]);
  await page.goto('/shot/demoshot0001/refine');
  await page.getByRole('button', { name: 'Smooth' }).click();
  await expect(page.getByRole('button', { name: 'Apply', exact: true })).toBeVisible();
  expect.soft(await faults(page)).toEqual([]);
  await page.getByRole('button', { name: 'Apply', exact: true }).click();
  await expect(page.getByRole('listitem').filter({ hasText: /^Smooth/ })).toBeVisible();
  expect.soft(await faults(page)).toEqual([]);
  await page.keyboard.press('Control+z');
  await page.goto('/shot/demoshot0001/hand-off');
  await expect(page.getByRole('button', { name: /^Bake/ })).toBeVisible();
  expect.soft(await faults(page)).toEqual([]);
});
