import { Euler, Quaternion } from 'three';
import { describe, expect, it } from 'vitest';
import { mulberry32, quatAngle } from '../math/index';
import { eulerFrom, eulerTo } from './index';

const IDENTITY = [0, 0, 0, 1];

describe('Euler angles for reading', () => {
  it('agree with an independent library, and give the turn back', () => {
    const random = mulberry32(3);
    for (let n = 0; n < 500; n++) {
      const angles = [0, 1, 2].map((k) => (random() - 0.5) * (k === 1 ? 178 : 358));
      const theirs = new Quaternion()
        .setFromEuler(
          new Euler(...(angles.map((a) => (a * Math.PI) / 180) as [number, number, number]), 'XYZ'),
        )
        .toArray();
      const q = [0, 0, 0, 1];
      eulerTo(q, 0, IDENTITY, angles);
      expect(quatAngle(q, 0, theirs, 0)).toBeLessThan(1e-7);
      const back = [0, 0, 0];
      eulerFrom(back, IDENTITY, theirs, 0, angles);
      back.forEach((a, k) => expect(a).toBeCloseTo(angles[k]!, 5));
    }
  });

  it('are counted from the rest pose', () => {
    const rest = new Quaternion().setFromEuler(new Euler(0.4, -0.9, 1.3)).toArray();
    const angles = [0, 0, 0];
    eulerFrom(angles, rest, rest, 0, angles);
    angles.forEach((a) => expect(a).toBeCloseTo(0, 6));
  });

  it('of a motion through straight up and several turns have no jumps', () => {
    const before = [0, 0, 0];
    const q = [0, 0, 0, 1];
    const now = [0, 0, 0];
    // Past a right angle of the middle one, and twice round the last.
    for (let f = 0; f <= 400; f++) {
      eulerTo(q, 0, IDENTITY, [20, 0.4 * f, 2 * f]);
      if (f % 2) q.forEach((x, k) => (q[k] = -x));
      eulerFrom(now, IDENTITY, q, 0, before);
      if (f > 0) now.forEach((a, k) => expect(Math.abs(a - before[k]!), `frame ${f}`).toBeLessThan(5));
      now.forEach((a, k) => (before[k] = a));
    }
    expect(now[2]).toBeCloseTo(800, 4);
  });
});
