import { expect, it } from 'vitest';
import { readGltf } from '@oscillum/core/gltf';
import { simulateAll } from '@oscillum/core/simulate';
import { demoFiles } from '@oscillum/demo';
import { runOf, shotsOnClips, shotsWithSetting } from './variants';

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
  const whole = runOf(leap, frames, []);
  const tail = frames.parts.at(-1)!.partId;
  const one = runOf(leap, frames, [tail]);
  const column = (f: number) => frames.tipOffSource[f * frames.parts.length + frames.parts.length - 1]!;
  expect(one.far).toBe(column(one.worst - frames.first));
  expect(one.far).toBe(Math.max(...Array.from({ length: frames.count }, (_, f) => column(f))));
  expect(whole.far).toBeGreaterThanOrEqual(one.far);
});

it('a setting is halved and doubled with its keys, within its limits, and nothing else is', async () => {
  const [brindle] = await demoFiles();
  const shot = brindle!.shots.find((s) => s.clip?.name === 'Lookout')!;
  const id = Object.keys(shot.parts)[0]!;
  const keyed = structuredClone(shot) as typeof shot;
  const part = keyed.parts[id]!;
  Object.assign(part.settings, { hold: 20 });
  Object.assign(part.keys, { damping: [{ frame: 3, value: 0.4, kind: 'smooth' }] });
  const [half, now, double] = shotsWithSetting(keyed, [id], 'hold');
  expect([half!.name, now!.shot, double!.name]).toEqual(['half', keyed, 'double']);
  const hold = (s: typeof shot) => (s.parts[id]!.settings as Record<string, number>).hold;
  expect([hold(half!.shot), hold(double!.shot)]).toEqual([10, 30]);
  expect(double!.shot.parts[id]!.keys).toEqual(part.keys);
  const damped = shotsWithSetting(keyed, [id], 'damping')[2]!.shot.parts[id]!;
  expect((damped.keys as Record<string, { value: number }[]>).damping![0]!.value).toBeCloseTo(0.8, 12);
});
