import { readFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import type { Shot } from '@oscillum/core/shot';
import { freshShot, laneNumbers, newer, run, saved } from './desk';

test('response handles, presets, keys and anchors in the lane, takes looked at and returned to', async ({
  page,
}) => {
  await page.goto('/shot/demoshot0001/tune');
  const lane = 'Plume, left';
  await page.getByRole('button', { name: `Select ${lane}` }).click();
  await laneNumbers(page, lane);
  let now = await run(page);
  const feel = page.getByRole('group', { name: 'Feel' });
  await expect(feel.getByLabel('Overshoot', { exact: true })).toHaveValue(/^\d/);

  // A handle that is dragged down asks for less overshoot; the settings follow and say so.
  const over = Number(await feel.getByLabel('Overshoot', { exact: true }).inputValue());
  const handle = page.getByRole('slider', { name: 'Overshoot handle' });
  const box = (await handle.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2 + 14, { steps: 6 });
  await page.mouse.up();
  await expect(feel).toHaveAttribute('aria-busy', 'false');
  now = await newer(page, now);
  await expect
    .poll(async () => Number(await feel.getByLabel('Overshoot', { exact: true }).inputValue()))
    .toBeLessThan(over - 5);

  // A take is kept; a preset is tried; the take is looked at, and returned to.
  await page.getByRole('tab', { name: 'Takes' }).click();
  await page.getByRole('button', { name: 'Keep a take' }).click();
  await expect(page.getByLabel('Name of the take')).toHaveValue('Take 1');
  await page.getByLabel('Note on Take 1').fill('calmer');
  await page.keyboard.press('Enter');
  const kept = await laneNumbers(page, lane);
  await page.getByRole('tab', { name: 'Parts' }).click();
  await page.getByRole('button', { name: 'presets' }).click();
  await page.getByRole('menuitem', { name: /Floating ribbon/ }).click();
  now = await newer(page, now);
  const tried = await laneNumbers(page, lane);
  expect(tried.degrees).not.toBe(kept.degrees);
  await page.keyboard.press('x');
  now = await newer(page, now);
  expect(await laneNumbers(page, lane)).toEqual(kept);
  await page.keyboard.press('x');
  now = await newer(page, now);
  expect(await laneNumbers(page, lane)).toEqual(tried);
  await page.getByRole('tab', { name: 'Takes' }).click();
  await expect(page.getByRole('table', { name: 'Measures of the takes' })).toContainText('now');
  await page.getByRole('button', { name: 'Restore' }).click();
  now = await newer(page, now);
  expect(await laneNumbers(page, lane)).toEqual(kept);

  // An anchor pose on this frame, dragged along its lane.
  await page.getByRole('tab', { name: 'Parts' }).click();
  await page.getByRole('button', { name: 'match the source here' }).click();
  now = await newer(page, now);
  const body = (await page.getByTestId(`lane-${lane}`).locator('.lane-body').boundingBox())!;
  const at = (frame: number) => body.x + ((frame + 12) / (96 + 12)) * body.width;
  await page.mouse.move(at(0), body.y + 20);
  await page.mouse.down();
  await page.mouse.move(at(60), body.y + 20, { steps: 5 });
  await page.mouse.up();
  await expect(page.getByLabel('Anchor poses')).toHaveValue('60:8/8');
  now = await newer(page, now);

  // One alone: the others wait; the edit is none, so nothing of it is saved.
  await page.getByRole('button', { name: `Only ${lane}` }).click();
  await expect(page.getByTestId('lane-Crest')).toContainText('waits');
  await newer(page, now);
  await saved(page);
  await page.reload();
  await laneNumbers(page, 'Crest');
  await expect(page.getByLabel('Anchor poses')).toHaveValue('60:8/8');
});

test('Escape closes what lies open and leaves the chosen chain; pressed again it chooses nothing', async ({
  page,
}) => {
  await page.goto('/shot/demoshot0001/tune?parts=part4');
  const name = page.getByRole('textbox', { name: 'Name of the part' });
  for (const [press, opened] of [
    [page.getByRole('button', { name: 'presets' }), page.getByRole('menu')],
    [page.getByRole('button', { name: 'History' }), page.getByRole('menu')],
    [page.getByRole('button', { name: 'Show' }), page.getByRole('dialog', { name: 'Show' })],
    [page.getByRole('button', { name: 'Find anything' }), page.getByRole('dialog')],
  ] as const) {
    // Wherever the focus is.
    for (const lost of [false, true]) {
      await press.click();
      await expect(opened).toBeVisible();
      // What takes the keyboard has it before a hand can press again.
      const search = opened.getByRole('textbox');
      if ((await search.count()) > 0) await expect(search).toBeFocused();
      if (lost) await page.evaluate('document.activeElement.blur()');
      await page.keyboard.press('Escape');
      await expect(opened).toBeHidden();
      await expect(name).toBeVisible();
      // And the keyboard is where it was.
      if (!lost) await expect(press).toBeFocused();
    }
  }
  await page.keyboard.press('Escape');
  await expect(name).toBeHidden();
});

test('the first steps are told on a shot where something moves, until they are known', async ({ page }) => {
  const steps = page.getByRole('note', { name: 'First steps' });
  await page.goto('/shot/demoshot0006/tune');
  await expect(page.getByText('Click the first joint of a tail')).toBeVisible();
  await expect(steps).toBeHidden();
  await page.goto('/shot/demoshot0001/tune');
  await steps.getByRole('button', { name: 'got it' }).click();
  await expect(steps).toBeHidden();
  await page.reload();
  await laneNumbers(page, 'Crest');
  await expect(steps).toBeHidden();
});

test('a chain is grabbed on the stage and shaken while it plays; the pull is let go, or kept and undone', async ({
  page,
}) => {
  await page.goto('/shot/demoshot0001/tune?frame=10');
  const lane = 'Plume, middle';
  const calm = await laneNumbers(page, lane);
  const now = await run(page);
  await page.keyboard.press('h');
  await expect(page.getByRole('group', { name: 'How to shake' })).toBeVisible();
  const shake = async () => {
    await page.keyboard.press('Home');
    const tip = page.getByRole('treeitem', { name: /plume middle 7/ });
    await page.getByLabel('Search joints').fill('plume middle 7');
    await tip.hover();
    const stage = page.getByTestId('stage');
    await expect(stage).toHaveAttribute('data-hover-at', /\d/);
    const place = (await stage.getAttribute('data-hover-at'))!.split(' ').map(Number);
    await page.mouse.move(place[0]!, place[1]!);
    await page.mouse.down();
    for (let k = 0; k < 16; k++)
      await page.mouse.move(place[0]! + 60 * Math.sin(k), place[1]! - 40, { steps: 4 });
    await page.mouse.up();
  };
  await shake();
  const card = page.getByRole('region', { name: 'Shaken by hand' });
  await expect(card).toContainText(lane);
  await newer(page, now);
  expect((await laneNumbers(page, lane)).degrees).not.toBe(calm.degrees);
  await card.getByRole('button', { name: 'Let it go' }).click();
  await expect.poll(async () => (await laneNumbers(page, lane)).degrees).toBe(calm.degrees);
  await shake();
  await card.getByRole('button', { name: 'Keep it' }).click();
  await expect(card).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Undo' })).toBeEnabled();
  await page.getByRole('button', { name: 'Select Plume, middle' }).click();
  await expect(page.getByText('1 pull by hand')).toBeVisible();
});

test('two windows on one shot: what one saves the other follows, and neither loses an edit', async ({
  page,
  context,
}) => {
  await page.goto('/shot/demoshot0001/tune?parts=part4');
  const other = await context.newPage();
  await other.goto('/shot/demoshot0001/tune?parts=part4');
  await laneNumbers(page, 'Crest');
  await laneNumbers(other, 'Crest');
  await page.getByLabel('Bend value').fill('3.3');
  await page.keyboard.press('Enter');
  await expect(other.getByLabel('Bend value')).toHaveValue('3.3');
  await other.getByLabel('Damping value').fill('0.31');
  await other.keyboard.press('Enter');
  await expect(page.getByLabel('Damping value')).toHaveValue('0.31');
  await expect(page.getByLabel('Bend value')).toHaveValue('3.3');
  await saved(page);
  await saved(other);
});

test('settings are carried: copied to another chain and shot, kept as a preset, to a file and back; history jumps', async ({
  page,
}) => {
  await page.goto('/shot/demoshot0001/tune');
  await laneNumbers(page, 'Crest');
  const bend = page.getByLabel('Bend value');
  await page.getByRole('button', { name: 'Select Crest' }).click();
  await bend.fill('3.7');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'copy', exact: true }).click();
  await page.getByRole('button', { name: 'presets' }).click();
  await page.getByRole('menuitem', { name: /Save these settings as/ }).click();
  await page.getByRole('button', { name: 'presets' }).click();
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('menuitem', { name: 'Save them to a file' }).click(),
  ]);
  expect(JSON.parse(readFileSync(await file.path(), 'utf8'))).toMatchObject({
    name: 'Crest',
    settings: { bend: 3.7 },
  });

  // To another chain, only the swing of it.
  await page.getByRole('button', { name: 'Select Plume, left' }).click();
  const [hold, was] = [await page.getByLabel('Hold value').inputValue(), await bend.inputValue()];
  await page.getByRole('button', { name: 'presets' }).click();
  for (const group of ['Follow', 'Weight and air', 'Contact', 'Limits'])
    await page.getByTitle(`Whether a preset sets ${group}`).click();
  await page.getByRole('menuitem', { name: /^Crest/ }).click();
  await expect(bend).toHaveValue('3.7');
  await expect(page.getByLabel('Hold value')).toHaveValue(hold);

  // History: two changes back at one press, and on again.
  await bend.fill('5');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'History' }).click();
  await page.getByRole('menuitem', { name: /^Crest on chain/ }).click();
  await expect(bend).toHaveValue(was);
  await page.getByRole('button', { name: 'History' }).click();
  await page
    .getByRole('menuitem', { name: /^Set bend/ })
    .first()
    .click();
  await expect(bend).toHaveValue('5');
  await saved(page);

  // To another shot; and what is no preset is refused with a sentence.
  await page.goto('/shot/demoshot0002/tune');
  await page.getByRole('button', { name: 'Select Crest, left' }).click();
  await page.getByRole('button', { name: 'paste Crest' }).click();
  await expect(bend).toHaveValue('3.7');
  await page.getByRole('button', { name: 'presets' }).click();
  await page.getByLabel('Read a preset from a file').setInputFiles({
    name: 'notes.json',
    mimeType: 'application/json',
    buffer: Buffer.from('{"a": 1}'),
  });
  await expect(page.getByText('notes.json is not an Oscillum preset')).toBeVisible();
});

test('the stage shows a run that is over just as it would draw it anew, though it was drawn with the first rows', async ({
  page,
}) => {
  // So many substeps that rows come more than once; the first are far from this frame, or not quite all it shows.
  const id = await freshShot(page, 'Stride away', { substeps: 16 });
  await page.goto(`/shot/${id}/tune?frame=80`);
  await page.getByRole('button', { name: 'Select Plume, left' }).click();
  await laneNumbers(page, 'Plume, left');
  let now = await run(page);
  const stage = page.getByTestId('stage');
  const ink = () =>
    stage
      .locator('canvas')
      .last()
      .evaluate((c: HTMLCanvasElement) => c.toDataURL());
  const slider = page.getByRole('slider', { name: 'Hold', exact: true });
  const seen = [await ink()];
  for (let k = 0; k < 4; k++) {
    await slider.press('ArrowRight');
    now = await newer(page, now);
    await expect(stage).toHaveAttribute('data-drawn-run', String(now));
    await expect(stage).toHaveAttribute('data-drawn-whole', 'true');
    seen.push(await ink());
  }
  // Each movement is seen, and all of it.
  expect(new Set(seen).size).toBe(seen.length);
  const ghost = page.getByRole('button', { name: 'Ghost', exact: true });
  await ghost.click();
  await expect.poll(ink).not.toBe(seen.at(-1));
  await ghost.click();
  await expect.poll(ink).toBe(seen.at(-1));
});

test('a lane out of sight is drawn when it comes into sight, with what has changed meanwhile', async ({
  page,
}) => {
  await page.setViewportSize({ width: 1280, height: 640 });
  const id = await freshShot(page, 'Stride away');
  const { shot } = (await (await page.request.get(`/api/shots/${id}`)).json()) as { shot: Shot };
  await page.goto(`/shot/${id}/tune?parts=${Object.keys(shot.parts).join(',')}`);
  const lanes = page.locator('.lane');
  await lanes.first().getByTestId('lane-numbers').filter({ hasText: 'off source' }).waitFor();
  const last = lanes.last();
  await expect(last).not.toBeInViewport();
  const ink = () => last.locator('canvas').evaluate((c: HTMLCanvasElement) => c.toDataURL());
  const before = await ink();
  const numbers = await last.getByTestId('lane-numbers').textContent();
  const now = await run(page);
  await page.getByRole('slider', { name: 'Hold', exact: true }).press('ArrowRight');
  await newer(page, now);
  await expect(last.getByTestId('lane-numbers')).not.toHaveText(numbers ?? '');
  expect(await ink()).toBe(before);
  await last.scrollIntoViewIfNeeded();
  await expect.poll(ink).not.toBe(before);
});
