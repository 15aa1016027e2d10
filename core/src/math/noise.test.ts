import { describe, expect, it } from 'vitest';
import { makeSwirl, smoothNoise } from './noise';

describe('noise', () => {
  it('a swirl has no sources and no sinks, and about the speed it is meant to have', () => {
    const swirl = makeSwirl(7, 0.5);
    const [p, m] = [new Float64Array(3), new Float64Array(3)];
    const e = 1e-5;
    let power = 0;
    for (let n = 0; n < 400; n++) {
      const at = [n * 0.37, n * 0.11, n * 0.23] as const;
      let divergence = 0;
      for (let k = 0; k < 3; k++) {
        const step = (s: number) => at.map((x, i) => x + (i === k ? s : 0)) as [number, number, number];
        swirl(p, ...step(e));
        swirl(m, ...step(-e));
        divergence += (p[k]! - m[k]!) / (2 * e);
      }
      expect(Math.abs(divergence)).toBeLessThan(1e-4);
      power += p[0]! ** 2 + p[1]! ** 2 + p[2]! ** 2;
    }
    expect(power / 400).toBeGreaterThan(0.7);
    expect(power / 400).toBeLessThan(1.3);
  });
  it('is the same for the same seed, another for another, and has no steps', () => {
    expect(smoothNoise(3, 1.5)).toBe(smoothNoise(3, 1.5));
    expect(smoothNoise(3, 1.5)).not.toBe(smoothNoise(4, 1.5));
    for (let t = -2; t < 2; t += 0.01) {
      expect(Math.abs(smoothNoise(3, t + 0.01) - smoothNoise(3, t))).toBeLessThan(0.04);
      expect(Math.abs(smoothNoise(3, t))).toBeLessThanOrEqual(1);
    }
  });
});
