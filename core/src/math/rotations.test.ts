import { describe, expect, it } from 'vitest';
import { Matrix4, Quaternion, Vector3 } from 'three';
import {
  matCompose,
  matDecompose,
  matInvert,
  matMultiply,
  mulberry32,
  quatAngle,
  quatBetween,
  quatConjugate,
  quatFromAxis,
  quatMultiply,
  quatRotate,
  quatSlerp,
} from './index';

const random = mulberry32(7);
const unit = (n: number) => {
  const v = Array.from({ length: n }, () => random() * 2 - 1);
  const l = Math.sqrt(v.reduce((s, x) => s + x * x, 0));
  return v.map((x) => x / l);
};
const close = (a: ArrayLike<number>, b: ArrayLike<number>, eps = 1e-12) => {
  for (let i = 0; i < b.length; i++) expect(Math.abs(a[i]! - b[i]!)).toBeLessThan(eps);
};

describe('quaternions against an independent library', () => {
  it('multiply, rotate, conjugate and slerp agree with three', () => {
    for (let n = 0; n < 200; n++) {
      const a = unit(4),
        b = unit(4),
        v = unit(3),
        t = random();
      const out = [0, 0, 0, 0];
      quatMultiply(out, 0, a, 0, b, 0);
      close(
        out,
        new Quaternion(...(a as [number, number, number, number]))
          .multiply(new Quaternion(...(b as [number, number, number, number])))
          .toArray(),
      );
      const r = [0, 0, 0];
      quatRotate(r, 0, a, 0, v, 0);
      close(
        r,
        new Vector3(...(v as [number, number, number]))
          .applyQuaternion(new Quaternion(...(a as [number, number, number, number])))
          .toArray(),
      );
      quatConjugate(out, 0, a, 0);
      quatMultiply(out, 0, a, 0, out, 0);
      close(out, [0, 0, 0, 1]);
      quatSlerp(out, 0, a, 0, b, 0, t);
      const s = new Quaternion(...(a as [number, number, number, number])).slerp(
        new Quaternion(...(b as [number, number, number, number])),
        t,
      );
      expect(quatAngle(out, 0, s.toArray(), 0)).toBeLessThan(1e-6);
    }
  });
  it('the smallest turn takes a to b and turns about an axis square to both', () => {
    for (let n = 0; n < 200; n++) {
      const [ax, ay, az] = unit(3) as [number, number, number];
      const [bx, by, bz] = unit(3) as [number, number, number];
      const q = [0, 0, 0, 1],
        r = [0, 0, 0];
      quatBetween(q, 0, ax, ay, az, bx, by, bz);
      quatRotate(r, 0, q, 0, [ax, ay, az], 0);
      close(r, [bx, by, bz], 1e-9);
      expect(Math.abs(q[0]! * ax + q[1]! * ay + q[2]! * az)).toBeLessThan(1e-9);
    }
  });
  it('opposite directions turn half a circle about the hinted axis, or any axis without a hint', () => {
    const q = [0, 0, 0, 1],
      r = [0, 0, 0];
    quatBetween(q, 0, 1, 0, 0, -1, 0, 0, 0.3, 0, 1);
    close(q, [0, 0, 1, 0]);
    for (const a of [
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
    ] as const) {
      quatBetween(q, 0, a[0], a[1], a[2], -a[0], -a[1], -a[2]);
      quatRotate(r, 0, q, 0, a, 0);
      close(
        r,
        a.map((x) => -x),
      );
    }
  });
  it('axis and angle give the angle back', () => {
    const q = [0, 0, 0, 1];
    quatFromAxis(q, 0, 0, 1, 0, 0.7);
    expect(quatAngle(q, 0, [0, 0, 0, 1], 0)).toBeCloseTo(0.7, 12);
  });
});

describe('matrices against an independent library', () => {
  it('compose, multiply, invert and decompose agree with three', () => {
    for (let n = 0; n < 100; n++) {
      const t = unit(3),
        q = unit(4),
        s = [0.5 + random(), 0.5 + random(), 0.5 + random()];
      const m = new Float64Array(16),
        inv = new Float64Array(16),
        id = new Float64Array(16);
      matCompose(m, 0, t, 0, q, 0, s, 0);
      const three = new Matrix4().compose(
        new Vector3(...(t as [number, number, number])),
        new Quaternion(...(q as [number, number, number, number])),
        new Vector3(...(s as [number, number, number])),
      );
      close(m, three.elements);
      expect(matInvert(inv, 0, m, 0)).toBe(true);
      matMultiply(id, 0, m, 0, inv, 0);
      close(id, new Matrix4().elements, 1e-11);
      const over = m.slice();
      matMultiply(over, 0, over, 0, m.slice(), 0);
      close(over, three.clone().multiply(three).elements, 1e-11);
      const t2 = [0, 0, 0],
        q2 = [0, 0, 0, 1],
        s2 = [1, 1, 1];
      expect(matDecompose(m, 0, t2, q2, s2)).toBeLessThan(1e-9);
      close(t2, t);
      close(s2, s);
      expect(quatAngle(q2, 0, q, 0)).toBeLessThan(1e-6);
    }
  });
  it('a singular matrix is refused and a sheared one is reported', () => {
    expect(matInvert(new Float64Array(16), 0, new Float64Array(16), 0)).toBe(false);
    const sheared = [1, 0, 0, 0, 0.5, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
    expect(matDecompose(sheared, 0, [0, 0, 0], [0, 0, 0, 1], [1, 1, 1])).toBeGreaterThan(0.1);
  });
});
