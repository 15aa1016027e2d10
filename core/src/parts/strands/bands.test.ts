import { describe, expect, it } from 'vitest';
import { far, hairFrames, hangingHair, LONG, spread, tips } from '../../../test/hangingHair';
import type { Way } from '../../../test/parcel';
import { Force } from '../../model/index';
import type { Shot } from '../../shot/index';
import { simulateAll } from '../../simulate/index';

const band = { at: 0.9, bundles: 1, firmness: 8, drawn: 0, weight: 0 };
const swirls = {
  forces: {
    wind: Force.parse({ kind: 'wind', id: 'wind', name: 'Wind', speed: 5, turbulence: 1, swirl: 0.02 }),
  } as unknown as Shot['forces'],
};
const still: Way = () => [0, 0, 0];

/** How much the tips change their places among each other, m, on the mean over the frames. */
function stirred(bands: (typeof band)[]): number {
  const frames = hairFrames({ drag: 1 }, swirls, still, { bands });
  const rest = tips(frames, 0);
  let sum = 0;
  for (let f = 1; f < frames.count; f++) {
    const now = tips(frames, f);
    const mean = [0, 1, 2].map((a) => now.reduce((s, t, k) => s + t[a]! - rest[k]![a]!, 0) / now.length);
    sum +=
      now.reduce(
        (s, t, k) =>
          s +
          far(
            t.map((x, a) => x - mean[a]!),
            rest[k]!,
          ),
        0,
      ) / now.length;
  }
  return sum / (frames.count - 1);
}

describe('a band about hair', () => {
  it('holds its bundle together, the more firmly the more', () => {
    const [loose, soft, firm] = [stirred([]), stirred([{ ...band, firmness: 2 }]), stirred([band])];
    expect(soft).toBeLessThan(0.9 * loose);
    expect(firm).toBeLessThan(0.7 * soft);
  });

  it('changes nothing of hair that rests, nor of how all of it swings', () => {
    const rests = hairFrames({}, {}, still, { bands: [band] });
    tips(rests, 0).forEach((t, k) => expect(far(t, tips(rests, 36)[k]!)).toBeLessThan(1e-6 * LONG));
    // All of the same length and weight swing together: the band has nothing to hold.
    const swing: Way = (t) => [0.05 * Math.sin(8 * t), 0, 0];
    const [free, bound] = [[], [band]].map((bands) => tips(hairFrames({}, {}, swing, { bands }), 30));
    free!.forEach((t, k) => expect(far(t, bound![k]!)).toBeLessThan(0.01 * LONG));
  });

  it('draws hair together where it is asked to, in as many bundles', () => {
    const at = (bundles: number, drawn: number) =>
      spread(tips(hairFrames({}, {}, still, { bands: [{ ...band, bundles, drawn }] }), 36));
    const [apart, tail] = [at(1, 0), at(1, 80)];
    expect(tail).toBeLessThan(0.6 * apart);
    // Four tails stand apart from each other.
    expect(at(4, 80)).toBeGreaterThan(1.3 * tail);
  });

  it('holds no hair that stands alone, and none where there is none', () => {
    const { character, shot } = hangingHair({}, {}, still, { bands: [{ ...band, bundles: 200 }] });
    expect(simulateAll(character, shot).points.every(Number.isFinite)).toBe(true);
  });
});
