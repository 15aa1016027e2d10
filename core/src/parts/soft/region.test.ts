import { describe, expect, it } from 'vitest';
import { lift, meanOff, offsetsOf, softPatch } from '../../../truth/softRig';
import { pointSpans } from '../../frames/index';
import { Force } from '../../model/index';
import { sheetOf } from '../../sheets/index';
import { parseShot } from '../../shot/index';
import { simulateAll, type TrackCache } from '../../simulate/index';
import type { RegionPart } from './shared';

const set = (settings: Partial<RegionPart['settings']>) => (p: RegionPart) =>
  void Object.assign(p.settings, settings);
const run = (...of: Parameters<typeof softPatch>) => {
  const { character, shot } = softPatch(...of);
  return { character, shot, frames: simulateAll(character, shot) };
};
const most = (list: readonly number[]) => Math.max(...list);

describe('a region of skin', () => {
  it('stays on its skin where nothing moves, and in a steady flight', () => {
    expect(most(run(17, 0.6, () => [0, 0, 0]).frames.tipOffSource as never)).toBe(0);
    const flown = run(17, 0.6, (t) => [2 * t, 0, 0]);
    expect(most([...flown.frames.tipOffSource].slice(30))).toBeLessThan(1e-4);
  });

  it('is left behind by a / ω² while it is accelerated', () => {
    const a = 1.5;
    const { frames } = run(9, 0, (t) => [0.5 * a * t * t, 0, 0], set({ damping: 0.7, spread: 0 }), {
      all: true,
    });
    const u = offsetsOf(frames, 120);
    expect(u[0]! / -(a / (6 * Math.PI) ** 2)).toBeCloseTo(1, 2);
  });

  it('goes as far at any steps a frame, and at 24, 60 and 120 frames a second', () => {
    const sway = (t: number) => [0.1 * Math.min(1, t) ** 3 * Math.sin(9 * t), 0, 0] as const;
    // On moments that all of them have.
    const off = (substeps: number, fps = 60) => {
      const { character, frames } = run(17, 0.6, sway, (_, s) => void (s.substeps = substeps), { fps });
      return meanOff(character, frames).filter((_, f) => f % (fps / 12) === 0);
    };
    const usual = off(4);
    const apart = (other: readonly number[]) =>
      most(other.map((x, k) => Math.abs(x - usual[k]!))) / most(usual);
    for (const substeps of [1, 2, 3, 12]) expect(apart(off(substeps))).toBeLessThan(0.02);
    expect(apart(off(4, 120))).toBeLessThan(0.015);
    // Of a way that is known on 24 frames a second alone.
    expect(apart(off(4, 24))).toBeLessThan(0.05);
  });

  it('moves only what is painted, by as much as it is painted', () => {
    const { frames, shot } = run(17, 0, lift);
    const [span] = pointSpans(frames, 0);
    expect(span!.picked!.length).toBeLessThan(17 * 17);
    const still = simulateAll(run(17, 0, lift).character, {
      ...shot,
      parts: {
        skin: { ...shot.parts.skin!, settings: { ...(shot.parts.skin as RegionPart).settings, amount: 0 } },
      },
    } as typeof shot);
    expect(most([...still.tipOffSource])).toBe(0);
    const faint = run(17, 0, lift, set({ response: 3 }));
    const sum = (f: typeof frames, row: number) => offsetsOf(f, row).reduce((s, x) => s + Math.abs(x), 0);
    expect(sum(faint.frames, 12)).toBeLessThan(0.9 * sum(frames, 12));
  });

  it('keeps its volume: what sinks at one place bulges at another', () => {
    const flux = (volume: number) => {
      const { character, frames } = run(17, 0, lift, set({ volume }));
      const { rest, pointOf } = sheetOf(character, pointSpans(frames, 0)[0]!.node);
      const u = offsetsOf(frames, 10);
      // Through the dome y = 0.05 (1 − r² / 0.15²), whose vertices stand on a grid.
      let [sum, all] = [0, 0];
      pointSpans(frames, 0)[0]!.picked!.forEach((v, i) => {
        const [x, z] = [rest[3 * pointOf[v]!]!, rest[3 * pointOf[v]! + 2]!];
        const through = u[3 * i + 1]! + (0.1 / 0.0225) * (x * u[3 * i]! + z * u[3 * i + 2]!);
        [sum, all] = [sum + through, all + Math.abs(through)];
      });
      return Math.abs(sum) / all;
    };
    expect(flux(0)).toBeGreaterThan(0.9);
    expect(flux(100)).toBeLessThan(0.02);
  });

  it('ends at its reach, softly', () => {
    const free = run(17, 0, lift);
    const far = most([...free.frames.tipOffSource]);
    for (const soften of [0, 50, 100]) {
      const { frames } = run(17, 0, lift, set({ reach: far / 3, soften }));
      const ends = most([...frames.tipOffSource]);
      expect(ends).toBeLessThanOrEqual(far / 3 + 1e-7);
      expect(ends).toBeGreaterThan(far / 6);
    }
  });

  it('hangs by g / ω² where droop is on, and turns with what carries it', () => {
    const g = 9.81 / (6 * Math.PI) ** 2;
    const hangs = run(9, 0, () => [0, 0, 0], set({ droop: 1, damping: 1, spread: 0 }), { all: true });
    expect(offsetsOf(hangs.frames, 200)[1]! / -g).toBeCloseTo(1, 2);
    // Once a second round a middle half a metre away: ω² r / (ω₀² − ω²) outwards.
    const spun = run(9, 0, (t) => [0, 0, 0, 2 * Math.PI * t], set({ damping: 0.5, spread: 0 }), {
      ...{ all: true, off: 0.5, seconds: 5 },
    });
    const middle = 40;
    const row = 240;
    const u = offsetsOf(spun.frames, row).subarray(3 * middle, 3 * middle + 3);
    expect(Math.hypot(...u) / (0.5 / 8)).toBeCloseTo(1, 1);
    // It points away from the middle, not behind.
    expect(Math.abs(u[2]!)).toBeLessThan(0.05 * Math.abs(u[0]!));
  });

  it('feels as much of way and turn as it is set to', () => {
    const far = (settings: Partial<RegionPart['settings']>, at: Parameters<typeof softPatch>[2]) =>
      most([
        ...run(9, 0, at, set({ spread: 0, ...settings }), { all: true, off: 0.5, seconds: 2 }).frames
          .tipOffSource,
      ]);
    expect(far({ travel: 0 }, lift)).toBeLessThan(0.01 * far({}, lift));
    expect(far({ travel: 200 }, lift) / far({}, lift)).toBeCloseTo(2, 2);
    const turning = (t: number) => [0, 0, 0, 0.5 * Math.sin(5 * t)] as const;
    expect(far({ turn: 0 }, turning)).toBeLessThan(0.02 * far({}, turning));
  });

  it('closes a loop, and goes on from a checkpoint to the same bits', () => {
    const { character, shot } = softPatch(
      ...([9, 0, (t: number) => [0, 0.1 * Math.sin(2 * Math.PI * t), 0] as const] as const),
      (_, s) => void (s.loop = true),
      { seconds: 1 },
    );
    const looped = simulateAll(character, shot);
    expect(looped.start.loop).toMatchObject({ found: true });
    const [a, b] = [offsetsOf(looped, 0), offsetsOf(looped, 60)];
    a.forEach((x, k) => expect(x).toBeCloseTo(b[k]!, 5));
    const long = softPatch(9, 0, lift, undefined, { seconds: 4 });
    const cache: TrackCache = {};
    simulateAll(long.character, long.shot, cache);
    const keyed = parseShot({
      ...long.shot,
      parts: {
        skin: {
          ...long.shot.parts.skin,
          keys: {
            hold: [
              { frame: 200, value: 3, kind: 'smooth' },
              { frame: 220, value: 5, kind: 'smooth' },
            ],
          },
        },
      },
    });
    expect(simulateAll(long.character, keyed, cache).points).toEqual(
      simulateAll(long.character, keyed).points,
    );
  });

  it('is not touched by wind', () => {
    const calm = run(9, 0, lift);
    const blown = run(9, 0, lift, (_, s) => {
      s.forces['wind' as never] = Force.parse({ id: 'wind', name: 'Wind', kind: 'wind', speed: 9 });
    });
    expect([...blown.frames.points]).toEqual([...calm.frames.points]);
  });
});
