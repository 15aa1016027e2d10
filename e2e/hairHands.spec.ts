import { expect, test } from '@playwright/test';
import { minds } from '@oscillum/core/model';
import type { StrandsPart } from '@oscillum/core/strands';
import { demoFiles } from '@oscillum/demo';
import { shotOf } from './clothShots';
import { freshShot, newer, run, saved } from './desk';

/** The fringe of the demo as it looks out, on its first frames. */
async function fringe(more: Partial<StrandsPart> = {}) {
  const shots = (await demoFiles()).flatMap((f) => f.shots);
  const { parts, colliders } = shots.find((s) => s.name === 'Brindle, Lookout in down')!;
  const [id, down] = Object.entries(parts)[0]!;
  return { parts: { [id]: { ...down, ...more } }, colliders, range: { first: 0, last: 40 } };
}
const hairOf = (shot: { parts: object }) => (shot.parts as { down: StrandsPart }).down;

test('hair is combed on one frame, and hold and bend are fitted to how it was combed', async ({ page }) => {
  const id = await freshShot(page, 'Lookout', await fringe({ keepsGroom: false }));
  await page.goto(`/shot/${id}/tune?parts=down&frame=20`);
  const first = await run(page);
  await page.getByRole('button', { name: 'comb a pose on frame 20' }).click();
  const bar = page.getByRole('region', { name: 'Brush hair' });
  await expect(bar.getByRole('button', { name: 'this frame' })).toHaveAttribute('aria-pressed', 'true');
  // What changes guides themselves is for the groom.
  await expect(bar.getByRole('button', { name: 'cut' })).toBeDisabled();
  await bar.getByLabel('Radius, px').fill('80');
  await page.keyboard.press('Enter');
  const before = hairOf(await shotOf(page, id));
  const box = (await page.getByTestId('stage').boundingBox())!;
  const [x, y] = [box.x + 0.4 * box.width, box.y + 0.5 * box.height];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x - 10, y + 30, { steps: 6 });
  await page.mouse.up();
  await newer(page, first);
  await saved(page);
  const { poses, groom } = hairOf(await shotOf(page, id));
  expect(poses).toHaveLength(1);
  expect(poses[0]).toMatchObject({ frame: 20, easeIn: 6, easeOut: 6 });
  expect(groom).toEqual(before.groom);
  expect(poses[0]!.groom.places).not.toEqual(groom.places);
  await bar.getByRole('button', { name: 'done' }).click();
  const pose = page.getByRole('group', { name: 'Pose on frame 20' });
  await pose.getByRole('button', { name: 'fit hold and bend to it' }).click();
  await expect(page.getByText(/it hangs [\d.]+° off, [\d.]+° before/)).toBeVisible({ timeout: 30_000 });
  await saved(page);
  const fitted = hairOf(await shotOf(page, id));
  expect([fitted.settings.hold, fitted.settings.bend]).not.toEqual([
    before.settings.hold,
    before.settings.bend,
  ]);
  await pose.getByRole('button', { name: 'Remove the pose on frame 20' }).click();
  await expect(pose).toBeHidden();
});

test('a hand takes hold of hair on the stage, and its pull is kept', async ({ page }) => {
  const id = await freshShot(page, 'Lookout', await fringe());
  await page.goto(`/shot/${id}/tune?parts=down&frame=0`);
  const first = await run(page);
  await page.getByRole('button', { name: 'Shake', exact: true }).click();
  const box = (await page.getByTestId('stage').boundingBox())!;
  const [x, y] = [box.x + 0.39 * box.width, box.y + 0.51 * box.height];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x - 30, y + 20, { steps: 4 });
  await newer(page, first);
  await page.mouse.move(x - 60, y - 20, { steps: 4 });
  await page.mouse.up();
  const card = page.getByRole('region', { name: 'Shaken by hand' });
  await expect(card).toContainText('Fringe of down shaken on frames');
  await card.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByText('1 pull by hand')).toBeVisible();
  await saved(page);
  const [pull] = hairOf(await shotOf(page, id)).pulls;
  expect(pull!.path.length).toBeGreaterThan(1);
  expect(pull!.reach).toBeGreaterThan(0.005);
});

test('the fringe and the poncho are made to push each other, and what goes through it is said', async ({
  page,
}) => {
  const down = await fringe();
  const shots = (await demoFiles()).flatMap((f) => f.shots);
  const { parts, colliders } = shots.find((s) => s.name === 'Brindle, Walk in a poncho')!;
  const id = await freshShot(page, 'Lookout', {
    parts: { ...down.parts, ...parts },
    colliders: { ...down.colliders, ...colliders },
    range: { first: 0, last: 20 },
  });
  await page.goto(`/shot/${id}/tune?parts=down`);
  const first = await run(page);
  const lane = page.getByTestId('lane-Fringe of down').getByTestId('lane-numbers');
  await expect(lane).toContainText('pulled with up to', { timeout: 60_000 });
  await page
    .getByRole('group', { name: 'Collides with parts' })
    .getByRole('checkbox', { name: 'Poncho' })
    .check();
  await newer(page, first);
  await expect(page.getByText(/guides of Fringe of down go through a cloth on frame 0/)).toBeVisible({
    timeout: 60_000,
  });
  await saved(page);
  expect(minds(hairOf(await shotOf(page, id)).collidesWith.parts, 'poncho')).toBe(true);
});
