import { expect } from 'vitest';
import { demoFiles } from '../../demo/src/index';
import { Player } from './player';
import {
  makePose,
  rigSize,
  rootMatrix,
  samplePose,
  worldMatrices,
  type Character,
} from '../src/character/index';
import { openContainer } from '../src/formats/gltf/index';
import { makeChainPart, type ChainSettings } from '../src/parts/chain/shared';
import { editShot, makeShot, type Shot } from '../src/shot/index';
import type { Frames } from '../src/frames/index';
import { bakeGlb, defaultBake, type BakeOptions } from '../src/bake/index';

export const [brindle] = await demoFiles();

export function bake(
  bytes: Uint8Array,
  fileName: string,
  shot: Shot,
  options: Partial<BakeOptions> = {},
): Uint8Array<ArrayBuffer> {
  const run = bakeGlb(openContainer(bytes, fileName), shot, { ...defaultBake(shot), ...options });
  for (;;) {
    const step = run.next();
    if (step.done) return step.value.bytes;
  }
}

/** World places of all joints at row f of the frames, in file units. */
export function simulatedPlaces(c: Character, shot: Shot, frames: Frames, f: number): number[] {
  const pose = makePose(c);
  samplePose(c, shot.clip ? c.clips[shot.clip.index]! : null, (frames.first + f) / shot.fps, pose);
  const n = frames.joints.length;
  frames.joints.forEach((node, i) => {
    pose.r.set(frames.rotations.subarray(4 * (f * n + i), 4 * (f * n + i) + 4), 4 * node);
    pose.t.set(frames.translations.subarray(3 * (f * n + i), 3 * (f * n + i) + 3), 3 * node);
  });
  const world = new Float64Array(16 * c.nodes.length);
  worldMatrices(c, pose, rootMatrix(1, 'Y'), world);
  return [...c.joints].flatMap((j) => [12, 13, 14].map((k) => world[16 * j + k]!));
}

export async function expectPlayed(
  baked: Uint8Array<ArrayBuffer>,
  clip: number,
  c: Character,
  shot: Shot,
  frames: Frames,
  first = shot.range.first,
  shift = 0,
): Promise<void> {
  const player = await Player.open(baked);
  const size = rigSize(c);
  for (let f = first; f <= shot.range.last; f++) {
    const theirs = player.places(clip, Math.fround(f / shot.fps + shift), [...c.joints]);
    const ours = simulatedPlaces(c, shot, frames, f - frames.first);
    ours.forEach((x, i) => expect(Math.abs(x - theirs[i]!) / size, `frame ${f}`).toBeLessThan(1e-5));
  }
}

export function chainOn(
  c: Character,
  hash: string,
  row: readonly number[],
  settings: Partial<ChainSettings>,
  clip: number | null = 0,
): Shot {
  const k = clip === null ? null : c.clips[clip]!;
  const shot = makeShot({
    name: 't',
    hash,
    fileName: 'a.glb',
    clip: k && { index: clip!, name: k.name, duration: k.duration },
  });
  return editShot(shot, 'test-0001', 'Make chain', (d) => {
    d.parts.p = makeChainPart({
      id: 'p',
      name: 'P',
      joints: row.map((n) => ({ node: n, name: c.nodes[n]!.name })),
      settings,
    });
  }).shot;
}
