import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { makeValueCurve, makeValueIntegral, ValueKeys } from './index';

const keys = fc
  .uniqueArray(fc.integer({ min: -50, max: 200 }), { minLength: 1, maxLength: 6 })
  .chain((frames) =>
    fc.tuple(
      ...frames.map((frame) =>
        fc.record({
          frame: fc.constant(frame),
          value: fc.double({ min: -10, max: 10, noNaN: true }),
          kind: fc.constantFrom('stepped' as const, 'linear' as const, 'smooth' as const),
        }),
      ),
    ),
  )
  .map((list) => ValueKeys.parse(list));

describe('the integral of a keyed value', () => {
  it('is the sum of many small steps of its curve, whatever the keys', () => {
    fc.assert(
      fc.property(
        keys,
        fc.integer({ min: -60, max: 210 }),
        fc.integer({ min: 1, max: 30 }),
        (k, from, length) => {
          const [value, integral] = [makeValueCurve(k), makeValueIntegral(k)];
          const steps = 400 * length;
          let sum = 0;
          for (let i = 0; i < steps; i++)
            sum += value(from + ((i + 0.5) * length) / steps) * (length / steps);
          expect(integral(from + length) - integral(from)).toBeCloseTo(sum, 2);
        },
      ),
      { numRuns: 60 },
    );
  });
  it('of one key is that value times the frame', () => {
    const integral = makeValueIntegral(ValueKeys.parse([{ frame: 30, value: 4 }]));
    expect([-10, 0, 30, 90].map(integral)).toEqual([-40, 0, 120, 360]);
  });
});
