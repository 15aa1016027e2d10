import { expect, test, type Locator, type Page } from '@playwright/test';
import { validateBytes } from 'gltf-validator';
import { openContainer } from '@oscillum/core/gltf';
import { bytesOf, freshShot, keysOf, play, saved } from './desk';

async function pick(page: Page, name: string, add: boolean): Promise<void> {
  await page.getByLabel('Search joints').fill(name);
  await page
    .getByRole('treeitem', { name: new RegExp(`^${name}`) })
    .first()
    .click({ modifiers: add ? ['Shift'] : [] });
}
/** Drags something up or down by so many pixels. */
async function dragTo(page: Page, what: Locator, down: number): Promise<void> {
  await what.scrollIntoViewIfNeeded();
  const at = (await what.boundingBox())!;
  const [x, y] = [at.x + at.width / 2, at.y + at.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x, y + down, { steps: 4 });
  await page.mouse.up();
}
const box = (page: Page, label: string) => page.getByLabel(label, { exact: true });

test('one breath lifts belly, chest and wings, each later; fitted by its peak and lag, baked and played elsewhere', async ({
  page,
}) => {
  const id = await freshShot(page, 'Lookout');
  await page.goto(`/shot/${id}/tune`);
  await expect(page.getByRole('region', { name: 'Lanes' })).toBeVisible();
  await pick(page, 'belly', false);
  await pick(page, 'chest', true);
  await pick(page, 'wing left', true);
  await page.getByRole('button', { name: 'Breathe', exact: true }).click();
  await expect(page.getByTestId('lane-Breath')).toContainText('trails by up to');

  // Each comes later than the last, and nothing bounces.
  const lag = async (what: string) => Number(await box(page, `Lag of ${what}`).inputValue());
  await expect(box(page, 'Lag of belly, scaled')).not.toHaveValue('');
  const lags = [await lag('belly, scaled'), await lag('chest, turned'), await lag('wing left, turned')];
  expect(lags[1]! - lags[0]!).toBeCloseTo(3, 0);
  expect(lags[2]! - lags[1]!).toBeCloseTo(3, 0);
  await expect(page.getByLabel('No overshoot')).toBeChecked();

  // A peak is asked for and met; past a limit the miss is said.
  await box(page, 'Peak of chest, turned').fill('-5');
  await page.keyboard.press('Enter');
  await expect(box(page, 'Peak of chest, turned')).toHaveValue('-5');
  await page.getByRole('button', { name: /chest, turned/ }).click();
  await page.getByLabel('Lower limit', { exact: true }).fill('-6');
  await page.keyboard.press('Enter');
  await box(page, 'Peak of chest, turned').fill('-9');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Its limit is -6')).toBeVisible();
  await expect
    .poll(async () => Number(await box(page, 'Peak of chest, turned').inputValue()))
    .toBeGreaterThan(-6);
  await box(page, 'Lag of chest, turned').fill('20');
  await page.keyboard.press('Enter');
  await expect(box(page, 'Lag of chest, turned')).toHaveValue('20');
  await box(page, 'Lag of belly, scaled').fill('1');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/It cannot come sooner/)).toBeVisible();

  // The ring on the curve does the same by hand.
  const ring = page
    .getByRole('group', { name: 'wing left, turned' })
    .getByRole('slider', { name: 'Peak and lag' });
  // The whole shot has answered what was asked before.
  await expect(box(page, 'Lag of wing left, turned')).not.toHaveValue('');
  await expect(box(page, 'Peak of wing left, turned')).not.toHaveValue('0');
  const before = Number(await box(page, 'Peak of wing left, turned').inputValue());
  await ring.focus();
  await page.keyboard.press('ArrowUp');
  await expect
    .poll(async () => Number(await box(page, 'Peak of wing left, turned').inputValue()))
    .toBeLessThan(before);
  const after = await box(page, 'Peak of wing left, turned').inputValue();

  // The grip at the edge of the card draws a limit that is never passed; back at the edge there is none.
  const wing = page.getByRole('group', { name: 'wing left, turned' });
  const grip = wing.getByRole('slider', { name: 'Lower limit, drawn' });
  await grip.focus();
  await page.keyboard.press('ArrowUp');
  await expect(grip).not.toHaveAttribute('aria-valuetext', 'none');
  const limit = Number(await grip.getAttribute('aria-valuetext'));
  expect(limit).toBeLessThan(0);
  await dragTo(page, grip, -15);
  const higher = Number(await grip.getAttribute('aria-valuetext'));
  expect(higher).toBeGreaterThan(limit);
  await expect
    .poll(async () => Number(await box(page, 'Peak of wing left, turned').inputValue()))
    .toBeGreaterThan(higher);
  await grip.press('Delete');
  await expect(grip).toHaveAttribute('aria-valuetext', 'none');
  await expect(box(page, 'Peak of wing left, turned')).toHaveValue(String(after));

  // The breath itself is drawn: a key is dragged, and says where to.
  const drawn = await keysOf(page, 'Signal');
  const key = page.getByRole('group', { name: 'Signal, by frame' }).getByRole('slider', { name: 'Point 2' });
  await dragTo(page, key, 20);
  await expect.poll(() => keysOf(page, 'Signal')).not.toEqual(drawn);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(() => keysOf(page, 'Signal')).toEqual(drawn);
  for (let n = 0; n < 3; n++) await page.getByRole('button', { name: 'Undo' }).click();
  await expect(box(page, 'Peak of wing left, turned')).toHaveValue(String(after));

  // Undo names it; it is saved; a reload has it.
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(box(page, 'Peak of wing left, turned')).toHaveValue(String(before));
  await saved(page);

  // Baked with all else, and played by another player: the chest carries the head along, the belly swells.
  await page.getByRole('link', { name: 'Hand off' }).click();
  await page.getByLabel('Name of the new clip').fill('Lookout, breathing');
  await page.getByRole('button', { name: 'Bake', exact: true }).click();
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Download GLB' }).click(),
  ]);
  const bytes = await bytesOf(file);
  expect((await validateBytes(bytes)).issues.messages).toEqual([]);
  const at = await play(bytes);
  expect(at('Lookout', 2, 'head').distanceTo(at('Lookout, breathing', 2, 'head'))).toBeGreaterThan(0.005);
  const { json } = openContainer(new Uint8Array(bytes), 'baked.glb');
  const clip = json.animations!.find((c) => c.name === 'Lookout, breathing')!;
  const belly = json.nodes!.findIndex((n) => n.name === 'belly');
  expect(clip.channels.some((c) => c.target.node === belly && c.target.path === 'scale')).toBe(true);
});
