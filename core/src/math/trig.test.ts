import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { acos, atan2, cos, exp, sin } from './trig';

const angle = fc.double({ min: -1e4, max: 1e4, noNaN: true });

describe('trigonometry of our own', () => {
  it('sine and cosine agree with the engine to 2e-15 absolute', () => {
    fc.assert(
      fc.property(angle, (x) => {
        expect(Math.abs(sin(x) - Math.sin(x))).toBeLessThan(2e-15 * (1 + Math.abs(x) * 1e-3));
        expect(Math.abs(cos(x) - Math.cos(x))).toBeLessThan(2e-15 * (1 + Math.abs(x) * 1e-3));
      }),
    );
  });
  it('atan2 agrees with the engine in all quadrants and on the axes', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -9, max: 9, noNaN: true }),
        fc.double({ min: -9, max: 9, noNaN: true }),
        (y, x) => {
          expect(Math.abs(atan2(y, x) - Math.atan2(y + 0, x + 0))).toBeLessThan(1e-14);
        },
      ),
    );
    expect(atan2(1, 0)).toBe(Math.PI / 2);
    expect(atan2(0, -1)).toBe(Math.PI);
    expect(atan2(0, 0)).toBe(0);
  });
  it('exp agrees with the engine to 1e-14 relative and saturates at its ends', () => {
    fc.assert(
      fc.property(fc.double({ min: -700, max: 700, noNaN: true }), (x) => {
        expect(Math.abs(exp(x) / Math.exp(x) - 1)).toBeLessThan(1e-14);
      }),
    );
    expect(exp(-1e4)).toBe(0);
    expect(exp(1e4)).toBe(Infinity);
    expect(exp(NaN)).toBeNaN();
  });
  it('acos is exact at its ends and clamps beyond them', () => {
    expect(acos(1)).toBe(0);
    expect(acos(-1.5)).toBe(Math.PI);
    expect(acos(0.5)).toBeCloseTo(Math.PI / 3, 14);
  });
});
