import { expect, test, type Page } from '@playwright/test';
import { handOff } from '@oscillum/core/handoff';
import { defaultBake } from '@oscillum/core/bake';
import type { Frames } from '@oscillum/core/frames';
import { openContainer, readGltf } from '@oscillum/core/gltf';
import type { Shot } from '@oscillum/core/shot';
import { simulateAll } from '@oscillum/core/simulate';
import { lengthOfGuide, readGroom } from '@oscillum/core/strands';
import { demoFiles } from '@oscillum/demo';
import { shotOf } from './clothShots';
import { bytesOf, dragSlider, freshShot, newer, run, saved } from './desk';

type Hair = Extract<Shot['parts'][string], { kind: 'strands' }>;
const hairOf = (shot: Shot): Hair => Object.values(shot.parts).find((p): p is Hair => p.kind === 'strands')!;

/** The curves of a shot as USD text: what the core and the command line write. */
async function curvesOfCore(shot: Shot): Promise<Buffer> {
  const [brindle] = await demoFiles();
  const job = handOff(openContainer(brindle!.bytes, 'brindle.glb'), shot, {
    ...{ bake: defaultBake(shot), clips: null, formats: ['points.usda'], stem: 'hair', unit: null, up: 'Y' },
    pack: 'none',
  });
  let step = job.next();
  while (!step.done) step = job.next();
  return Buffer.from(step.value.files[0]!.bytes);
}

test('hair grows with one press, is tuned and looked at, and leaves as curves, the same bytes as the core writes', async ({
  page,
}) => {
  const id = await freshShot(page, 'Lookout', { range: { first: 0, last: 24 }, parts: {} });
  await page.goto(`/shot/${id}/tune?frame=18`);
  const first = await run(page);
  await page.getByRole('tab', { name: 'Meshes' }).click();
  await page.getByRole('option', { name: /fringe scalp/ }).click();
  await page.getByRole('button', { name: 'Grow hair' }).click();
  let now = await newer(page, first);
  const lane = page.getByTestId('lane-Fringe scalp hair').getByTestId('lane-numbers');
  await expect(lane).toContainText('off its groom by');
  await page.getByLabel('Guides', { exact: true }).fill('24');
  await page.keyboard.press('Enter');
  now = await newer(page, now);
  await page.getByLabel('Alike on both sides').check();
  now = await newer(page, now);
  const stiff = await lane.textContent();
  await dragSlider(page, 'Hold', 0.9);
  now = await newer(page, now);
  await expect(lane).not.toHaveText(stiff ?? '');
  // Unless it keeps its groom it sags; asked again, it stands as it was combed.
  await page.getByLabel('Keep the groom').uncheck();
  now = await newer(page, now);
  await page.getByLabel('Keep the groom').check();
  await newer(page, now);
  await saved(page);

  // How it looks moves nothing: the guides are the same.
  const before = await shotOf(page, id);
  for (const [label, value] of [
    ['Strands', '1500'],
    ['Curl', '0.01'],
    ['Curl from', '30'],
    ['Curl to', '70'],
  ] as const) {
    await page.getByLabel(label, { exact: true }).fill(value);
    await page.keyboard.press('Enter');
  }
  await saved(page);
  const shot = await shotOf(page, id);
  expect(hairOf(shot).look).toMatchObject({ strands: 1500, curl: 0.01, curlFrom: 0.3, curlTo: 0.7 });
  expect(hairOf(shot).groom).toEqual(hairOf(before).groom);
  expect(hairOf(shot).groom.points.length).toBe(24);

  await page.getByRole('link', { name: 'Hand off' }).click();
  await expect(page.getByText('curves in USD points and CSV points, cards, or joints')).toBeVisible();
  await page.getByLabel('GLB hair cards').check();
  await page.getByLabel('Cards', { exact: true }).fill('12');
  await page.keyboard.press('Enter');
  await page.getByLabel('USD points').check();
  await page.getByRole('button', { name: 'Bake', exact: true }).click();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Download USD points' }).click(),
  ]);
  const bytes = await bytesOf(download);
  expect(new TextDecoder().decode(bytes)).toContain('def BasisCurves "Fringe_scalp_hair"');
  expect(Buffer.from(bytes).equals(await curvesOfCore(shot))).toBe(true);
  await expect(page.getByText(/12 of 24 guides/)).toBeVisible();
  // It goes on moving: the file that holds it is no clip.
  expect(hairOf(await shotOf(page, id)).muted).toBe(false);
});

/** Drags over the stage from a place to another, px of the page. */
async function drag(
  page: Page,
  from: readonly [number, number],
  to: readonly [number, number],
): Promise<void> {
  await page.mouse.move(...from);
  await page.mouse.down();
  for (let k = 1; k <= 12; k++)
    await page.mouse.move(from[0] + ((to[0] - from[0]) * k) / 12, from[1] + ((to[1] - from[1]) * k) / 12);
  await page.mouse.up();
}

/** Where a joint stands on the page. */
async function placeOf(page: Page, joint: string): Promise<[number, number]> {
  await page.getByRole('treeitem', { name: joint, exact: true }).hover();
  const stage = page.getByTestId('stage');
  await expect(stage).toHaveAttribute('data-hover-at', /\d/);
  const [x, y] = (await stage.getAttribute('data-hover-at'))!.split(' ').map(Number);
  return [x!, y!];
}

test('a tuft stands about one curve that is drawn from the side; its looks change nothing of the guide; it bakes as the core has it', async ({
  page,
}) => {
  const id = await freshShot(page, 'Lookout', { range: { first: 0, last: 20 }, parts: {} });
  await page.goto(`/shot/${id}/tune?frame=12`);
  await run(page);
  await page.getByRole('button', { name: 'Side', exact: true }).click();
  const crest = await placeOf(page, 'crest front 1');
  await page.getByRole('tab', { name: 'Meshes' }).click();
  await page.getByRole('option', { name: /body mesh/ }).click();
  await page.getByRole('button', { name: 'Draw a tuft' }).click();
  const bar = page.getByRole('region', { name: 'Brush hair' });
  await expect(bar).toContainText('0 guides');
  await drag(page, crest, [crest[0] - 60, crest[1] - 70]);
  await expect(bar).toContainText('1 guide');
  await page.getByLabel('Strands', { exact: true }).fill('80');
  await page.keyboard.press('Enter');
  await saved(page);
  const drawn = hairOf(await shotOf(page, id)).groom;
  expect(drawn.points.length).toBe(1);
  for (const [label, value] of [
    ['Tip width', '10'],
    ['Curl', '0.01'],
    ['Curl from', '33'],
    ['Curl to', '66'],
  ] as const) {
    await page.getByLabel(label, { exact: true }).fill(value);
    await page.keyboard.press('Enter');
  }
  await page.keyboard.press('Escape');
  await expect(bar).toHaveCount(0);
  await saved(page);
  const shot = await shotOf(page, id);
  expect(hairOf(shot).groom).toEqual(drawn);
  expect(hairOf(shot).look).toMatchObject({ strands: 80, taper: 0.1, curl: 0.01 });

  // It opens again as it was left.
  await page.reload();
  await run(page);
  await expect(page.getByLabel('Strands', { exact: true })).toHaveValue('80');
  await page.getByRole('link', { name: 'Hand off' }).click();
  await page.getByLabel('USD points').check();
  await page.getByRole('button', { name: 'Bake', exact: true }).click();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Download USD points' }).click(),
  ]);
  expect(Buffer.from(await bytesOf(download)).equals(await curvesOfCore(shot))).toBe(true);
});

test('hair is combed, cut and left alone under the brush, a stroke an edit; guides come along the joints of a chain', async ({
  page,
}) => {
  const shots = (await demoFiles()).flatMap((f) => f.shots);
  const down = shots.find((s) => s.name === 'Brindle, Lookout in down')!;
  const id = await freshShot(page, 'Lookout', { range: { first: 0, last: 12 }, parts: down.parts });
  await page.goto(`/shot/${id}/tune?frame=6`);
  await run(page);
  const names = Object.values(down.parts).map((p) => p.name);
  await page.getByTestId(`lane-${names.at(-1)}`).click();
  await page.getByRole('button', { name: 'Front', exact: true }).click();
  const [x, y] = await placeOf(page, 'neck');
  await page.getByRole('button', { name: 'Brush and draw' }).click();
  const lengths = async () => {
    await saved(page);
    return readGroom(hairOf(await shotOf(page, id)).groom).map(lengthOfGuide);
  };
  const was = await lengths();
  const before = hairOf(await shotOf(page, id)).groom.places;
  await drag(page, [x - 10, y + 20], [x + 60, y]);
  await saved(page);
  await expect.poll(async () => hairOf(await shotOf(page, id)).groom.places).not.toBe(before);
  (await lengths()).forEach((l, k) => expect(l).toBeCloseTo(was[k]!, 5));

  const bar = page.getByRole('region', { name: 'Brush hair' });
  await bar.getByRole('button', { name: 'freeze', exact: true }).click();
  await drag(page, [x + 20, y + 30], [x + 30, y + 30]);
  await expect(bar.getByRole('button', { name: /frozen: free all/ })).toBeVisible();
  await bar.getByRole('button', { name: /free all/ }).click();
  await bar.getByRole('button', { name: 'cut', exact: true }).click();
  await drag(page, [x - 30, y + 40], [x + 30, y + 40]);
  await expect.poll(async () => Math.min(...(await lengths()).map((l, k) => l / was[k]!))).toBeLessThan(0.9);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect
    .poll(async () => Math.min(...(await lengths()).map((l, k) => l / was[k]!)))
    .toBeGreaterThan(0.99);
  // Another room shows what is simulated, and the brush is put down.
  await page.getByRole('link', { name: 'Hand off' }).click();
  await expect(page.getByRole('button', { name: 'Without', exact: true })).toHaveAttribute(
    'aria-pressed',
    'false',
  );
  await page.getByRole('link', { name: 'Tune' }).click();
  await expect(bar).toHaveCount(0);
  await expect(page.getByText(/guides, brushed or drawn since they were grown/)).toBeVisible();

  const csv = 'strand,x,y,z\n1,0,0.9,0.2\n1,0,0.92,0.25\n1,0,0.9,0.3\n';
  await page
    .getByLabel('Choose a file of curves')
    .setInputFiles({ name: 'one.csv', mimeType: 'text/csv', buffer: Buffer.from(csv) });
  await expect(page.getByText(/One guide was taken/)).toBeVisible();
  await expect.poll(async () => (await lengths()).length).toBe(was.length + 1);
  await page
    .getByLabel('Choose a file of curves')
    .setInputFiles({ name: 'none.obj', mimeType: 'text/plain', buffer: Buffer.from('v 0 0 0') });
  await expect(page.getByText(/none.obj: has no lines/)).toBeVisible();
});

test('a fringe of sixty guides is stiffer where it is painted, sags or keeps its groom, and a burst leaves what was before it', async ({
  page,
}) => {
  const shots = (await demoFiles()).flatMap((f) => f.shots);
  const down = shots.find((s) => s.name === 'Brindle, Lookout in down')!;
  const { parts, colliders } = down;
  const id = await freshShot(page, 'Lookout', { range: { first: 0, last: 60 }, parts, colliders });
  await page.goto(`/shot/${id}/tune?frame=50`);
  let now = await run(page);
  const name = Object.values(parts).at(-1)!.name;
  const lane = page.getByTestId(`lane-${name}`);
  await lane.click();
  const numbers = lane.getByTestId('lane-numbers');
  await expect(numbers).toContainText(/up to \d+(\.\d+)? m\/s/);

  // Held by half where it is painted.
  const held = (await numbers.textContent())!;
  await page.getByRole('button', { name: 'Paint hold' }).click();
  const bar = page.getByRole('region', { name: 'Paint hold' });
  await bar.getByLabel('Value, Hz').fill('0.4');
  await page.keyboard.press('Enter');
  await bar.getByRole('button', { name: 'fill', exact: true }).click();
  await newer(page, now);
  await page.keyboard.press('Escape');
  await expect(numbers).not.toHaveText(held);
  // Beginning to paint and filling are two edits: the last of them is answered.
  await saved(page);
  now = await run(page);

  // Every collider is listed, whether it is shown or muted.
  const touched = page.getByRole('group', { name: 'Collides with', exact: true });
  for (const c of Object.values(colliders)) await expect(touched.getByText(c.name).first()).toBeVisible();

  const kept = (await numbers.textContent())!;
  await page.getByLabel('Keep the groom').uncheck();
  now = await newer(page, now);
  await expect(numbers).not.toHaveText(kept);
  await page.getByLabel('Keep the groom').check();
  now = await newer(page, now);
  await expect(numbers).toHaveText(kept);

  await saved(page);
  const calm = await shotOf(page, id);
  await page.getByRole('tab', { name: 'World' }).click();
  await page.getByRole('button', { name: '+ burst' }).click();
  await page.getByLabel('At frame').fill('42');
  await page.keyboard.press('Enter');
  await newer(page, now);
  await saved(page);
  const blown = await shotOf(page, id);
  expect(Object.values(blown.forces)[0]).toMatchObject({ kind: 'burst', frame: 42 });
  const [brindle] = await demoFiles();
  const character = readGltf(brindle!.bytes, 'brindle.glb');
  const [a, b] = [calm, blown].map((s) => simulateAll(character, s)) as [Frames, Frames];
  const wide = a.points.length / a.count;
  expect([...b.points.subarray(0, 43 * wide)]).toEqual([...a.points.subarray(0, 43 * wide)]);
  expect([...b.points.subarray(46 * wide, 47 * wide)]).not.toEqual([
    ...a.points.subarray(46 * wide, 47 * wide),
  ]);

  // In the lane the burst is a mark that is dragged to another frame, or moved by the arrow keys.
  const mark = lane.getByRole('slider', { name: /Frame of Burst/ });
  await expect(mark).toHaveAttribute('aria-valuenow', '42');
  const at = (await mark.boundingBox())!;
  const [x, y] = [at.x + at.width / 2, at.y + at.height / 2];
  await drag(page, [x, y], [x + 60, y]);
  const there = Number(await mark.getAttribute('aria-valuenow'));
  expect(there).toBeGreaterThan(43);
  await mark.press('ArrowRight');
  await saved(page);
  // A band holds guides together in bundles; its share of the way and its bundles are numbers.
  await page.getByRole('tab', { name: 'Parts' }).click();
  const bands = page.getByRole('region', { name: 'Bands' });
  await bands.getByRole('button', { name: '+ band' }).click();
  await bands.getByLabel('Band at', { exact: true }).fill('80');
  await page.keyboard.press('Enter');
  await bands.getByLabel('Bundles', { exact: true }).fill('6');
  await page.keyboard.press('Enter');
  await bands.getByLabel('Draw in', { exact: true }).fill('70');
  await page.keyboard.press('Enter');
  await saved(page);
  expect(hairOf(await shotOf(page, id)).bands).toEqual([
    { at: 0.8, bundles: 6, firmness: 6, drawn: 70, weight: 0 },
  ]);
  expect(Object.values((await shotOf(page, id)).forces)[0]).toMatchObject({
    kind: 'burst',
    frame: there + 1,
  });
});
