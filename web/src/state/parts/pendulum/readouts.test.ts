import { expect, test } from 'vitest';
import { lagBehind } from './readouts';

/** A sway of 24 frames, so many frames late, as high as the gain. */
const sway = (late: number, gain = 1) =>
  Float32Array.from({ length: 120 }, (_, f) => gain * Math.sin((2 * Math.PI * (f - late)) / 24));

test('the lag of a sway that repeats is that of its first answer, also where the gain is below 0', () => {
  for (const late of [0, 3, 7.5]) {
    expect(lagBehind(sway(0), sway(late, 5), false, 60)).toBeCloseTo(late, 0);
    expect(lagBehind(sway(0), sway(late, -5), true, 60)).toBeCloseTo(late, 0);
  }
});

test('what stands still has no lag', () => {
  expect(lagBehind(sway(0), new Float32Array(120).fill(2), false, 60)).toBeNaN();
});
