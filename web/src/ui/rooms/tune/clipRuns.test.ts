import { expect, it } from 'vitest';
import { readGltf } from '@oscillum/core/gltf';
import { simulateAll } from '@oscillum/core/simulate';
import { demoFiles } from '@oscillum/demo';
import { clipRun, shotsOnClips } from './clipRuns';

it('the set-up of a shot stands on every clip, and the worst frame of what is chosen is found', async () => {
  const [brindle] = await demoFiles();
  const character = readGltf(brindle!.bytes, 'brindle.glb');
  const shot = brindle!.shots.find((s) => s.clip?.name === 'Lookout')!;
  const all = shotsOnClips(character, shot);
  expect(all.map((r) => r.name)).toEqual(character.clips.filter((c) => !c.over).map((c) => c.name));
  expect(all.find((r) => r.name === 'Lookout')!.shot).toBe(shot);
  const leap = all.find((r) => r.name === 'Leap')!;
  expect(Object.keys(leap.shot.parts)).toEqual(Object.keys(shot.parts));
  const frames = simulateAll(character, leap.shot);
  const whole = clipRun(leap, frames, []);
  const tail = frames.parts.at(-1)!.partId;
  const one = clipRun(leap, frames, [tail]);
  const column = (f: number) => frames.tipOffSource[f * frames.parts.length + frames.parts.length - 1]!;
  expect(one.far).toBe(column(one.worst - frames.first));
  expect(one.far).toBe(Math.max(...Array.from({ length: frames.count }, (_, f) => column(f))));
  expect(whole.far).toBeGreaterThanOrEqual(one.far);
});
