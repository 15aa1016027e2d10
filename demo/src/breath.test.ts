import { beforeAll, describe, expect, it } from 'vitest';
import { bakeGlb, defaultBake } from '@oscillum/core/bake';
import { makePose, samplePose } from '@oscillum/core/character';
import { openContainer, readContainer } from '@oscillum/core/gltf';
import { makePendulumPart, PENDULUM_PRESETS, type Output } from '@oscillum/core/pendulum';
import { editShot, type Shot } from '@oscillum/core/shot';
import { simulateAll } from '@oscillum/core/simulate';
import type { Frames } from '@oscillum/core/frames';
import { demoFiles } from './index';

/**
 * One breath lifts Brindle: the belly swells, the chest leans back and carries the head along, the wings open; each
 * later than the last, without a bounce, never past the pose drawn for it.
 */
const [file] = await demoFiles();
const container = openContainer(file!.bytes, file!.fileName);
const character = readContainer(container, {}, { skeletonOnly: true });
const lookout = file!.shots[1]!;
const joint = (name: string) => ({ node: character.nodes.findIndex((n) => n.name === name), name });
const output = (id: string, delay: number, more: Partial<Output>): Output =>
  ({
    ...{ id, pendulum: 1, delay, gain: 1, offset: 0, low: null, high: null, order: 'on top' },
    ...more,
  }) as Output;

function breathing(set: Partial<Shot> = {}): Shot {
  const shot = { ...lookout, ...set };
  const pace = shot.fps / 30;
  const at = [
    [0, 0],
    [1.5, 1],
    [3.5, 0],
    [4, 0],
  ] as const;
  return editShot(shot, 'breath-001', 'Breathe', (d) => {
    d.parts = {};
    d.parts['breath' as never] = makePendulumPart({
      id: 'breath',
      name: 'Breath',
      noOvershoot: true,
      settings: PENDULUM_PRESETS[0]!.settings,
      // On moments that every frame rate has.
      input: { from: 'drawn', keys: at.map(([s, value]) => ({ frame: s * shot.fps, value })), cycles: true },
      outputs: [
        output('belly', 0, {
          target: { does: 'scale', joint: joint('belly'), axis: 'all' },
          gain: 0.12,
          high: 0.1,
        }),
        output('chest', 4 * pace, {
          target: { does: 'turn', joint: joint('chest'), axis: 'x' },
          gain: -6,
          low: -5,
        }),
        output('wing', 8 * pace, {
          ...{
            target: { does: 'turn', joint: joint('wing left'), axis: 'z' },
            gain: 8,
            high: 7,
            order: 'instead',
          },
        }),
      ],
    });
  }).shot;
}
const readout = (frames: Frames, id: string) => {
  const k = frames.readoutNames.indexOf(id);
  return Array.from({ length: frames.count }, (_, f) => frames.readouts[f * frames.readoutNames.length + k]!);
};
const peak = (row: readonly number[]) =>
  row.reduce((m, x, i) => (Math.abs(x) > Math.abs(row[m]!) ? i : m), 0);

describe('one breath on Brindle', () => {
  let frames: Frames;
  beforeAll(() => {
    frames = simulateAll(character, breathing());
  });
  it('lifts belly, chest and wing, each later than the last', () => {
    const peaks = ['belly', 'chest', 'wing'].map((id) => peak(readout(frames, id)));
    expect(peaks[1]! - peaks[0]!).toBe(4);
    expect(peaks[2]! - peaks[1]!).toBe(4);
  });
  it('has no bounce, and never passes the pose drawn for it', () => {
    const limits = { belly: 0.1, chest: 5, wing: 7 };
    for (const [id, limit] of Object.entries(limits)) {
      const row = readout(frames, id).map(Math.abs);
      expect(Math.max(...row)).toBeLessThan(limit);
      expect(Math.max(...row)).toBeGreaterThan(0.8 * limit);
      // Once up and once down, the way it breathes in and out: the slope changes its sign once.
      const slopes = row.slice(1).map((x, i) => Math.sign(Math.round((x - row[i]!) * 1e7)));
      const turns = slopes.filter(Boolean).filter((s, i, all) => i > 0 && s !== all[i - 1]);
      expect(turns.length).toBe(1);
    }
  });
  it('closes on a loop of Lookout to 1e-6, in every joint and scale', () => {
    const looped = simulateAll(character, breathing({ loop: true }));
    expect(looped.start.loop).toMatchObject({ found: true });
    const last = looped.count - 1;
    for (const [list, wide] of [
      [looped.rotations, 4 * looped.joints.length],
      [looped.scales, 3 * looped.scaled.length],
    ] as const)
      for (let k = 0; k < wide; k++) expect(Math.abs(list[last * wide + k]! - list[k]!)).toBeLessThan(1e-6);
  });
  it('is the same at 24 and 60 frames a second, within 1 %', () => {
    const at = [24, 60].map((fps) => {
      const seconds = (lookout.range.last - lookout.range.first) / lookout.fps;
      const range = { first: 0, last: Math.floor(seconds * fps) };
      return { fps, frames: simulateAll(character, breathing({ fps, range })) };
    });
    for (const id of ['belly', 'chest', 'wing']) {
      const [a, b] = at.map((x) => readout(x.frames, id));
      const most = Math.max(...b!.map(Math.abs));
      for (let half = 0; half < 7; half++)
        expect(Math.abs(a![12 * half]! - b![30 * half]!)).toBeLessThan(0.01 * most);
    }
  });
  it('baked and thinned it is the same motion in the file', () => {
    const shot = breathing();
    const thin = { kind: 'cubic' as const, degrees: 0.2, millimetres: 1 };
    const run = bakeGlb(container, shot, { ...defaultBake(shot), name: 'Breathing', thin });
    let step = run.next();
    while (!step.done) step = run.next();
    const again = readContainer(openContainer(step.value.bytes, 'baked.glb'), {}, { skeletonOnly: true });
    const clip = again.clips.find((c) => c.name === 'Breathing')!;
    const [belly, chest] = [joint('belly').node, joint('chest').node];
    expect(clip.channels.filter((c) => c.node === belly && c.path === 'scale')).toHaveLength(1);
    const keys = clip.channels.find((c) => c.node === belly && c.path === 'scale')!.times.length;
    expect(keys).toBeLessThan(frames.count / 4);
    const pose = makePose(again);
    for (const f of [0, 20, 46, 80, 110]) {
      samplePose(again, clip, f / shot.fps, pose);
      const s = frames.scales[3 * (f * frames.scaled.length + frames.scaled.indexOf(belly))]!;
      expect(Math.abs(pose.s[3 * belly]! - s)).toBeLessThan(0.01);
      const q = 4 * (f * frames.joints.length + frames.joints.indexOf(chest));
      let dot = 0;
      for (let k = 0; k < 4; k++) dot += pose.r[4 * chest + k]! * frames.rotations[q + k]!;
      expect((2 * Math.acos(Math.min(1, Math.abs(dot))) * 180) / Math.PI).toBeLessThan(0.3);
    }
  });
});
