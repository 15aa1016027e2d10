import { describe, expect, it } from 'vitest';
import { base, FPS, swing, swingOf } from '../../../truth/overlapRows';
import type { Frames } from '../../frames/index';

describe('overlap hands the swing of the base down the chain', () => {
  for (const [gain, late] of [
    [130, 1.5],
    [130, 1.3],
    [80, 1],
    [100, 2],
  ] as const)
    it(`each joint swings ${gain} % of the one above it, ${late} frames later`, () => {
      const frames = swing(base(8), { overlap: 100, overlapGain: gain, overlapLag: late });
      let before = { size: 4, lag: 0 };
      for (let i = 0; i < 6; i++) {
        const now = swingOf(frames, i, 6 * FPS, 8 * FPS);
        expect(Math.abs(now.size / before.size / (gain / 100) - 1)).toBeLessThan(0.05);
        expect(Math.abs((now.lag - before.lag) / late - 1)).toBeLessThan(0.05);
        before = now;
      }
    });
  it('its first joint can be the one that drives; what is above it then plays no part', () => {
    const c = base(8);
    const [places, turns] = c.clips[0]!.channels;
    const moved = { ...c, clips: [{ ...c.clips[0]!, channels: [places!, { ...turns!, node: 1 }] }] };
    const frames = swing(moved, { overlap: 100, overlapGain: 120, overlapLag: 1 }, (p) => {
      p.overlapFrom = 'first';
    });
    const joints = [0, 1, 2, 3, 4, 5].map((i) => swingOf(frames, i, 6 * FPS, 8 * FPS));
    joints.forEach((now, i) => {
      expect(now.size / (4 * 1.2 ** i)).toBeCloseTo(1, 1);
      expect(now.lag - joints[0]!.lag).toBeCloseTo(i, 1);
    });
  });
  it('closes a loop to the bit, and begins it as the frames before it would have', () => {
    const settings = { overlap: 100, overlapGain: 130, overlapLag: 1.7 };
    const loop = swing(base(1), settings, (_, shot) => void (shot.loop = true));
    expect(loop.start.loop?.found).toBe(true);
    const wide = loop.rotations.length / loop.count;
    const frame = (f: Frames, k: number) => f.rotations.subarray(k * wide, (k + 1) * wide);
    expect(frame(loop, FPS)).toEqual(frame(loop, 0));
    // The same second, the seventh of eight.
    const long = swing(base(8), settings);
    for (let k = 0; k < FPS; k++)
      frame(loop, k).forEach((x, i) => expect(Math.abs(x - frame(long, 6 * FPS + k)[i]!)).toBeLessThan(1e-3));
  });
  it('does nothing at 0, grows by a profile toward the tip, and comes with its keys', () => {
    const settings = { overlapGain: 100, overlapLag: 1 };
    const c = base(8);
    expect(swing(c, settings).rotations).toEqual(swing(c, { overlapGain: 200 }).rotations);
    const tipped = swing(c, { overlap: 100, ...settings }, (p) => {
      p.profiles.overlapGain = [
        [0, 1],
        [0.5, 1],
        [1, 2],
      ];
    });
    const size = (f: Frames, i: number) => swingOf(f, i, 6 * FPS, 8 * FPS).size;
    expect(size(tipped, 1) / size(tipped, 0)).toBeCloseTo(1, 1);
    expect(size(tipped, 5) / size(tipped, 4)).toBeGreaterThan(1.5);
    const keyed = swing(c, settings, (p) => {
      p.keys.overlap = [
        { frame: 0, value: 0, kind: 'stepped' },
        { frame: 4 * FPS, value: 100, kind: 'stepped' },
      ];
    });
    expect(swingOf(keyed, 5, FPS, 3 * FPS).size).toBeLessThan(0.2);
    expect(swingOf(keyed, 5, 6 * FPS, 8 * FPS).size).toBeCloseTo(4, 1);
  });
});
