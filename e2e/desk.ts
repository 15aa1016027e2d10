import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { expect, type Download, type Page } from '@playwright/test';
import { demoFiles } from '@oscillum/demo';
import { AnimationMixer, LoopOnce, Vector3, type Object3D } from 'three';
import { GLTFLoader, type GLTF } from 'three/examples/jsm/loaders/GLTFLoader.js';

/** A shot as the demo has it, whatever other tests did to theirs, under a name of its own. */
export async function freshShot(
  page: Page,
  which: 'Stride away' | 'Leap' | 'Lookout',
  more: object = {},
): Promise<string> {
  const [brindle] = await demoFiles();
  const shot = brindle!.shots.find((s) => s.clip?.name === which)!;
  const answer = await page.request.post('/api/shots', {
    data: { ...shot, name: `Fresh ${which}`, ...more },
  });
  return ((await answer.json()) as { id: string }).id;
}

/** Drops a file on the page as a person would from a file manager. */
export async function dropFile(page: Page, name: string, bytes: Uint8Array): Promise<void> {
  const transfer = await page.evaluateHandle(
    ({ name, base64 }) => {
      const data = new DataTransfer();
      data.items.add(new File([Uint8Array.from(atob(base64), (c) => c.charCodeAt(0))], name));
      return data;
    },
    { name, base64: Buffer.from(bytes).toString('base64') },
  );
  await page.dispatchEvent('body', 'dragenter', { dataTransfer: transfer });
  await page.dispatchEvent('body', 'drop', { dataTransfer: transfer });
}

/** Finds a joint by its name in a row that asks for one. */
export async function chooseJoint(page: Page, label: string, name: string): Promise<void> {
  await page.getByRole('combobox', { name: label }).fill(name);
  await page.getByRole('option', { name, exact: true }).click();
}

/** Drags a slider's thumb to a share of its track. */
export async function dragSlider(page: Page, label: string, share: number): Promise<void> {
  const slider = page.getByRole('slider', { name: label, exact: true });
  await slider.scrollIntoViewIfNeeded();
  const box = (await slider.boundingBox())!;
  const [min, max, value] = await slider.evaluate((s: HTMLInputElement) => [
    Number(s.min),
    Number(s.max),
    Number(s.value),
  ]);
  const at = (v: number) => box.x + 3 + v * (box.width - 6);
  await page.mouse.move(at((value! - min!) / (max! - min!)), box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(at(share), box.y + box.height / 2, { steps: 8 });
  await page.mouse.up();
}

/** "off source 12.3°, tip 4.5 cm" as numbers, once the simulation has come to rest. */
export async function laneNumbers(page: Page, name: string): Promise<{ degrees: number }> {
  const text = page.getByTestId(`lane-${name}`).getByTestId('lane-numbers');
  await expect(text).toHaveText(/off source/);
  return { degrees: Number(/off source ([\d.]+)/.exec((await text.textContent()) ?? '')![1]) };
}

export async function saved(page: Page): Promise<void> {
  await expect(page.getByRole('status').filter({ hasText: /^Saved$/ })).toBeVisible();
}

export async function bytesOf(download: Download): Promise<Uint8Array<ArrayBuffer>> {
  return new Uint8Array(readFileSync(await download.path()));
}

/** Number of the run that is on screen, once it is whole. */
export async function run(page: Page): Promise<number> {
  const lanes = page.getByRole('region', { name: 'Lanes' });
  await expect(lanes).toHaveAttribute('data-whole', 'true');
  return Number(await lanes.getAttribute('data-simulated'));
}

/** Waits for a run newer than the one given. */
export async function newer(page: Page, than: number): Promise<number> {
  await expect
    .poll(async () =>
      Number(await page.getByRole('region', { name: 'Lanes' }).getAttribute('data-simulated')),
    )
    .toBeGreaterThan(than);
  return run(page);
}

/** Plays a file in a player that is not ours: where a joint is in a clip at a time. */
export async function play(
  bytes: Uint8Array<ArrayBuffer>,
): Promise<(clip: string, time: number, joint: string) => Vector3> {
  const gltf = await new Promise<GLTF>((resolve, reject) =>
    new GLTFLoader().parse(bytes.slice().buffer, '', resolve, reject),
  );
  return (clip, time, joint) => {
    const mixer = new AnimationMixer(gltf.scene);
    const action = mixer.clipAction(gltf.animations.find((a) => a.name === clip)!);
    action.setLoop(LoopOnce, 1).play();
    action.clampWhenFinished = true;
    mixer.setTime(time);
    gltf.scene.updateMatrixWorld(true);
    const place = (gltf.scene.getObjectByName(joint) as Object3D).getWorldPosition(new Vector3());
    mixer.stopAllAction();
    return place;
  };
}

const field = (page: Page) => page.getByRole('application', { name: /Keys and curves/ });

/** What the curve of the first joint shown is, once it is baked: changes with every one of its keys. */
export async function curveKeys(page: Page): Promise<string> {
  await expect(field(page)).toHaveAttribute('data-baking', 'false');
  return (await field(page).getAttribute('data-places'))!;
}

/** Drags along the top of the curves, between shares of their width. */
export async function takeSpan(page: Page, from: number, to: number): Promise<void> {
  const box = (await field(page).boundingBox())!;
  await page.mouse.move(box.x + from * box.width, box.y + 5);
  await page.mouse.down();
  await page.mouse.move(box.x + to * box.width, box.y + 5, { steps: 5 });
  await page.mouse.up();
}

/** Where a key of the first joint that is shown stands on the page: frame and value of a component. */
export async function keyAt(page: Page, index: number, component: number): Promise<{ x: number; y: number }> {
  const box = (await field(page).boundingBox())!;
  const at = (await field(page).getAttribute('data-places'))!.split(' ').map(Number);
  return { x: box.x + at[4 * index]!, y: box.y + at[4 * index + 1 + component]! };
}

/** Sets keys of a value on its curve: a press on the line each, then its frame and value typed. */
export async function setKeys(
  page: Page,
  label: string,
  keys: readonly (readonly [number, number])[],
): Promise<void> {
  const curve = page.getByRole('group', { name: `${label}, by frame` }).first();
  for (const [k, [frame, value]] of keys.entries()) {
    await curve.scrollIntoViewIfNeeded();
    const box = (await curve.boundingBox())!;
    await page.mouse.click(box.x + box.width * (0.35 + 0.25 * k), box.y + box.height / 2);
    for (const [name, to] of [
      ['Frame of the key', frame],
      ['Value of the key', value],
    ] as const) {
      const typed = page.getByRole('group', { name: new RegExp(`of ${label}$`) }).getByLabel(name);
      await typed.fill(String(to));
      await typed.press('Enter');
    }
  }
}

/** The keys of a value as its curve says them: "4 Hz on frame 0". */
export const keysOf = (page: Page, label: string): Promise<(string | null)[]> =>
  page
    .getByRole('group', { name: `${label}, by frame` })
    .first()
    .getByRole('slider')
    .evaluateAll((points) => points.map((p) => p.getAttribute('aria-valuetext')));

export const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');
