import { expect, test } from 'vitest';
import type { DrawnCurve, Scale, SlopeHandle } from './draw';
import { boxOf, chosenBy, keyNear, keysInBox, shifted, slopeAt } from './hits';

/** Frames 0 to 100 and values 0 to 10 on 200 by 100 px: a frame is 2 px, a value 10. */
const scale: Scale = { width: 200, height: 100, from: 0, to: 100, low: 0, high: 10 };
const all = [true, true, true];
/** A curve whose x, y and z are 1, 5 and 9 on its keys. */
const curve = (key: string, frames: number[]): DrawnCurve =>
  ({
    key,
    now: { keys: Float64Array.from(frames), values: Float64Array.from(frames.flatMap(() => [1, 5, 9])) },
  }) as unknown as DrawnCurve;
const curves = [curve('a', [10, 20]), curve('b', [23])];

test('a press takes the nearest shown key within reach, and none farther off', () => {
  expect(keyNear(curves, all, scale, 21, 52)).toEqual({ key: 'a', frame: 10, component: 1 });
  expect(keyNear(curves, all, scale, 44, 50)).toEqual({ key: 'b', frame: 23, component: 1 });
  expect(keyNear(curves, all, scale, 42, 50)).toEqual({ key: 'a', frame: 20, component: 1 });
  expect(keyNear(curves, [true, false, true], scale, 21, 52)).toBeNull();
  expect(keyNear(curves, all, scale, 21, 70)).toBeNull();
});

test('a box takes the keys that a shown component has in it, beside those chosen before', () => {
  const box = boxOf({ x: 45, y: 60 }, { x: 15, y: 40 });
  expect(box).toEqual({ left: 15, top: 40, width: 30, height: 20 });
  expect(keysInBox(curves, all, scale, box, {})).toEqual({ a: [10, 20] });
  expect(keysInBox(curves, all, scale, box, { a: [20], b: [23] })).toEqual({ a: [20, 10], b: [23] });
  expect(keysInBox(curves, [true, false, true], scale, box, {})).toEqual({});
});

test('a press on a key chooses it alone; with Shift it is chosen more or less; chosen keys stay together', () => {
  const key = { key: 'a', frame: 10 };
  expect(chosenBy({ b: [23] }, key, false)).toEqual({ a: [10] });
  expect(chosenBy({ a: [20] }, key, true)).toEqual({ a: [20, 10] });
  expect(chosenBy({ a: [20, 10] }, key, true)).toEqual({ a: [20] });
  const several = { a: [20, 10], b: [23] };
  expect(chosenBy(several, key, false)).toBe(several);
  expect(shifted(several, 5)).toEqual({ a: [25, 15], b: [28] });
});

test('a handle gives the slope from its key to the hand, and never crosses the key', () => {
  const handle = (side: 'in' | 'out') => ({ side, atX: 100, atY: 50 }) as SlopeHandle;
  // 20 px on is 10 frames, 30 px up is 3 in value.
  expect(slopeAt(handle('out'), scale, 120, 20)).toBeCloseTo(0.3);
  expect(slopeAt(handle('in'), scale, 80, 80)).toBeCloseTo(0.3);
  // Past the key it stays 2 px, one frame, on its own side.
  expect(slopeAt(handle('out'), scale, 60, 20)).toBeCloseTo(3);
});
