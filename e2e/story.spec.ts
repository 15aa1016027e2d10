import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { expect, test, type Page } from '@playwright/test';
import { validateBytes } from 'gltf-validator';
import { brindleGlb } from '@oscillum/demo';
import { parseShot } from '@oscillum/core/shot';
import { bytesOf, dragSlider, dropFile, laneNumbers, play, saved } from './desk';

const ROOT = fileURLToPath(new URL('..', import.meta.url));

test('from a dropped character to baked keys, with mouse and keyboard only', async ({ page }) => {
  await page.goto('/');
  // Other tests leave shots of their own.
  await page.getByLabel('Search shots').fill('Brindle, Stride away');
  await expect(page.getByRole('article', { name: 'Brindle, Stride away' })).toBeVisible();
  await dropFile(page, 'courier.glb', await brindleGlb());

  // Prepare: the character is there, a clip is chosen, it plays.
  await expect(page).toHaveURL(/prepare/);
  await expect(page.getByText('80', { exact: true })).toBeVisible();
  await page.getByLabel('Clip', { exact: true }).selectOption({ label: 'Stride away · 3.20 s' });
  await page.getByTestId('stage').click({ position: { x: 30, y: 300 } });
  await page.keyboard.press('Space');
  await expect.poll(async () => Number(await page.getByTestId('frame').textContent())).toBeGreaterThan(3);
  await page.keyboard.press('Space');
  await page.keyboard.press('Home');
  await expect(page.getByTestId('frame')).toHaveText('0');

  // Tune: find the plume, make it a chain.
  await page.getByRole('link', { name: 'Tune' }).click();
  await expect(page.getByRole('region', { name: 'Lanes' })).toBeVisible();
  await expect(page.getByText('Nothing moves yet')).toBeVisible();
  await page.getByLabel('Search joints').fill('plume middle');
  await page.getByRole('treeitem', { name: /plume middle 1/ }).click();
  await expect(page.getByRole('region', { name: 'Make chain' })).toContainText('7 joints');
  await page.getByRole('button', { name: 'Make chain' }).click();
  const first = await laneNumbers(page, 'Plume middle');
  expect(first.degrees).toBeGreaterThan(1);

  // Softer hold and bend: it strays further, while the slider is still held too.
  await dragSlider(page, 'Hold', 0.06);
  await dragSlider(page, 'Bend', 0.06);
  await expect
    .poll(async () => (await laneNumbers(page, 'Plume middle')).degrees)
    .toBeGreaterThan(first.degrees * 1.3);
  const soft = await laneNumbers(page, 'Plume middle');
  await dragSlider(page, 'Damping', 0.9);
  await expect.poll(async () => (await laneNumbers(page, 'Plume middle')).degrees).not.toBe(soft.degrees);

  // Typing works, undo takes back one step at a time, redo brings it again.
  await page.getByLabel('Damping value').fill('0.2');
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Damping value')).toHaveValue('0.2');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByLabel('Damping value')).not.toHaveValue('0.2');
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect(page.getByLabel('Damping value')).toHaveValue('0.2');
  await saved(page);

  // A reload comes back to room, frame and selection.
  await page.getByRole('slider', { name: 'Frame' }).click({ position: { x: 300, y: 10 } });
  const frame = await page.getByTestId('frame').textContent();
  await expect(page).toHaveURL(new RegExp(`frame=${frame}&parts=p`));
  await page.reload();
  await expect(page.getByTestId('frame')).toHaveText(frame!);
  await expect(page.getByLabel('Damping value')).toHaveValue('0.2');
  await laneNumbers(page, 'Plume middle');

  // Hand off: bake, download; what was baked is muted.
  await page.getByRole('link', { name: 'Hand off' }).click();
  await page.getByLabel('Name of the new clip').fill('Stride away, soft tail');
  await page.getByRole('button', { name: 'Bake', exact: true }).click();
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Download GLB' }).click(),
  ]);
  expect(file.suggestedFilename()).toBe('courier-baked.glb');
  const baked = await bytesOf(file);
  const [json] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Shot as JSON' }).click(),
  ]);
  await expect(page.getByText('muted, so that motion baked already is not doubled')).toBeVisible();
  await page.getByRole('link', { name: 'Tune' }).click();
  await expect(page.getByRole('region', { name: 'Lanes' })).toBeVisible();
  await expect(page.getByTestId('lane-Plume middle')).toContainText('muted: baked already');
  await saved(page);

  // The file is sound, holds the new clip, and its tail moves where the source's did not.
  expect((await validateBytes(baked)).issues.messages).toEqual([]);
  const at = await play(baked);
  let most = 0;
  for (let f = 0; f <= 96; f += 4)
    most = Math.max(
      most,
      at('Stride away', f / 30, 'plume_middle_7').distanceTo(
        at('Stride away, soft tail', f / 30, 'plume_middle_7'),
      ),
    );
  expect(most).toBeGreaterThan(0.05);
  expect(at('Stride away', 1, 'head').distanceTo(at('Stride away, soft tail', 1, 'head'))).toBeLessThan(1e-6);

  // The command line makes the same bytes from the same shot: worker and Node agree to the bit.
  const folder = mkdtempSync(join(tmpdir(), 'oscillum-story-'));
  writeFileSync(join(folder, 'shot.json'), await bytesOf(json));
  writeFileSync(join(folder, 'courier.glb'), await brindleGlb());
  execFileSync(
    'node',
    [
      'cli/bin/oscillum.mjs',
      'bake',
      join(folder, 'shot.json'),
      '--character',
      join(folder, 'courier.glb'),
      '--out',
      join(folder, 'out.glb'),
      '--name',
      'Stride away, soft tail',
    ],
    { cwd: ROOT, stdio: 'pipe' },
  );
  expect(readFileSync(join(folder, 'out.glb')).equals(Buffer.from(baked))).toBe(true);

  // And the downloaded shot opens again.
  parseShot(JSON.parse(Buffer.from(await bytesOf(json)).toString('utf8')));
  await page.goto('/');
  await page.getByLabel('Choose a character file').setInputFiles(join(folder, 'shot.json'));
  await expect(page).toHaveURL(/prepare/);
});

test('a chain from a first and a last joint, several at once, muted, removed and brought back', async ({
  page,
}) => {
  await page.goto('/shot/demoshot0006/tune');
  await expect(page.getByText('Click the first joint')).toHaveCount(2);
  await page.getByRole('treeitem', { name: /rope 2/ }).click();
  await page.getByRole('treeitem', { name: /rope 5/ }).click({ modifiers: ['Shift'] });
  await expect(page.getByRole('region', { name: 'Make chain' })).toContainText('4 joints');
  await page.getByRole('button', { name: 'Make chain' }).click();
  await laneNumbers(page, 'Rope');
  await page.getByRole('treeitem', { name: /rope 3/ }).click();
  await expect(page.getByRole('region', { name: 'Make chain' })).toContainText('moved by Rope already');
  await expect(page.getByRole('button', { name: 'Make chain' })).toBeDisabled();
  await page.getByRole('button', { name: 'Mute Rope' }).click();
  await expect(page.getByTestId('lane-Rope')).toContainText('muted');
  await page.getByRole('button', { name: 'Select Rope' }).click();
  await page.keyboard.press('Delete');
  await expect(page.getByTestId('lane-Rope')).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('lane-Rope')).toBeVisible();

  await page.goto('/shot/demoshot0001/tune');
  const search = page.getByLabel('Search joints');
  await search.fill('left 1');
  await page.getByRole('treeitem', { name: /crest left 1/ }).click();
  await search.fill('right 1');
  await page.getByRole('treeitem', { name: /crest right 1/ }).click({ modifiers: ['Control'] });
  await page.getByRole('button', { name: 'Make 2 chains' }).click();
  await laneNumbers(page, 'Crest right');
  // Both are selected: one slider moves both.
  await expect(page.getByRole('heading', { name: '2 chains' })).toBeVisible();
  const before = [await laneNumbers(page, 'Crest left'), await laneNumbers(page, 'Crest right')];
  await dragSlider(page, 'Hold', 0.02);
  await expect.poll(async () => (await laneNumbers(page, 'Crest left')).degrees).not.toBe(before[0]!.degrees);
  await expect
    .poll(async () => (await laneNumbers(page, 'Crest right')).degrees)
    .not.toBe(before[1]!.degrees);
});

test('joints are picked on the stage, and keys and commands reach everything', async ({ page }) => {
  await page.goto('/shot/demoshot0006/tune');
  const stage = page.getByTestId('stage');
  await expect(stage).toHaveAttribute('data-drawn-frame', /\d/);
  await page.keyboard.press('1');
  // The lantern hangs near the middle of the side view: look for a joint by moving, then click what is named.
  const box = (await stage.boundingBox())!;
  let found = false;
  for (let y = 0.2; y < 0.95 && !found; y += 0.04) {
    for (let x = 0.35; x < 0.7 && !found; x += 0.025) {
      await page.mouse.move(box.x + box.width * x, box.y + box.height * y);
      found = await stage.evaluate((e) => e.style.cursor === 'pointer');
    }
  }
  expect(found).toBe(true);
  await page.mouse.down();
  await page.mouse.up();
  await expect(page.getByRole('region', { name: 'Make chain' })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('region', { name: 'Make chain' })).toHaveCount(0);

  await page.keyboard.press('End');
  await expect(page.getByTestId('frame')).toHaveText('120');
  await page.keyboard.press('ArrowLeft');
  await expect(page.getByTestId('frame')).toHaveText('119');
  await page.keyboard.press('Control+k');
  await page.getByRole('textbox', { name: 'Find anything' }).fill('first frame');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('frame')).toHaveText('0');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await page.keyboard.press('k');
  await expect(page.getByRole('dialog')).toContainText('Keyboard');
  await expect(page.getByRole('dialog')).toContainText('Undo');
});

/** Pictures that the browser keeps of a shot, and of which revision. */
const keptPictures = (page: Page, id: string) =>
  page.evaluate(
    (id) =>
      new Promise<{ key: string; revision: number }[]>((resolve, reject) => {
        const asked = indexedDB.open('keyval-store');
        asked.onerror = () => reject(asked.error);
        asked.onsuccess = () => {
          const store = asked.result.transaction('keyval').objectStore('keyval');
          const [keys, values] = [store.getAllKeys(), store.getAll()];
          values.onsuccess = () =>
            resolve(
              keys.result.flatMap((key, k) =>
                String(key).includes(id) && String(key).startsWith('thumbnail')
                  ? [{ key: String(key), revision: values.result[k].revision as number }]
                  : [],
              ),
            );
        };
      }),
    id,
  );

test('library: rename, duplicate, delete with undo; bad files get a message', async ({ page }) => {
  await page.goto('/');
  const card = (name: string) => page.getByRole('article', { name, exact: true });
  // Found by a word of its name, however many shots there are; what has changed last stands first then.
  await page.getByLabel('Search shots').fill('Brindle, Lookout');
  await card('Brindle, Lookout').getByRole('button', { name: 'Duplicate' }).click();
  await page.getByLabel('Search shots').fill('');
  await card('Brindle, Lookout copy').getByRole('button', { name: 'Rename' }).click();
  await page.getByLabel('New name').fill('Night watch');
  await page.keyboard.press('Enter');
  await expect(card('Night watch')).toBeVisible();
  await expect(card('Night watch').locator('img')).toHaveAttribute('src', /^data:image/);
  // Of the copy one picture is kept, that of its latest revision; it was drawn before it was renamed, too.
  const address = (await card('Night watch').getByRole('link').first().getAttribute('href'))!;
  const id = /shot\/([^/]+)/.exec(address)![1]!;
  await expect.poll(() => keptPictures(page, id)).toEqual([{ key: `thumbnail:${id}`, revision: 1 }]);
  await card('Night watch').getByRole('button', { name: 'Delete' }).click();
  await expect(card('Night watch')).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(card('Night watch')).toBeVisible();

  await dropFile(page, 'letter.glb', new TextEncoder().encode('Dear Brindle'));
  await expect(
    page.getByRole('alert').filter({ hasText: 'letter.glb: is neither glTF nor BVH' }),
  ).toBeVisible();
});

test('a shot that cannot be read says so and leads back; the others open', async ({ page }) => {
  const broken = { id: 'demoshot0002', revision: 1, shot: { version: 1, name: 'Torn' } };
  await page.route('**/api/shots/demoshot0002', (route) => route.fulfill({ json: broken }));
  await page.goto('/shot/demoshot0002/tune');
  await expect(page.getByRole('alert')).toBeVisible();
  await expect(page.getByText('Opening')).toHaveCount(0);
  await page
    .getByRole('link', { name: /library/i })
    .first()
    .click();
  await page.getByPlaceholder('Search shots').fill('Brindle, Stride away');
  await page
    .getByRole('article', { name: 'Brindle, Stride away', exact: true })
    .getByRole('link', { name: 'Open', exact: true })
    .click();
  await expect(page.getByTestId('stage')).toBeVisible();
});

test('a lost server loses nothing: edits are kept here, said so, and sent later', async ({ page }) => {
  await page.goto('/shot/demoshot0002/tune?parts=part1');
  await laneNumbers(page, 'Crest, front');
  await page.route('**/api/**', (route) => route.abort());
  await page.getByLabel('Hold value').fill('1.25');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('status').filter({ hasText: 'Offline, kept here' })).toBeVisible();
  await page.unroute('**/api/**');
  await saved(page);
  await page.reload();
  await expect(page.getByLabel('Hold value')).toHaveValue('1.25');

  // Closed while offline: the edit waits in the browser and goes out on the next visit.
  await page.route('**/api/shots/*/edits', (route) => route.abort());
  await page.getByLabel('Hold value').fill('1.75');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('status').filter({ hasText: 'Offline, kept here' })).toBeVisible();
  await page.goto('/');
  await page.unroute('**/api/shots/*/edits');
  await page.goto('/shot/demoshot0002/tune?parts=part1');
  await expect(page.getByLabel('Hold value')).toHaveValue('1.75');
  await saved(page);

  // Someone else changed the shot meanwhile: ours goes on top of theirs.
  const state = (await (await page.request.get('/api/shots/demoshot0002')).json()) as { revision: number };
  await page.request.post('/api/shots/demoshot0002/edits', {
    data: {
      baseRevision: state.revision,
      edits: [
        {
          id: crypto.randomUUID(),
          name: 'Rename shot',
          patches: [{ op: 'replace', path: ['name'], value: 'Changed elsewhere' }],
          inverse: [],
        },
      ],
    },
  });
  await page.getByLabel('Damping value').fill('0.33');
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Name of the shot')).toHaveValue('Changed elsewhere');
  await saved(page);
  await expect(page.getByLabel('Damping value')).toHaveValue('0.33');
});
