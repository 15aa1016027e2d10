import { expect, test } from 'vitest';
import { inOrder, withKeyAt, withKeyMoved } from './valueKeys';

const keys = inOrder([
  { frame: 40, value: 0, kind: 'smooth' },
  { frame: 0, value: 0, kind: 'linear' },
  { frame: 20, value: 1, kind: 'smooth' },
]);
const frames = (list: typeof keys) => list.map((k) => [k.frame, k.value]);

test('a key of a signal is dragged to whole frames and never past its neighbours', () => {
  expect(frames(withKeyMoved(keys, 1, 24.4, 0.50001))).toEqual([
    [0, 0],
    [24, 0.5],
    [40, 0],
  ]);
  expect(withKeyMoved(keys, 1, 90, 1)[1]!.frame).toBe(39);
  expect(withKeyMoved(keys, 1, -5, 1)[1]!.frame).toBe(1);
  expect(withKeyMoved(keys, 0, 3, 1)[0]!.kind).toBe('linear');
  expect(withKeyMoved(keys, 2, 90, 1)[2]!.frame).toBe(90);
});

test('a press sets a key in order, or moves the one it is near', () => {
  expect(frames(withKeyAt(keys, 29.7, 0.4, 3))).toEqual([
    [0, 0],
    [20, 1],
    [30, 0.4],
    [40, 0],
  ]);
  expect(frames(withKeyAt(keys, 21.5, 0.4, 3))).toEqual([
    [0, 0],
    [20, 0.4],
    [40, 0],
  ]);
});
