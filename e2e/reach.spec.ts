import { expect, test, type Page } from '@playwright/test';
import { readGltf } from '@oscillum/core/gltf';
import { makePose, samplePose } from '@oscillum/core/character';
import { quatAngle } from '@oscillum/core/math';
import { bytesOf, freshShot, keysOf, laneNumbers, newer, run, saved, setKeys } from './desk';

/** Where a handle stands on the page, by its name and which of its likes it is. */
async function handleAt(page: Page, name: RegExp, which: number): Promise<{ x: number; y: number }> {
  const stage = page.getByTestId('stage');
  const found = async () =>
    ((await stage.getAttribute('data-handles')) ?? '').split('; ').filter((t) => name.test(t));
  await expect.poll(async () => (await found()).length).toBeGreaterThan(which);
  const [, x, y] = /(-?[\d.]+) (-?[\d.]+)$/.exec((await found())[which]!)!;
  const box = (await stage.boundingBox())!;
  return { x: box.x + Number(x), y: box.y + Number(y) };
}

async function dragBy(page: Page, from: { x: number; y: number }, dx: number, dy: number): Promise<void> {
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move(from.x + dx / 2, from.y + dy / 2, { steps: 4 });
  await page.mouse.move(from.x + dx, from.y + dy, { steps: 4 });
  await page.mouse.up();
}

/** The shot as the server has it. */
async function savedShot(page: Page) {
  await saved(page);
  const id = /shot\/([^/]+)/.exec(page.url())![1]!;
  const answer = await page.request.get(`/api/shots/${id}`);
  return ((await answer.json()) as { shot: Record<string, never> }).shot as unknown as {
    addedMotions: Record<string, { path: string; kind: string; keys: { frame: number; value: number }[] }>;
    parts: Record<
      string,
      {
        name: string;
        joints: { node: number; name: string }[];
        settings: Record<string, number>;
        anchors: { frame: number; turns: Record<string, number[]> | null }[];
      }
    >;
  };
}

test('the whole figure is shaken while it plays, and kept as keys of added motion', async ({ page }) => {
  await page.goto(`/shot/${await freshShot(page, 'Lookout')}/tune`);
  const now = await run(page);
  const texts = () => page.getByTestId('lane-numbers').allTextContents();
  const before = await texts();
  await page.keyboard.press('h');
  const how = page.getByRole('group', { name: 'How to shake' });
  await how.getByRole('button', { name: 'the whole figure' }).click();
  await page.getByLabel('Search joints').fill('hips');
  await page.getByRole('treeitem', { name: /^hips/ }).hover();
  const stage = page.getByTestId('stage');
  await expect(stage).toHaveAttribute('data-hover-at', /\d/);
  const [x, y] = (await stage.getAttribute('data-hover-at'))!.split(' ').map(Number) as [number, number];
  await page.keyboard.press('Home');
  await page.mouse.move(x, y);
  await page.mouse.down();
  for (let k = 0; k < 14; k++) await page.mouse.move(x + 90 * Math.sin(k), y, { steps: 4 });
  await page.mouse.up();
  const card = page.getByRole('region', { name: 'Shaken by hand' });
  await expect(card).toContainText('root');
  await newer(page, now);
  // What hangs from it answers, once the shot as it was shaken is whole.
  await expect.poll(texts).not.toEqual(before);
  await card.getByRole('button', { name: 'Keep as keys' }).click();
  const motions = Object.values((await savedShot(page)).addedMotions);
  expect(motions.length).toBeGreaterThan(0);
  for (const m of motions) {
    expect(m).toMatchObject({ path: 'translation', kind: 'keys' });
    expect(m.keys.length).toBeGreaterThan(3);
    expect(m.keys.at(-1)!.value).toBe(0);
  }
  await page.getByRole('tab', { name: 'World' }).click();
  await expect(page.getByText(/^Shake of root/).first()).toBeVisible();
});

test('one cycle is repeated three times and looped', async ({ page }) => {
  await page.goto(`/shot/${await freshShot(page, 'Stride away')}/prepare`);
  await page.getByLabel('Clip', { exact: true }).selectOption({ index: 0 });
  await page.getByRole('link', { name: 'Tune' }).click();
  let now = await run(page);
  // A clip that closes says so, and loops in one press.
  await page.getByRole('button', { name: 'Loop it' }).click();
  now = await newer(page, now);
  await page.getByRole('tab', { name: 'World' }).click();
  const cycle = page.getByRole('group', { name: 'Cycle' });
  await expect(cycle).toContainText('The clip closes');
  const lanes = page.getByRole('region', { name: 'Lanes' });
  const frames = async () => Number(/of (\d+?)30 fps/.exec((await lanes.textContent())!)![1]);
  const once = await frames();
  await cycle.getByLabel('Repeat, times').fill('3');
  await page.keyboard.press('Enter');
  now = await newer(page, now);
  await expect.poll(frames).toBe(3 * once);
  await expect(page.getByText(/The loop closes: found after/)).toBeVisible();
  await page.keyboard.press('Control+z');
  await newer(page, now);
  await expect.poll(frames).toBe(once);
});

test('a pose by hand is met in the bake, with the simulation before and after it', async ({ page }) => {
  test.setTimeout(120_000);
  await page.goto(`/shot/${await freshShot(page, 'Lookout')}/tune?frame=40`);
  let now = await run(page);
  await page.getByRole('button', { name: 'Select Crest, front' }).click();
  const { degrees } = await laneNumbers(page, 'Crest, front');
  await page.getByRole('button', { name: 'pose by hand' }).click();
  await dragBy(page, await handleAt(page, /^Pose Crest, front on frame 40/, 1), 70, 20);
  now = await newer(page, now);
  expect((await laneNumbers(page, 'Crest, front')).degrees).toBeGreaterThan(degrees);
  const pose = page.getByRole('group', { name: 'Pose by hand on frame 40' });
  await pose.getByLabel('Frames it is held').fill('3');
  await page.keyboard.press('Enter');
  now = await newer(page, now);
  // Its ease is drawn as tails in the lane, and dragged there.
  const body = (await page.getByTestId('lane-Crest, front').locator('.lane-body').boundingBox())!;
  const ruler = page.getByRole('slider', { name: 'Frame', exact: true });
  const [first, last] = [-12, Number(await ruler.getAttribute('aria-valuemax'))];
  const at = (frame: number) => body.x + ((frame - first) / (last - first)) * body.width;
  await dragBy(page, { x: at(40 - 8), y: body.y + body.height - 4 }, at(26) - at(32), 0);
  await newer(page, now);
  await expect(pose.getByLabel('Frames in which it is come to')).toHaveValue('14');
  const part = Object.values((await savedShot(page)).parts).find((p) => p.name === 'Crest, front')!;
  const { turns } = part.anchors.find((a) => a.turns)!;
  await page.getByRole('link', { name: 'Hand off' }).click();
  await page.getByRole('button', { name: /^Bake/ }).click();
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: /^Download/ }).click();
  const file = await bytesOf(await download);
  const baked = readGltf(file, 'baked.glb', {}, { skeletonOnly: true });
  const turnsOn = (frame: number, clip = baked.clips.length - 1) => {
    const posed = makePose(baked);
    samplePose(baked, baked.clips[clip]!, frame / 30, posed);
    return posed.r;
  };
  const off = (r: Float64Array, node: number, q: ArrayLike<number>) =>
    (quatAngle(r, 4 * node, q, 0) * 180) / Math.PI;
  expect(Object.keys(turns!).length).toBeGreaterThan(0);
  for (const frame of [40, 41, 43])
    for (const [i, q] of Object.entries(turns!))
      expect(off(turnsOn(frame), part.joints[Number(i)]!.node, q)).toBeLessThan(0.1);
  // Before and after it moves by itself.
  for (const frame of [20, 60]) {
    const moves = part.joints.map((j) =>
      off(turnsOn(frame), j.node, turnsOn(frame + 3).subarray(4 * j.node)),
    );
    expect(Math.max(...moves)).toBeGreaterThan(0.01);
  }
});

test('a setting is keyed as a curve, a thickness dragged on the stage, a chain lengthened', async ({
  page,
}) => {
  await page.goto(`/shot/${await freshShot(page, 'Lookout')}/tune`);
  let now = await run(page);
  await page.getByRole('button', { name: 'Select Crest, front' }).click();
  await page.getByRole('button', { name: 'More of Damping' }).click();
  await setKeys(page, 'Damping over time', [
    [10, 0.1],
    [60, 1.2],
  ]);
  await expect
    .poll(() => keysOf(page, 'Damping over time'))
    .toEqual(['0.1  on frame 10', '1.2  on frame 60']);
  now = await newer(page, now);
  const thickness = async () =>
    Object.values((await savedShot(page)).parts).find((p) => p.name === 'Crest, front')!.settings.thickness!;
  const thin = await thickness();
  await page.getByRole('button', { name: 'thickness on the stage' }).click();
  await dragBy(page, await handleAt(page, /^Set thickness/, 0), 20, 0);
  now = await newer(page, now);
  expect(await thickness()).toBeGreaterThan(2 * thin);
  // Pinned to a joint that is clicked on the stage, and let go.
  await page.getByRole('button', { name: 'Pin the tip to: choose on the stage' }).click();
  await page.getByLabel('Search joints').fill('head');
  await page.getByRole('treeitem', { name: /^head/ }).first().hover();
  const stage = page.getByTestId('stage');
  await expect(stage).toHaveAttribute('data-hover-at', /\d/);
  const [hx, hy] = (await stage.getAttribute('data-hover-at'))!.split(' ').map(Number) as [number, number];
  await page.mouse.click(hx, hy);
  now = await newer(page, now);
  const pinned = page.getByRole('combobox', { name: 'Pin the tip to' });
  await expect(pinned).not.toHaveValue('nothing');
  await pinned.fill('noth');
  await page.getByRole('option', { name: 'nothing' }).click();
  now = await newer(page, now);
  await expect(pinned).toHaveValue('nothing');
  // The same keys as a curve under its lane, where one is dragged up.
  await page.getByRole('button', { name: 'Keys of Crest, front as a curve' }).click();
  const strip = page.getByRole('group', { name: 'Keys: Damping of Crest, front' });
  const key = (await strip.getByRole('slider', { name: 'Point 1' }).boundingBox())!;
  await dragBy(page, { x: key.x + key.width / 2, y: key.y + key.height / 2 }, 0, -20);
  now = await newer(page, now);
  const dragged = (await keysOf(page, 'Damping over time'))[0]!;
  expect(dragged).toMatch(/on frame 10$/);
  expect(Number.parseFloat(dragged)).toBeGreaterThan(0.2);
  // Its first joint stays still and turns again, its end link goes and comes, with its settings as they were.
  for (const [which, left] of [
    ['First joint turns (crest front 1)', 'Joints (3)'],
    ['End link on crest front 4', 'Joints (3)'],
  ] as const) {
    await page.getByRole('checkbox', { name: which }).uncheck();
    await expect(page.getByText(left)).toBeVisible();
    now = await newer(page, now);
    await page.getByRole('checkbox', { name: which }).check();
    await expect(page.getByText('Joints (4)')).toBeVisible();
    now = await newer(page, now);
  }
  // One joint more, with its settings as they were.
  await expect(page.getByText('Joints (4)')).toBeVisible();
  await page
    .getByRole('group', { name: 'Joints at the root' })
    .getByRole('button', { name: 'take off' })
    .click();
  now = await newer(page, now);
  await expect(page.getByText('Joints (3)')).toBeVisible();
  await page
    .getByRole('group', { name: 'Joints at the root' })
    .getByRole('button', { name: '+ crest front 1' })
    .click();
  await newer(page, now);
  await expect(page.getByText('Joints (4)')).toBeVisible();
  await expect.poll(() => keysOf(page, 'Damping over time')).toEqual([dragged, '1.2  on frame 60']);
});

test('chains are linked into a row from a selection, in order, and unlinked', async ({ page }) => {
  await page.goto(`/shot/${await freshShot(page, 'Lookout')}/tune`);
  let now = await run(page);
  await page.getByRole('button', { name: 'Select Crest, left' }).click();
  for (const name of ['Crest, front', 'Crest, right'])
    await page.getByRole('button', { name: `Select ${name}` }).click({ modifiers: ['Shift'] });
  await page.getByRole('button', { name: 'link into a row' }).click();
  now = await newer(page, now);
  await page.getByRole('button', { name: 'Select Crest, front' }).click();
  const left = page.getByRole('group', { name: 'Linked with Crest, left' });
  await expect(left).toBeVisible();
  await expect(page.getByRole('group', { name: 'Linked with Crest, right' })).toBeVisible();
  await left.getByLabel('Stiffness of the link').fill('20');
  await page.keyboard.press('Enter');
  now = await newer(page, now);
  await left.getByRole('button', { name: 'unlink' }).click();
  await newer(page, now);
  await expect(left).toHaveCount(0);
});
