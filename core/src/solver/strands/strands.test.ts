import { describe, expect, it } from 'vitest';
import { makeArena } from '../arena';
import { makeStrands, strandNumbers, type StrandFeel, type StrandShape } from './index';

const STILL: StrandFeel = {
  ...{ hold: 0, bend: 0, damping: 0, weight: 1e-3, gravity: [0, 0, 0], keeps: 1 },
};

/** Straight down, of n links. */
export const straight = (n: number, long = 0.3): StrandShape => ({
  lengths: new Float64Array(n).fill(long / n),
  directions: Float64Array.from({ length: 3 * n }, (_, k) => (k % 3 === 1 ? -1 : 0)),
});
/** A ringlet that hangs down. */
const ringlet = (n: number, long: number, turns: number, open: number): StrandShape => ({
  lengths: new Float64Array(n).fill(long / n),
  directions: Float64Array.from({ length: 3 * n }, (_, k) => {
    const a = (2 * Math.PI * turns * (Math.floor(k / 3) + 0.5)) / n;
    return [Math.sin(open) * Math.cos(a), -Math.cos(open), Math.sin(open) * Math.sin(a)][k % 3]!;
  }),
});
const rootAt = (x: number, y = 0, z = 0, turn = 0) =>
  Float64Array.of(x, y, z, 0, Math.sin(turn / 2), 0, Math.cos(turn / 2));
const NONE = [0, 0, 0];

/** The frequency (Hz) and damping ratio of a strand that is let go from a small tilt of its whole. */
function swings(n: number, feel: Partial<StrandFeel>, substeps: number): { hz: number; ratio: number } {
  const h = 1 / 30 / substeps;
  const one = makeStrands([straight(n)], h, null);
  one.tune(0, { ...STILL, ...feel });
  one.begin(rootAt(0), rootAt(0));
  // A push along x that dies soon, then it swings freely.
  const zeros: number[] = [];
  const peaks: number[] = [];
  let [a, b] = [0, 0];
  for (let k = 0; k < 12 / h / 2 && zeros.length < 14; k++) {
    if (k < 2 * substeps) for (let i = 0; i < n; i++) one.push[3 * i] = (0.2 * (i + 1)) / n;
    one.predict(rootAt(0), NONE, 1, 1);
    one.solve(0);
    const x = one.x[3 * (n - 1)]!;
    if (k > 4 * substeps) {
      if (b * x < 0) zeros.push((k - 1 + b / (b - x)) * h);
      if (b > a && b >= x && b > 0) peaks.push(b - (a - x) ** 2 / (8 * (a - 2 * b + x)));
    }
    [a, b] = [b, x];
  }
  // The first swings hold other modes too.
  const from = 3;
  const hz = (zeros.length - 1 - from) / 2 / (zeros.at(-1)! - zeros[from]!);
  const dec = Math.log(peaks[2]! / peaks[4]!) / 2;
  return { hz, ratio: dec / Math.sqrt(4 * Math.PI ** 2 + dec ** 2) };
}

describe('a strand', () => {
  it('swings at the hold and the bend that are asked, however many links it has', () => {
    for (const feel of [
      { hold: 2, damping: 0.1 },
      { bend: 2, damping: 0.1 },
    ])
      for (const n of [4, 8, 16, 24]) {
        const { hz, ratio } = swings(n, feel, 8);
        expect(hz / (2 * Math.sqrt(1 - 0.01))).toBeCloseTo(1, 2);
        expect(ratio / 0.1).toBeCloseTo(1, 1);
      }
  });

  it('keeps its lengths, and its groom under gravity to a tenth of a degree; without that it sags', () => {
    const shapes = [straight(12), ringlet(16, 0.3, 3, 1.1)].map((s, k) => ({
      ...s,
      // The straight one stands out to the side.
      directions: k === 0 ? s.directions.map((_, o) => (o % 3 === 0 ? 1 : 0)) : s.directions,
    }));
    const run = (keeps: boolean) => {
      const all = makeStrands(shapes, 1 / 240, null);
      shapes.forEach((_, k) =>
        all.tune(k, {
          ...STILL,
          hold: 1,
          bend: 1,
          damping: 0.3,
          gravity: [0, -9.81, 0],
          keeps: Number(keeps),
        }),
      );
      const roots = Float64Array.from([...rootAt(0), ...rootAt(1)]);
      all.begin(roots, roots);
      for (let k = 0; k < 720; k++) {
        all.predict(roots, [0, -9.81, 0], 1, 1);
        all.solve(0);
      }
      return all;
    };
    const kept = run(true);
    const { d, s, span } = kept.fields;
    for (let i = 0; i < kept.links; i++) {
      const cos = [0, 1, 2].reduce((sum, a) => sum + d[3 * i + a]! * s[3 * i + a]!, 0);
      expect(Math.acos(Math.min(1, cos))).toBeLessThan((0.1 * Math.PI) / 180);
      const first = kept.first.includes(i);
      const far = Math.hypot(
        ...[0, 1, 2].map((a) => kept.x[3 * i + a]! - (first ? 0 : kept.x[3 * i + a - 3]!)),
      );
      expect(far / span[i]!).toBeCloseTo(1, 12);
    }
    const sagged = run(false);
    expect(sagged.x[3 * 11 + 1]!).toBeLessThan(kept.x[3 * 11 + 1]! - 0.05);
  });

  it('follows a turning, travelling root alike with twice the steps, and not at all where it feels neither', () => {
    const shapes = [straight(12), ringlet(12, 0.3, 1.5, 0.6)];
    const run = (substeps: number, travel: number, turn: number) => {
      const h = 1 / 30 / substeps;
      const all = makeStrands(shapes, h, null);
      shapes.forEach((_, k) => all.tune(k, { ...STILL, hold: 2, bend: 2, damping: 0.2 }));
      const at = (t: number) => {
        const e =
          Math.min(1, t / 0.25) ** 3 * (10 - 15 * Math.min(1, t / 0.25) + 6 * Math.min(1, t / 0.25) ** 2);
        const one = rootAt(0.1 * e * Math.sin(8 * t), 0.05 * e * Math.sin(13 * t), 0, e * Math.sin(6 * t));
        return Float64Array.from([...one, ...one]);
      };
      all.begin(at(0), at(0));
      const out: number[] = [];
      let turned = 0;
      for (let k = 1; k <= 60 * substeps; k++) {
        all.predict(at(k * h), NONE, travel, turn);
        all.solve(0);
        all.fields.d.forEach((v, o) => (turned = Math.max(turned, Math.abs(v - all.fields.s[o]!))));
        if (k % substeps === 0) out.push(...all.x.subarray(33, 36), ...all.x.subarray(69, 72));
      }
      return { out, turned };
    };
    const [four, eight] = [run(4, 1, 1), run(8, 1, 1)];
    const rms = Math.sqrt(
      four.out.reduce((s, x, k) => s + (x - eight.out[k]!) ** 2, 0) / (four.out.length / 3),
    );
    expect(rms / 0.3).toBeLessThan(0.01);
    expect(eight.turned).toBeGreaterThan(0.05);
    expect(run(4, 0, 0).turned).toBeLessThan(1e-6);
  });

  it('gains no energy when it is thrown about', () => {
    let seed = 7;
    const rnd = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
    for (let trial = 0; trial < 60; trial++) {
      const n = 4 + Math.floor(20 * rnd());
      const shape = rnd() < 0.5 ? straight(n) : ringlet(n, 0.3, rnd() * 3, rnd() * 1.2);
      const h = 1 / 30 / (rnd() < 0.5 ? 4 : 8);
      const one = makeStrands([shape], h, null);
      one.tune(0, { ...STILL, hold: 0.5 + 8 * rnd(), bend: 1 + 12 * rnd(), damping: 0 });
      one.begin(rootAt(0), rootAt(0));
      const push = Array.from({ length: 3 * n }, () => 400 * (rnd() - 0.5));
      const kinetic = () =>
        one.masses.reduce(
          (e, m, i) => e + (m / 2) * [0, 1, 2].reduce((v, a) => v + (one.fields.w[3 * i + a]! / h) ** 2, 0),
          0,
        );
      let [most, later] = [0, 0];
      for (let k = 0; k < 2 / h; k++) {
        if (k < 0.1 / h) push.forEach((p, o) => (one.push[o] = p));
        one.predict(rootAt(0), NONE, 1, 1);
        one.solve(0);
        if (k < 0.4 / h) most = Math.max(most, kinetic());
        else later = Math.max(later, kinetic());
      }
      expect(later).toBeLessThan(1.3 * most + 1e-9);
    }
  });

  it('goes the same way compiled, to the bit', () => {
    const shapes = [straight(5), ringlet(16, 0.4, 2, 0.8), straight(12, 0.2)];
    const run = (compiled: boolean) => {
      const all = makeStrands(shapes, 1 / 120, compiled ? makeArena(strandNumbers(3, 33)) : null);
      shapes.forEach((_, k) =>
        all.tune(k, { ...STILL, hold: 1 + k, bend: 3, damping: 0.2, gravity: [0, -9.81, 0] }),
      );
      const at = (t: number) =>
        Float64Array.from(
          [0, 1, 2].flatMap((k) => [...rootAt(k + Math.sin(9 * t), 0, 0, Math.sin(7 * t + k))]),
        );
      all.begin(at(0), at(0));
      for (let k = 1; k < 200; k++) {
        for (let o = 0; o < all.push.length; o++) {
          all.push[o] = Math.sin(o + k / 3);
          all.wind[o] = 3 * Math.cos(o + k / 5);
        }
        all.blow(2, 0.5);
        all.predict(at(k / 120), [0, -9.81, 0], 0.8, 0.6);
        all.solve(0.3);
      }
      const tensions = new Float64Array(33);
      all.tensions(tensions);
      return [...all.x, ...tensions];
    };
    const [plain, compiled] = [run(false), run(true)];
    expect(plain.every(Number.isFinite)).toBe(true);
    expect(compiled).toEqual(plain);
  });
});
