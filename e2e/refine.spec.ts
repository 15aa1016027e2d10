import { expect, test, type Page } from '@playwright/test';
import { curveKeys, dragSlider, freshShot, keyAt, takeSpan } from './desk';

/** Turn of the tip joint on the frame shown, as the chosen key says it. */
const keyValue = async (page: Page, axis: string) =>
  Number(await page.getByRole('textbox', { name: `${axis} of the key` }).inputValue());

async function openLappet(page: Page): Promise<void> {
  const id = await freshShot(page, 'Lookout');
  await page.goto(`/shot/${id}/refine`);
  await page.getByRole('button', { name: 'Unfold Lappet, left' }).click();
  await page.getByRole('button', { name: 'lappet left 2', exact: true }).click();
  await page.getByLabel('Reduce keys').selectOption('cubic');
  await curveKeys(page);
}

test('keys are chosen, dragged, typed, given slopes and deleted, each to be undone by its name', async ({
  page,
}) => {
  await openLappet(page);
  const before = await curveKeys(page);
  const field = page.getByRole('application', { name: /Keys and curves/ });

  // Dragged: to the right in time, up in value.
  const key = await keyAt(page, 6, 0);
  await page.mouse.click(key.x, key.y);
  await expect(field).toHaveAttribute('data-chosen', '1');
  const frame = Number(await page.getByRole('textbox', { name: 'Frame of the key' }).inputValue());
  const value = await keyValue(page, 'x');
  await page.mouse.move(key.x, key.y);
  await page.mouse.down();
  await page.mouse.move(key.x + 6, key.y - 30, { steps: 6 });
  await page.mouse.up();
  await expect(page.getByRole('textbox', { name: 'Frame of the key' })).toHaveValue(String(frame + 1));
  expect(await keyValue(page, 'x')).toBeGreaterThan(value + 2);
  expect(await curveKeys(page)).not.toBe(before);
  await page.keyboard.press('Control+z');
  await expect.poll(() => curveKeys(page)).toBe(before);

  // Typed.
  await page.mouse.click(key.x, key.y);
  await page.getByRole('textbox', { name: 'x of the key' }).fill('12');
  await page.keyboard.press('Enter');
  await expect.poll(() => keyValue(page, 'x')).toBeCloseTo(12, 1);

  // From the keyboard: one frame on, five degrees up, then taken out.
  await field.focus();
  await page.keyboard.press('ArrowRight');
  await expect(page.getByRole('textbox', { name: 'Frame of the key' })).toHaveValue(String(frame + 1));
  await page.keyboard.press('ArrowUp');
  await expect.poll(() => keyValue(page, 'x')).toBeCloseTo(13, 1);
  const steep = await curveKeys(page);
  await page.getByRole('group', { name: 'Slopes' }).getByRole('button', { name: 'Flat' }).click();
  await page.keyboard.press('Delete');
  await expect.poll(async () => (await curveKeys(page)).split(' ').length).toBe(steep.split(' ').length - 4);

  // A box takes many; copied ones come again at the frame shown.
  const box = (await field.boundingBox())!;
  await page.mouse.move(box.x + 0.4 * box.width, box.y + 18);
  await page.mouse.down();
  await page.mouse.move(box.x + 0.6 * box.width, box.y + box.height - 10, { steps: 5 });
  await page.mouse.up();
  expect(Number(await field.getAttribute('data-chosen'))).toBeGreaterThan(3);
  await page.keyboard.press('Control+c');
  await page.getByRole('slider', { name: 'Frame', exact: true }).click({ position: { x: 20, y: 10 } });
  const copied = await curveKeys(page);
  await field.focus();
  await page.keyboard.press('Control+v');
  await expect.poll(() => curveKeys(page)).not.toBe(copied);
  await page.keyboard.press('Control+Shift+V');

  const steps = page.getByRole('complementary', { name: 'Refine' }).getByRole('listitem');
  await expect(steps).toHaveCount(7);
  await expect(steps.nth(5)).toContainText(/^Paste \d+ keys of lappet left 2/);
  await expect(steps.last()).toContainText(/^Paste mirrored \d+ keys of lappet right 2/);
  for (let n = 7; n > 0; n--) {
    await page.keyboard.press('Control+z');
    await expect(steps).toHaveCount(n - 1);
  }
  await expect.poll(() => curveKeys(page)).toBe(before);
});

test('a shape is tried live, laid on, compared with the untouched bake, and stays on a bake that changes', async ({
  page,
}) => {
  await openLappet(page);
  const before = await curveKeys(page);
  await takeSpan(page, 0.5, 0.7);
  await page.getByRole('button', { name: 'Exaggerate' }).click();
  const first = await curveKeys(page);
  expect(first).not.toBe(before);
  await dragSlider(page, 'Times', 0.9);
  const more = await curveKeys(page);
  expect(more).not.toBe(first);
  // A press on a key chooses it; what is being tried is not laid on by that.
  const key = await keyAt(page, 3, 0);
  await page.mouse.click(key.x, key.y);
  await expect(page.getByText('Nothing yet.')).toBeVisible();
  await page.getByRole('button', { name: 'Cancel', exact: true }).click();
  await expect.poll(() => curveKeys(page)).toBe(before);
  await takeSpan(page, 0.5, 0.7);
  await page.getByRole('button', { name: 'Exaggerate' }).click();
  await dragSlider(page, 'Times', 0.9);
  const meant = await curveKeys(page);
  await page.getByRole('button', { name: 'Apply', exact: true }).click();
  await expect.poll(() => curveKeys(page)).toBe(meant);

  const untouched = page.getByRole('button', { name: 'Untouched bake' });
  await untouched.click();
  await expect.poll(() => curveKeys(page)).toBe(before);
  await untouched.click();
  await expect.poll(() => curveKeys(page)).toBe(meant);

  // Another bake under it: said, with the frames, and kept until told otherwise.
  await page.getByRole('link', { name: 'Tune' }).click();
  await page.getByRole('button', { name: 'Select Lappet, left' }).click();
  await dragSlider(page, 'Amount', 0.1);
  await page.getByRole('link', { name: 'Refine' }).click();
  const alert = page.getByRole('alert').filter({ hasText: 'The bake has changed' });
  await expect(alert).toContainText(/frames \d+–\d+: lappet left 2 is \d+° from what it was/);
  await expect(page.getByRole('listitem').filter({ hasText: /^Exaggerate/ })).toBeVisible();
  await alert.getByRole('button', { name: 'They fit' }).click();
  await expect(alert).toBeHidden();
  await expect(page.getByRole('listitem').filter({ hasText: /^Exaggerate/ })).toBeVisible();
});
