import { describe, expect, it } from 'vitest';
import { far, hairFrames, hangingHair, LONG, spread, tips } from '../../../test/hangingHair';
import type { Way } from '../../../test/parcel';
import { Force } from '../../model/index';
import { editShot, type Shot } from '../../shot/index';
import { simulateAll, type TrackCache } from '../../simulate/index';
import type { StrandsPart } from './shared';

describe('hair against hair', () => {
  const middle = tips(hairFrames({}), 0).reduce((s, t) => s.map((x, a) => x + t[a]! / 60), [0, 0, 0]);
  const drawn = {
    forces: {
      pull: Force.parse({ kind: 'attractor', id: 'pull', name: 'Pull', t: middle, strength: 6, radius: 0.2 }),
    } as unknown as Shot['forces'],
  };

  it('that is drawn together keeps more of its room the more it keeps apart', () => {
    const of = (crowd: number) => spread(tips(hairFrames({ crowd, along: 4 }, drawn), 36));
    const [none, some, much] = [of(0), of(2), of(5)] as const;
    const rest = spread(tips(hairFrames({}), 0));
    expect(none).toBeLessThan(0.8 * rest);
    expect(some).toBeGreaterThan(none);
    expect(much).toBeGreaterThan(some);
  });

  it('rests in its groom as if it were alone', () => {
    const frames = hairFrames({ crowd: 5, along: 20 });
    const [first, last] = [tips(frames, 0), tips(frames, 36)];
    first.forEach((t, k) => expect(far(t, last[k]!)).toBeLessThan(1e-4 * LONG));
  });

  it('that goes along with its neighbours passes them more slowly', () => {
    // Small swirls blow each another way.
    const wind = Force.parse({
      kind: 'wind',
      id: 'wind',
      name: 'Wind',
      speed: 4,
      turbulence: 1,
      swirl: 0.02,
    });
    const passes = (along: number) => {
      const frames = hairFrames(
        { along, drag: 1, damping: 0.05 },
        { forces: { wind } as unknown as Shot['forces'] },
      );
      let sum = 0;
      for (let f = 1; f < frames.count; f++) {
        const [a, b] = [tips(frames, f - 1), tips(frames, f)];
        const ways = b.map((t, k) => [0, 1, 2].map((c) => t[c]! - a[k]![c]!));
        const mean = [0, 1, 2].map((c) => ways.reduce((s, w) => s + w[c]!, 0) / ways.length);
        sum += ways.reduce((s, w) => s + far(w, mean), 0) / ways.length;
      }
      return sum;
    };
    const [alone, together] = [passes(0), passes(30)];
    expect(together).toBeLessThan(0.85 * alone);
  });

  it('goes on from a frame that is kept to the same bits', () => {
    const key = (frame: number, value: number) => ({ frame, value, kind: 'smooth' as const });
    const withKeys = (shot: Shot, last: number) =>
      editShot(shot, 'keys-0001', 'Set keys', (d) => {
        (d.parts.hair as StrandsPart).keys.amount = [key(0, 100), key(30, 100), key(34, last)];
      }).shot;
    const { character, shot } = hangingHair({ crowd: 3, along: 5 }, drawn);
    const cache: TrackCache = { reuse: true };
    simulateAll(character, withKeys(shot, 80), cache);
    const again = simulateAll(character, withKeys(shot, 120), cache);
    expect(again.points).toEqual(simulateAll(character, withKeys(shot, 120)).points);
  });

  it('does the same wherever it stands', () => {
    const swing: Way = (t) => [0.1 * Math.sin(6 * t), 0, 0];
    const there: Way = (t) => [3.21 + 0.1 * Math.sin(6 * t), 1.07, 0.4];
    const [here, else_] = [swing, there].map((way) => tips(hairFrames({ crowd: 3, along: 5 }, {}, way), 30));
    here!.forEach((t, k) => {
      const away = [t[0]! + 3.21, t[1]! + 1.07, t[2]! + 0.4];
      expect(far(away, else_![k]!)).toBeLessThan(0.005 * LONG);
    });
  });
});
