import { expect, test } from '@playwright/test';
import { clothOf, leash, part, shotOf } from './clothShots';
import { chooseJoint, freshShot, newer, run, saved } from './desk';

test('a piece of a mesh becomes cloth, is tinted within its leash, and is tied', async ({ page }) => {
  const id = await freshShot(page, 'Stride away', { range: { first: 0, last: 8 } });
  await page.goto(`/shot/${id}/tune`);
  let seen = await run(page);
  await page.getByRole('tab', { name: 'Meshes' }).click();
  await page.getByRole('option', { name: /body mesh/ }).click();
  await page.getByRole('option', { name: /piece 2, thigh left/ }).click();
  await expect(page.getByText('the rest stays as it is')).toBeVisible();
  await page.getByRole('button', { name: 'Make cloth' }).click();
  seen = await newer(page, seen);
  await expect(page.getByTestId('lane-Thigh left')).toContainText('off its skin by');
  const free = await leash(page, id);
  expect(free.filter((s) => s === 1).length).toBe(252);
  expect(free.filter((s) => s === 0).length).toBe(free.length - 252);
  const { colliders } = await shotOf(page, id);
  const mesh = Object.values(colliders).find((c) => c.shape.kind === 'mesh')!.shape;
  expect(mesh).toMatchObject({ part: { region: { by: 'piece', piece: 1 }, only: false } });

  // A tint changes what is drawn; that of the leash draws it as a shell too.
  const limits = page.getByRole('button', { name: /Limits/ });
  if ((await limits.getAttribute('aria-expanded')) === 'false') await limits.click();
  await page.getByLabel('Leash value', { exact: true }).fill('6');
  await page.keyboard.press('Enter');
  seen = await newer(page, seen);
  const stage = page.getByTestId('stage');
  let picture = await stage.screenshot();
  for (const tint of ['contact', 'leash']) {
    await page.getByRole('button', { name: tint, exact: true }).click();
    let next = picture;
    await expect.poll(async () => (next = await stage.screenshot()).equals(picture)).toBe(false);
    picture = next;
  }

  await chooseJoint(page, 'to a joint', 'wing tip left');
  await newer(page, seen);
  await expect(page.getByRole('group', { name: 'Tie 1' })).toContainText('wing tip left');
  await saved(page);
  const tied = clothOf(await shotOf(page, id)).ties;
  expect(tied).toMatchObject([
    { what: { by: 'rim' }, to: { by: 'joint', joint: { name: 'wing tip left' } } },
  ]);
});

test('a hand takes hold of a cloth on the stage, and its pull is kept and let go', async ({ page }) => {
  const id = await part(page, 'Brindle, Walk in a poncho', { first: 0, last: 40 });
  await page.goto(`/shot/${id}/tune`);
  const first = await run(page);
  await page.getByTestId('lane-Poncho').click({ position: { x: 40, y: 12 } });
  await page.getByRole('button', { name: 'Shake', exact: true }).click();
  const box = (await page.getByTestId('stage').boundingBox())!;
  const [x, y] = [box.x + 0.42 * box.width, box.y + 0.58 * box.height];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x - 30, y + 20, { steps: 4 });
  // It plays while the hand holds: the shot answers as frames go by.
  await newer(page, first);
  await page.mouse.move(x - 60, y - 20, { steps: 4 });
  await page.mouse.up();
  const card = page.getByRole('region', { name: 'Shaken by hand' });
  await expect(card).toContainText('Poncho shaken on frames');
  await card.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByText('1 pull by hand')).toBeVisible();
  await saved(page);
  const [pull] = clothOf(await shotOf(page, id)).pulls;
  expect(pull!.path.length).toBeGreaterThan(1);
  expect(pull!.reach).toBeGreaterThan(0.01);
  await page.getByRole('button', { name: 'let them go' }).click();
  await expect(page.getByText('1 pull by hand')).toBeHidden();
});
