import { expect, test, type Page } from '@playwright/test';
import { validateBytes } from 'gltf-validator';
import { bakeGlb, defaultBake } from '@oscillum/core/bake';
import { makeChainPart } from '@oscillum/core/chain';
import { openContainer, readGltf } from '@oscillum/core/gltf';
import { demoFiles } from '@oscillum/demo';
import { bakedGlb, clothOf, coreBake, leash, part, shotOf } from './clothShots';
import { bytesOf, freshShot, newer, run, saved } from './desk';

/** Presses on the stage and draws a line over it. */
async function draw(
  page: Page,
  from: readonly [number, number],
  to: readonly [number, number],
): Promise<void> {
  const box = (await page.getByTestId('stage').boundingBox())!;
  const at = ([x, y]: readonly [number, number]) => [box.x + x * box.width, box.y + y * box.height] as const;
  await page.mouse.move(...at(from));
  await page.mouse.down();
  await page.mouse.move(...at(to), { steps: 8 });
  await page.mouse.up();
}

test('a mesh becomes cloth in one press, is painted, tuned, and baked to what the command line bakes', async ({
  page,
}) => {
  const id = await freshShot(page, 'Stride away', { range: { first: 0, last: 16 } });
  await page.goto(`/shot/${id}/tune`);
  const first = await run(page);
  const lappet = page.getByTestId('lane-Lappet, left').getByTestId('lane-numbers');
  const before = await lappet.textContent();

  await page.getByRole('tab', { name: 'Meshes' }).click();
  await page.getByRole('option', { name: /poncho mesh/ }).click();
  await page.getByRole('button', { name: 'Make cloth' }).click();
  const made = await newer(page, first);
  await expect(page.getByTestId('lane-Poncho')).toContainText('off its skin by');
  await expect(page.getByRole('option', { name: /poncho mesh/ })).toContainText('cloth');
  // What moved before goes on as it did, though there is a body to touch now.
  expect(await lappet.textContent()).toBe(before);
  await saved(page);
  const shot = await shotOf(page, id);
  expect(clothOf(shot).holds).toEqual([{ by: 'rim', rim: 0 }]);
  expect(Object.values(shot.colliders).map((c) => c.shape.kind)).toEqual(['mesh']);

  // The leash is painted: it begins with what held the cloth, a stroke is one edit, and undo takes it back.
  const painted = page.getByRole('group', { name: 'Painted over the mesh' });
  await painted.getByRole('button', { name: 'Paint leash' }).click();
  const bar = page.getByRole('region', { name: 'Paint leash' });
  await expect(bar).toContainText('Leash of Poncho');
  const plain = await leash(page, id);
  expect(plain.filter((s) => s === 0).length).toBeGreaterThan(20);
  await bar.getByLabel('Value, m').fill('0.05');
  await page.keyboard.press('Enter');
  await draw(page, [0.42, 0.55], [0.5, 0.6]);
  const stroke = await leash(page, id);
  const changed = stroke.filter((s, v) => s !== plain[v]).length;
  expect(changed).toBeGreaterThan(20);
  expect(changed).toBeLessThan(0.6 * stroke.length);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(async () => [...(await leash(page, id))]).toEqual([...plain]);
  // A drawn line makes a gradient, from 0 where it begins.
  await bar.getByRole('button', { name: 'gradient' }).click();
  await bar.getByLabel('Value, m').fill('0.2');
  await page.keyboard.press('Enter');
  await draw(page, [0.45, 0.4], [0.45, 0.75]);
  const graded = await leash(page, id);
  expect(new Set(graded).size).toBeGreaterThan(200);
  await page.keyboard.press('Escape');
  await expect(bar).toBeHidden();

  // A setting is changed, and the whole shot answers.
  const then = await newer(page, made);
  await page.getByRole('button', { name: 'Silk' }).click();
  await newer(page, then);
  await saved(page);

  // A bake mutes what it has baked, so the shot is taken before it.
  const whole = await shotOf(page, id);
  await page.getByRole('link', { name: 'Hand off' }).click();
  const bytes = await bakedGlb(page);
  expect((await validateBytes(bytes)).issues.messages).toEqual([]);
  expect(Buffer.from(bytes).equals(await coreBake(whole))).toBe(true);
});

test('cloth is compared, weighed, and baked to helper joints as the command line does', async ({ page }) => {
  const [brindle] = await demoFiles();
  const walk = brindle!.shots.find((s) => s.name === 'Brindle, Walk in a poncho')!;
  const answer = await page.request.post('/api/shots', {
    data: { ...walk, name: 'Short walk', range: { first: 0, last: 15 }, colliders: {} },
  });
  const { id } = (await answer.json()) as { id: string };
  await page.goto(`/shot/${id}/tune`);
  await run(page);

  // Without what is simulated, split by a line that is dragged, and on all clips with the worst frame of each.
  const stage = page.getByTestId('stage');
  await page.getByRole('button', { name: 'Without', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Without', exact: true })).toHaveAttribute(
    'aria-pressed',
    'true',
  );
  await page.keyboard.press('w');
  await page.getByRole('button', { name: 'Split', exact: true }).click();
  const line = page.getByRole('separator', { name: 'Without, and with the simulation' });
  const at = async () => Number(await line.getAttribute('aria-valuenow'));
  const before = await at();
  const box = (await line.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(
    box.x + box.width / 2 + 0.1 * (await stage.boundingBox())!.width,
    box.y + box.height / 2,
  );
  await page.mouse.up();
  expect(await at()).toBeCloseTo(before + 10, -0.5);
  await page.getByRole('button', { name: 'Split', exact: true }).click();
  await page.getByRole('button', { name: 'All clips' }).click();
  const strip = page.getByRole('region', { name: 'All clips' });
  await expect(strip).toContainText('the worst frame of each');
  await expect(strip.getByRole('button', { name: /off on frame/ })).toHaveCount(4);
  await strip.getByRole('button', { name: 'close' }).click();

  await page.getByRole('link', { name: 'Hand off' }).click();
  await page.getByRole('button', { name: 'What would it cost?' }).click();
  const costs = page.getByRole('table', { name: 'Costs' });
  await expect(costs.getByRole('row')).toHaveCount(8);
  // Every way is drawn on the stage as well; one that is pressed is used.
  const drawn = page.getByRole('region', { name: 'Costs, drawn' });
  await expect(drawn.getByRole('button', { name: /at most/ })).toHaveCount(6);
  await drawn.getByRole('button', { name: /^12 helper joints/ }).click();
  await expect(page.getByLabel('How many')).toHaveValue('12');
  await drawn.getByRole('button', { name: 'close' }).click();
  await costs.getByRole('button', { name: 'Use 24 helper joints' }).click();
  await expect(page.getByLabel('How many')).toHaveValue('24');
  await costs.getByRole('button', { name: 'Use 12 helper joints' }).click();
  await expect(page.getByLabel('How many')).toHaveValue('12');
  await page.getByLabel('USD points').check();
  const whole = await shotOf(page, id);
  const bytes = await bakedGlb(page);
  expect((await validateBytes(bytes)).issues.messages.filter((m) => m.severity < 2)).toEqual([]);
  const [points] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Download USD points' }).click(),
  ]);
  expect(new TextDecoder().decode(await bytesOf(points))).toContain('point3f[] points.timeSamples');
  await expect(page.getByRole('table', { name: 'Fits' })).toContainText('12 helper joints');

  const vertices = { to: 'joints', count: 12, under: null } as const;
  const bake = bakeGlb(openContainer(brindle!.bytes, 'brindle.glb'), whole, {
    ...defaultBake(whole),
    vertices,
  });
  let step = bake.next();
  while (!step.done) step = bake.next();
  expect(Buffer.from(bytes).equals(Buffer.from(step.value.bytes))).toBe(true);
});

test('chains become a panel in one press, in a headwind, and their joints leave with keys of their own', async ({
  page,
}) => {
  const [brindle] = await demoFiles();
  const character = readGltf(brindle!.bytes, 'brindle.glb');
  const lookout = brindle!.shots.find((s) => s.clip?.name === 'Lookout')!;
  const rows = [1, 2, 3, 4, 5, 6].map((r) =>
    [1, 2].map((k) => {
      const name = `poncho ${r} ${k}`;
      return { node: character.nodes.findIndex((n) => n.name === name), name };
    }),
  );
  const parts = Object.fromEntries(
    rows.map((joints, k) => [
      `row${k}`,
      makeChainPart({ id: `row${k}`, name: `Poncho ${k + 1}`, joints, order: k }),
    ]),
  );
  const wind = { id: 'wind', name: 'Headwind', kind: 'wind', direction: [0, 0, -1], speed: 8 };
  const answer = await page.request.post('/api/shots', {
    data: {
      ...{ ...lookout, parts, colliders: {}, forces: { wind }, name: 'Panel' },
      range: { first: 0, last: 24 },
    },
  });
  const { id } = (await answer.json()) as { id: string };
  await page.goto(`/shot/${id}/tune`);
  const first = await run(page);
  for (const k of [1, 2, 3, 4, 5, 6])
    await page
      .getByTestId(`lane-Poncho ${k}`)
      .click({ position: { x: 40, y: 12 }, ...(k > 1 && { modifiers: ['Shift'] }) });
  await page.getByRole('region', { name: 'Make panel' }).getByRole('button', { name: 'Make panel' }).click();
  const made = await newer(page, first);
  const lane = page.getByTestId('lane-Poncho').getByTestId('lane-numbers');
  await expect(lane).toContainText('off its source by');
  await expect(page.getByText('6 rows of joints, side by side')).toBeVisible();
  await page.getByLabel('Its joints').selectOption({ label: 'turn and stretch' });
  await newer(page, made);
  await saved(page);
  const whole = await shotOf(page, id);
  const panel = Object.values(whole.parts)[0]!;
  expect(panel).toMatchObject({ kind: 'panel', closed: true, moves: 'places' });

  await page.getByRole('link', { name: 'Hand off' }).click();
  const bytes = await bakedGlb(page);
  expect(Buffer.from(bytes).equals(await coreBake(whole))).toBe(true);
  const moved = readGltf(bytes, 'panel.glb').clips.at(-1)!.channels;
  for (const j of rows.flat())
    expect(
      moved
        .filter((c) => c.node === j.node)
        .map((c) => c.path)
        .sort(),
    ).toEqual(['rotation', 'translation']);
});

test('in gusts every setting changes the frame that is looked at, and half the weight strays more', async ({
  page,
}) => {
  const id = await part(page, 'Brindle, Leap in the wind', { first: 0, last: 45 });
  await page.goto(`/shot/${id}/tune?frame=40`);
  let seen = await run(page);
  const stage = page.getByTestId('stage');
  const lane = page.getByTestId('lane-Poncho').getByTestId('lane-numbers');
  const stray = async () => Number(/by ([\d.]+) cm/.exec((await lane.textContent()) ?? '')![1]);
  await page.getByTestId('lane-Poncho').click({ position: { x: 40, y: 12 } });
  const put = async (setting: string, value: string) => {
    await page.getByLabel(`${setting} value`).fill(value);
    await page.keyboard.press('Enter');
    seen = await newer(page, seen);
    await whole();
  };
  // What the coarse answer says is not compared with what the whole one does.
  const whole = () =>
    expect(page.getByRole('status').filter({ hasText: 'Coarse answer' })).toBeHidden({ timeout: 30_000 });
  await whole();
  const light = await stray();
  await put('Weight', '0.8');
  await expect.poll(stray).toBeLessThan(light);
  const before = await stray();
  let picture = await stage.screenshot();
  for (const [setting, value] of [
    ['Weight', '0.4'],
    ['Stretch', '0.5'],
    ['Bending length', '12'],
  ] as const) {
    await put(setting, value);
    if (setting === 'Weight') await expect.poll(stray).toBeGreaterThan(before);
    // The stage may be drawn a moment after the lane.
    let next = picture;
    await expect.poll(async () => (next = await stage.screenshot()).equals(picture)).toBe(false);
    picture = next;
    await expect(stage).toHaveAttribute('data-drawn-frame', '40');
  }
});

test('a cloth is let go between two frames that are dragged in its lane, and its triangles stay', async ({
  page,
}) => {
  const id = await part(page, 'Brindle, Leap in the wind', { first: 8, last: 32 });
  await page.goto(`/shot/${id}/tune`);
  const first = await run(page);
  await page.getByTestId('lane-Poncho').click({ position: { x: 40, y: 12 } });
  await page.getByLabel('Lets go in time').check();
  const made = await newer(page, first);
  const end = page.getByRole('slider', { name: 'Frame on which Poncho begins to let go' });
  const frame = async () => Number(await end.getAttribute('aria-valuenow'));
  const before = await frame();
  const box = (await end.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + 15);
  await page.mouse.down();
  await page.mouse.move(box.x - 40, box.y + 15, { steps: 4 });
  await page.mouse.up();
  expect(await frame()).toBeLessThan(before);
  await newer(page, made);
  await saved(page);
  const whole = await shotOf(page, id);
  expect(clothOf(whole).release!.first).toBe(await frame());

  await page.getByRole('link', { name: 'Hand off' }).click();
  const bytes = await bakedGlb(page);
  expect(Buffer.from(bytes).equals(await coreBake(whole))).toBe(true);
  const triangles = (b: Uint8Array<ArrayBuffer>) =>
    readGltf(b, 'a.glb').meshes.map((m) => m.primitives.map((p) => [...p.indices, ...p.positions]));
  const [brindle] = await demoFiles();
  expect(triangles(bytes)).toEqual(triangles(brindle!.bytes));
});
