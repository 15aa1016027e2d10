import { expect, it } from 'vitest';
import { seeded } from '../../../truth/clothBench';
import { makeArena } from '../index';
import { makeRegion, regionNumbers, type RegionMesh } from './region';

/** A ring of points, each beside the next and the one before, all painted alike or at random. */
function ring(n: number, random: () => number): RegionMesh {
  const from = Int32Array.from({ length: n + 1 }, (_, i) => 2 * i);
  return {
    ...{ points: n, from },
    area: Float64Array.from({ length: n }, () => 1e-4 * (0.5 + random())),
    share: Float64Array.from({ length: n }, () => 0.05 + 0.95 * random()),
    sums: new Float64Array(n).fill(1.3),
    beside: Int32Array.from({ length: 2 * n }, (_, e) => ((e >> 1) + (e % 2 ? 1 : n - 1)) % n),
    cotangents: new Float64Array(2 * n).fill(0.5),
  };
}

it('comes to the same bits compiled and not, with all that can be set', () => {
  const mesh = ring(40, seeded(5));
  const random = seeded(9);
  const pair = [makeRegion(mesh, 1 / 240, null), makeRegion(mesh, 1 / 240, makeArena(regionNumbers(mesh)))];
  for (let k = 0; k < 60; k++) {
    const push = Array.from({ length: 120 }, () => 20 * (random() - 0.5));
    const normal = Array.from({ length: 120 }, () => 1e-4 * (random() - 0.5));
    const angle = 0.1 * random();
    for (const region of pair) {
      region.drive.set(push);
      region.normal.set(normal);
      const turn = [0, Math.sin(angle), 0, Math.cos(angle)];
      region.turns.set([...turn, ...turn]);
      region.step({
        hold: 3 + k / 20,
        damping: 0.2,
        spread: 0.01,
        along: 1 + (k % 3),
        volume: (k % 2) / 2,
        swell: 0,
      });
    }
    expect(pair[1]!.u).toEqual(pair[0]!.u);
    expect(pair[1]!.rounds).toBe(pair[0]!.rounds);
  }
  expect(Math.max(...pair[0]!.u)).toBeGreaterThan(1e-3);
});

it('swings at the frequency that is asked for and loses what its damping says, at any step', () => {
  for (const [hold, damping, rate] of [
    [3, 0.1, 120],
    [1, 0.05, 60],
    [8, 0.2, 240],
  ] as const) {
    const mesh = { ...ring(4, () => 0.5), share: new Float64Array(4).fill(1), sums: new Float64Array(4) };
    const region = makeRegion({ ...mesh, cotangents: new Float64Array(8) }, 1 / rate, null);
    // Let go from 1 m with no speed.
    region.moving[0]!.fill(1);
    region.moving[1]!.fill(1);
    const x: number[] = [];
    for (let k = 0; k < 6 * rate; k++) {
      region.step({ hold, damping, spread: 0, along: 1, volume: 0, swell: 0 });
      x.push(region.u[0]!);
    }
    const crossings = x.flatMap((v, k) => (k > 0 && v * x[k - 1]! < 0 ? [k - v / (v - x[k - 1]!)] : []));
    const few = crossings.slice(1, 7);
    const half = (few.at(-1)! - few[0]!) / (few.length - 1) / rate;
    expect(1 / (2 * half) / (hold * Math.sqrt(1 - damping * damping))).toBeCloseTo(1, 2);
    const peaks = crossings.slice(1, 6).map((c, k) => {
      const [a, b] = [Math.ceil(c), Math.floor(crossings[k + 2]!)];
      return Math.max(...x.slice(a, b + 1).map(Math.abs));
    });
    const lost = Math.log(peaks[0]! / peaks[4]!) / 4;
    expect(lost / ((Math.PI * damping) / Math.sqrt(1 - damping * damping))).toBeCloseTo(1, 1);
  }
});

it('comes to rest at any damping and hold, and the firmer the nearer', () => {
  const one = { ...ring(1, () => 0.5), share: Float64Array.of(1), sums: new Float64Array(1) };
  const mesh = {
    ...one,
    from: Int32Array.of(0, 0),
    beside: new Int32Array(0),
    cotangents: new Float64Array(0),
  };
  for (const damping of [0, 0.5, 1, 2, 4])
    for (const hold of [0.2, 3, 12, 30])
      for (const rate of [60, 240]) {
        const region = makeRegion(mesh, 1 / rate, null);
        const matter = { hold, damping, spread: 0, along: 1, volume: 0, swell: 0 };
        let most = 0;
        for (let k = 0; k < 10 * rate; k++) {
          region.drive[0] = -region.driven(matter) * 10;
          region.step(matter);
          most = Math.max(most, Math.abs(region.u[0]!));
        }
        // It hangs by a / ω², and never more than twice as far.
        const hangs = 10 / (2 * Math.PI * hold) ** 2;
        expect(most).toBeLessThan(2.1 * hangs);
        if (damping > 0 && hold * damping > 1) expect(Math.abs(region.u[0]! / hangs - 1)).toBeLessThan(0.01);
      }
});

it('of no points does nothing', () => {
  const none = { ...ring(1, () => 0.5), points: 0, from: Int32Array.of(0) };
  const empty = new Float64Array(0);
  const mesh = {
    ...none,
    area: empty,
    share: empty,
    sums: empty,
    beside: new Int32Array(0),
    cotangents: empty,
  };
  const region = makeRegion(mesh, 0.01, makeArena(regionNumbers(mesh)));
  region.step({ hold: 3, damping: 0.2, spread: 0.1, along: 1, volume: 1, swell: 0 });
  expect(region.u.length).toBe(0);
});
