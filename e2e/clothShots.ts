import { type Page } from '@playwright/test';
import { bakeGlb, defaultBake } from '@oscillum/core/bake';
import { openContainer } from '@oscillum/core/gltf';
import { readWeightMap, type WeightMap } from '@oscillum/core/model';
import { parseShot, type Shot } from '@oscillum/core/shot';
import { demoFiles } from '@oscillum/demo';
import { bytesOf, saved } from './desk';

type Cloth = Extract<Shot['parts'][string], { kind: 'cloth' }>;
export const clothOf = (shot: Shot): Cloth =>
  Object.values(shot.parts).find((p): p is Cloth => p.kind === 'cloth')!;
export async function shotOf(page: Page, id: string): Promise<Shot> {
  const { shot } = (await (await page.request.get(`/api/shots/${id}`)).json()) as { shot: unknown };
  return parseShot(shot);
}
/** Shares painted on the leash, as far as they are saved. */
export async function leash(page: Page, id: string): Promise<Float64Array> {
  await saved(page);
  return readWeightMap(clothOf(await shotOf(page, id)).maps.leash as WeightMap);
}
/** A demo shot on some of its frames, without its colliders unless they are given, under an id of its own. */
export async function part(
  page: Page,
  name: string,
  range: { first: number; last: number },
  more: object = { colliders: {} },
): Promise<string> {
  const shot = (await demoFiles()).flatMap((f) => f.shots).find((s) => s.name === name)!;
  const data = { ...shot, name: `Part of ${name}`, range, ...more };
  return ((await (await page.request.post('/api/shots', { data })).json()) as { id: string }).id;
}

/** What the core bakes of a shot of a demo file: the bytes that the command line writes. */
export async function coreBake(shot: Shot): Promise<Buffer> {
  const { fileName } = shot.character;
  const { bytes } = (await demoFiles()).find((f) => f.fileName === fileName)!;
  const bake = bakeGlb(openContainer(bytes, fileName), shot, defaultBake(shot));
  let step = bake.next();
  while (!step.done) step = bake.next();
  return Buffer.from(step.value.bytes);
}

/** Bakes in the Hand off room, and takes the GLB away. */
export async function bakedGlb(page: Page): Promise<Uint8Array<ArrayBuffer>> {
  await page.getByRole('button', { name: 'Bake', exact: true }).click();
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Download GLB' }).click(),
  ]);
  return bytesOf(file);
}
