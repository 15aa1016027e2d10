import { describe, expect, it } from 'vitest';
import type { Channel } from '../character/index';
import { mulberry32, quatFromAxis } from '../math/index';
import { extremes, thinChannel, worstError, type ThinOptions } from './index';

const FPS = 30;
const times = (n: number) => Float64Array.from({ length: n }, (_, k) => k / FPS);

/** A turn about a tilted axis by an angle (rad) at each sample. */
function turning(n: number, angle: (t: number) => number): Channel {
  const values = new Float64Array(4 * n);
  times(n).forEach((t, k) => quatFromAxis(values, 4 * k, 0.6, 0, 0.8, angle(t)));
  return { node: 0, path: 'rotation', interpolation: 'LINEAR', times: times(n), values };
}
const swing = turning(121, (t) => 0.6 * Math.sin(5 * t) * Math.exp(-0.6 * t));

/** Largest error at the samples, degrees or the channel's unit. */
const worst = (all: Channel, few: Channel) =>
  all.path === 'rotation' ? (worstError(all, few) * 180) / Math.PI : worstError(all, few);
const plain: ThinOptions = { kind: 'cubic', tolerance: 0.5, keep: [], loop: false };

describe('thinning', () => {
  it.each(['linear', 'cubic'] as const)('%s keys stay within the tolerance at every sample', (kind) => {
    for (const tolerance of [0.05, 0.5, 3]) {
      const few = thinChannel(swing, { ...plain, kind, tolerance });
      expect(worst(swing, few)).toBeLessThanOrEqual(tolerance);
      expect(few.times.length).toBeLessThan(swing.times.length);
      expect(few.times[0]).toBe(0);
      expect(few.times.at(-1)).toBe(swing.times.at(-1));
    }
  });
  it('stay within it for any motion, also one that jumps', () => {
    const random = mulberry32(4);
    for (let n = 0; n < 30; n++) {
      let at = 0;
      const all = turning(2 + Math.floor(random() * 90), () => (at += (random() - 0.5) * random()));
      for (const kind of ['linear', 'cubic'] as const)
        for (const loop of [false, true]) {
          const few = thinChannel(all, { ...plain, kind, loop });
          expect(worst(all, few)).toBeLessThanOrEqual(0.5 + 1e-9);
        }
    }
  });
  it('takes few keys: a dying swing of five turns back needs under a fifth of them as curves', () => {
    expect(thinChannel(swing, plain).times.length).toBeLessThan(swing.times.length / 5);
    expect(thinChannel(swing, plain).times.length).toBeLessThan(
      thinChannel(swing, { ...plain, kind: 'linear' }).times.length / 2,
    );
  });
  it('leaves one key at each end of what stands still, and straight motion with two', () => {
    expect(
      thinChannel(
        turning(50, () => 0.3),
        plain,
      ).times,
    ).toHaveLength(2);
    const line: Channel = {
      ...{ node: 0, path: 'translation' as const, interpolation: 'LINEAR' as const },
      times: times(40),
      values: Float64Array.from({ length: 120 }, (_, k) => Math.floor(k / 3) * (1 + (k % 3))),
    };
    expect(thinChannel(line, { ...plain, kind: 'linear', tolerance: 1e-6 }).times).toHaveLength(2);
  });
  it('keeps the keys it is told to, and curves are as steep before a key as after it', () => {
    const few = thinChannel(swing, { ...plain, tolerance: 5, keep: [7, 64] });
    expect([...few.times]).toEqual(expect.arrayContaining([7 / FPS, 64 / FPS]));
    for (let k = 0; k < few.times.length; k++)
      expect([...few.values.subarray(12 * k, 12 * k + 4)]).toEqual([
        ...few.values.subarray(12 * k + 8, 12 * k + 12),
      ]);
  });
  it('a loop has one tangent at both ends, also when its quaternions end on the other side', () => {
    const lap = turning(61, (t) => 0.4 * Math.sin(Math.PI * t));
    const round = turning(61, (t) => Math.PI * t);
    for (const [all, side] of [
      [lap, 1],
      [round, -1],
    ] as const) {
      const { values } = thinChannel(all, { ...plain, loop: true });
      const last = values.length - 12;
      for (let k = 0; k < 4; k++) {
        expect(values[last + 8 + k]).toBeCloseTo(side * values[k]!, 12);
        expect(values[last + 4 + k]).toBeCloseTo(side * values[4 + k]!, 9);
      }
    }
  });
  it('extremes are where a motion turns back by more than twice the tolerance', () => {
    const at = extremes(swing, 0.5).map((k) => k / FPS);
    // cos(5t) = 0.12 sin(5t): a little before each quarter turn.
    const turns = [1, 3, 5, 7, 9, 11].map((q) => (q * Math.PI) / 10 - Math.atan(0.12) / 5);
    expect(at).toHaveLength(turns.length);
    at.forEach((t, i) => expect(Math.abs(t - turns[i]!)).toBeLessThan(1 / FPS));
    expect(
      extremes(
        turning(50, (t) => 1e-4 * Math.sin(20 * t)),
        0.5,
      ),
    ).toEqual([]);
  });
});
