import { expect, test } from '@playwright/test';
import { pointSpans, sizesOf, type Frames } from '@oscillum/core/frames';
import { readGltf } from '@oscillum/core/gltf';
import type { Shot } from '@oscillum/core/shot';
import { simulateAll } from '@oscillum/core/simulate';
import { demoFiles } from '@oscillum/demo';
import { shotOf } from './clothShots';
import { freshShot, newer, run, saved } from './desk';

/** The fringe of the demo, on a clip and some frames of it. */
async function fringe(more: object): Promise<Partial<Shot>> {
  const shots = (await demoFiles()).flatMap((f) => f.shots);
  const { parts, colliders } = shots.find((s) => s.name === 'Brindle, Lookout in down')!;
  return { parts, colliders, ...more } as Partial<Shot>;
}

/** Places of all points of its guides on a frame, m. */
function placesOn(frames: Frames, f: number): Float32Array {
  const [span] = pointSpans(frames, 0);
  const wide = sizesOf(frames).points;
  return frames.points.slice(3 * (f * wide + span!.from), 3 * (f * wide + span!.to));
}

test('hair on a character that is ten times as large takes the same shapes where one press keeps its feel', async ({
  page,
}) => {
  const id = await freshShot(page, 'Lookout', await fringe({ range: { first: 0, last: 24 }, substeps: 8 }));
  await page.goto(`/shot/${id}/prepare`);
  await expect(page.getByLabel('Metres per unit')).toBeVisible();
  const small = await shotOf(page, id);
  await page.getByLabel('Metres per unit').fill(String(10 * small.character.metresPerUnit));
  await page.keyboard.press('Enter');
  await expect(page.getByText('10 times as large')).toBeVisible();
  await page.getByRole('button', { name: 'keep the feel at this size' }).click();
  await expect(page.getByText('10 times as large')).toBeHidden();
  await saved(page);
  const large = await shotOf(page, id);
  expect(large.gravity[1]).toBeCloseTo(10 * small.gravity[1], 6);
  const [brindle] = await demoFiles();
  const character = readGltf(brindle!.bytes, 'brindle.glb');
  const [a, b] = [small, large].map((s) => placesOn(simulateAll(character, s), 24));
  // A guide is 6 cm long and more: a hundredth of that at a tenth of the size.
  for (let o = 0; o < a!.length; o++) expect(Math.abs(b![o]! / 10 - a![o]!)).toBeLessThan(6e-4);
});

test('a head of 200 guides is looked at slowly from three sides, and played on all clips, of which one is opened', async ({
  page,
}) => {
  const id = await freshShot(page, 'Lookout', {
    ...(await fringe({ range: { first: 0, last: 40 } })),
    parts: {},
  });
  await page.goto(`/shot/${id}/tune?frame=18`);
  const first = await run(page);
  await page.getByRole('tab', { name: 'Meshes' }).click();
  await page.getByRole('option', { name: /fringe scalp/ }).click();
  await page.getByRole('button', { name: 'Grow hair' }).click();
  const grown = await newer(page, first);
  await page.getByLabel('Guides', { exact: true }).fill('200');
  await page.keyboard.press('Enter');
  await newer(page, grown);
  const lane = page.getByTestId('lane-Fringe scalp hair').getByTestId('lane-numbers');
  await expect(lane).toContainText(/off its groom by .*, up to .* m\/s/);
  // From three sides, slowly.
  await page.getByRole('button', { name: '¼' }).click();
  for (const side of ['Side', 'Front', 'Above']) {
    await page.getByRole('button', { name: side, exact: true }).click();
    await expect(page.getByTestId('stage')).toHaveAttribute('data-drawn-whole', 'true');
  }
  await saved(page);
  await page.getByRole('button', { name: 'All clips' }).click();
  const strip = page.getByRole('region', { name: 'All clips' });
  await expect(strip.getByRole('button', { name: /off on frame/ })).toHaveCount(4, { timeout: 120_000 });
  const leap = strip.getByRole('button', { name: /Leap/ });
  await leap.click();
  await expect(page).not.toHaveURL(new RegExp(id));
  await expect(page.getByTestId('lane-Fringe scalp hair')).toBeVisible();
});
