import { expect, test, type Page } from '@playwright/test';
import { bytesOf, chooseJoint, freshShot, keysOf, laneNumbers, newer, play, run, saved } from './desk';

/** The places of handles on the page, by name. */
async function handles(page: Page, count: number): Promise<{ name: string; x: number; y: number }[]> {
  const stage = page.getByTestId('stage');
  await expect
    .poll(async () => (await stage.getAttribute('data-handles'))!.split('; ').filter(Boolean).length)
    .toBe(count);
  const box = (await stage.boundingBox())!;
  return (await stage.getAttribute('data-handles'))!.split('; ').map((text) => {
    const [, name, x, y] = /^(.*) (-?[\d.]+) (-?[\d.]+)$/.exec(text)!;
    return { name: name!, x: box.x + Number(x), y: box.y + Number(y) };
  });
}

async function drag(
  page: Page,
  from: { x: number; y: number },
  by: readonly [number, number],
): Promise<void> {
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move(from.x + by[0], from.y + by[1], { steps: 5 });
  await page.mouse.up();
}

test('colliders and winds are taken hold of on the stage, mirrored, and told whom they touch', async ({
  page,
}) => {
  await page.goto(`/shot/${await freshShot(page, 'Lookout')}/tune?frame=40`);
  let now = await run(page);
  await page.getByRole('tab', { name: 'World' }).click();
  await page.getByRole('button', { name: '+ capsule' }).click();
  now = await newer(page, now);
  const radius = page.getByRole('textbox', { name: 'Radius', exact: true });
  await chooseJoint(page, 'Attached to', 'wing left');
  now = await newer(page, now);
  const [move, size, end] = await handles(page, 4);
  expect([move!.name, size!.name, end!.name]).toEqual([
    'Move collider',
    'Set radius',
    'Set the end of the capsule',
  ]);
  await drag(page, size!, [30, 0]);
  await expect(radius).not.toHaveValue('0.1');
  await newer(page, now);
  const x = page.getByRole('textbox', { name: 'Place x', exact: true });
  const before = await x.inputValue();
  await drag(page, (await handles(page, 4))[0]!, [-40, 25]);
  await expect(x).not.toHaveValue(before);
  await page.keyboard.press('Control+z');
  await expect(x).toHaveValue(before);
  await page.getByRole('button', { name: 'Mirror', exact: true }).click();
  await expect(page.getByText('on wing right')).toBeVisible();

  // A click on an outline takes the collider, whatever was worked on before.
  now = await run(page);
  await page.getByRole('button', { name: '+ sphere' }).click();
  await newer(page, now);
  await page.getByRole('button', { name: 'got it' }).click();
  const rim = (await handles(page, 2))[1]!;
  await page.getByRole('tab', { name: 'Parts' }).click();
  await expect(radius).toBeHidden();
  await expect(page.getByTestId('stage')).toHaveAttribute('data-handles', '');
  await page.mouse.click(rim.x, rim.y);
  await expect(radius).toBeVisible();
  await expect(page.getByRole('tab', { name: 'World' })).toHaveAttribute('aria-selected', 'true');

  // A wind: turned and made stronger by its arrow.
  now = await run(page);
  await page.getByRole('button', { name: '+ wind' }).click();
  await newer(page, now);
  await expect(page.getByRole('img', { name: /Speed of Wind over the shot/ })).toBeVisible();
  const speed = page.getByRole('textbox', { name: 'Speed', exact: true });
  const [asked, direction] = [await speed.inputValue(), await page.getByLabel('Direction x').inputValue()];
  await drag(page, (await handles(page, 1))[0]!, [90, 40]);
  await expect(speed).not.toHaveValue(asked);
  await expect(page.getByLabel('Direction x')).not.toHaveValue(direction);

  await page.getByRole('button', { name: 'Who touches whom' }).click();
  const cell = page.getByRole('checkbox', { name: 'Crest, front touches Crest, left', exact: true });
  await cell.check();
  await expect(
    page.getByRole('checkbox', { name: 'Crest, left touches Crest, front', exact: true }),
  ).toBeChecked();
  await page.keyboard.press('Escape');
  await saved(page);
});

test('marks are chosen across lanes, moved and copied; a take stands beside; only a bracket is played', async ({
  page,
}) => {
  await page.goto(`/shot/${await freshShot(page, 'Stride away')}/tune?frame=30`);
  await run(page);
  const body = page.getByTestId('lane-Plume, middle').locator('.lane-body');
  await page.getByRole('button', { name: 'Select Plume, middle' }).click();
  await page.keyboard.press('p');
  await page.getByRole('button', { name: 'Select Plume, left' }).click();
  await page.keyboard.press('p');
  const anchors = page.getByLabel('Anchor poses', { exact: true });
  await expect(anchors).toHaveValue('30:8/8');
  const box = (await body.boundingBox())!;
  await page.keyboard.down('Shift');
  await drag(page, { x: box.x + 0.25 * box.width, y: box.y + 10 }, [0.3 * box.width, 60]);
  await page.keyboard.up('Shift');
  await page.keyboard.press('Control+c');
  await page.keyboard.press('End');
  await page.keyboard.press('Control+v');
  await expect(anchors).toHaveValue('30:8/8, 96:8/8');
  await page.keyboard.press('Delete');
  await expect(anchors).toHaveValue('96:8/8');
  await page.getByRole('button', { name: 'Select Plume, middle' }).click();
  await expect(anchors).toHaveValue('96:8/8');

  await page.getByRole('tab', { name: 'Takes' }).click();
  await page.getByRole('button', { name: 'Keep a take' }).click();
  const beside = page.getByRole('button', { name: 'Overlay' });
  await beside.click();
  await expect(beside).toHaveAttribute('aria-pressed', 'true');

  await page.keyboard.press('Home');
  for (let k = 0; k < 4; k++) await page.keyboard.press('ArrowRight');
  await page.keyboard.press(']');
  await expect(page.getByRole('button', { name: '0–4 ×' })).toBeVisible();
  await page.keyboard.press('Space');
  await expect(page.getByTestId('rate')).toContainText(/fps/);
  await expect.poll(async () => Number(await page.getByTestId('frame').textContent())).toBeLessThanOrEqual(4);
  await page.keyboard.press('Space');
  await page.getByRole('button', { name: '0–4 ×' }).click();

  // The end of the range is dragged on the ruler, and comes back.
  const grip = page.locator('.end[data-end="last frame"]');
  await drag(page, await middleOf(grip), [-100, 0]);
  await expect(page.getByText('of 96', { exact: false })).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await expect(page.getByText('of 96', { exact: false })).toHaveCount(1);
});

async function middleOf(target: ReturnType<Page['locator']>): Promise<{ x: number; y: number }> {
  const box = (await target.boundingBox())!;
  return { x: box.x + box.width / 2, y: box.y + box.height / 2 };
}

test('a turn is added and keyed, a fringe gets joints and swings, and the same parts go to another clip', async ({
  page,
}) => {
  await page.goto(`/shot/${await freshShot(page, 'Lookout')}/prepare?frame=20`);
  await page.getByRole('treeitem', { name: /^neck/ }).click();
  await page.getByRole('button', { name: 'turn', exact: true }).click();
  await expect(page.getByText('so a loop can close')).toBeVisible();
  await page.getByLabel('Times over the range').fill('1.5');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Close it' }).click();
  await expect(page.getByText('so a loop can close')).toBeVisible();
  await page.getByLabel('Goes').selectOption('keys');
  await page.getByLabel('About').selectOption('z');
  await page.getByRole('button', { name: 'Front', exact: true }).click();
  const [arm] = await handles(page, 2);
  await drag(page, arm!, [70, 30]);
  expect(await keysOf(page, 'Keys of the motion')).toEqual([
    expect.stringMatching(/^-?[\d.]+ ° on frame 20$/),
  ]);

  await page.getByRole('button', { name: 'Add joints to a mesh' }).click();
  await page.getByLabel('Mesh', { exact: true }).selectOption({ label: 'fringe scalp' });
  await chooseJoint(page, 'Hangs from', 'head');
  await page.getByLabel('Rows on each piece').fill('6');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Drop rows root to tip' }).click();
  await expect(page.getByText('6 rows, 24 joints')).toBeVisible();
  // One more by hand: a click on the mesh adds a point to it.
  await page.getByRole('button', { name: 'Click a row' }).click();
  const stage = (await page.getByTestId('stage').boundingBox())!;
  const laid = page.getByText('root first: 1 so far');
  // Only the mesh that was chosen takes points, so the click has to find it.
  for (let y = 0.1; y < 0.9 && !(await laid.isVisible()); y += 0.02)
    await page.mouse.click(stage.x + stage.width / 2, stage.y + y * stage.height);
  await expect(laid).toBeVisible();
  await page.getByRole('button', { name: 'Take back' }).click();
  await page.getByRole('button', { name: 'Row is done' }).click();
  await page.getByLabel('Name of the joints').fill('down');
  await page.getByRole('button', { name: 'Add the joints' }).click();
  await expect(page.getByRole('heading', { name: /down jointed\.glb/ })).toBeVisible();
  await saved(page);

  await page.getByRole('button', { name: 'Make that shot' }).click();
  await expect(page.getByText('Everything found its like.')).toBeVisible();

  await page.getByRole('link', { name: 'Tune' }).click();
  await page.getByLabel('Filter lanes').fill('down');
  await page.getByRole('button', { name: 'in groups' }).click();
  await expect(page.getByText(/6 chains, the farthest off source \d+\.\d°$/)).toBeVisible();
  expect((await laneNumbers(page, 'down 1')).degrees).toBeGreaterThan(1);

  // It leaves as a file whose new joints swing in another player.
  await page.getByRole('link', { name: 'Hand off' }).click();
  await page.getByRole('button', { name: 'Bake', exact: true }).click();
  const waiting = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Download GLB' }).click();
  const at = await play(await bytesOf(await waiting));
  const far = at('Lookout with follow-through', 1.3, 'down_1_4').distanceTo(
    at('Lookout with follow-through', 0, 'down_1_4'),
  );
  expect(far).toBeGreaterThan(0.001);
});
