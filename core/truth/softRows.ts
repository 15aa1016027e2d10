import { mulberry32 } from '../src/math/index';
import { REGION_SETTINGS, type RegionPart, type RegionSettingKey } from '../src/parts/soft/shared';
import { simulateAll } from '../src/simulate/index';
import type { Shot } from '../src/shot/index';
import { atMost, judge, type TruthRow } from './row';
import { lift, meanOff, offsetsOf, softPatch } from './softRig';

const G = 9.81;
const W = 2 * Math.PI * 3;
type Patch = Parameters<typeof softPatch>;

const run = (...of: Patch) => {
  const { character, shot } = softPatch(...of);
  return { character, frames: simulateAll(character, shot) };
};
const set = (settings: Partial<RegionPart['settings']>) => (p: RegionPart) =>
  void Object.assign(p.settings, settings);

/** Where a row of numbers rises through 0, in frames, and how it dies away from one peak to the next. */
function swing(x: readonly number[]): { period: number; decrement: number } {
  const ups = x.flatMap((v, k) => (k > 0 && v >= 0 && x[k - 1]! < 0 ? [k - v / (v - x[k - 1]!)] : []));
  const peaks = ups.slice(0, 5).map((u, k) => {
    const end = ups[k + 1] ?? u + 20;
    return Math.max(...x.slice(Math.ceil(u), Math.ceil(end)));
  });
  return { period: (ups[4]! - ups[0]!) / 4, decrement: Math.log(peaks[0]! / peaks[3]!) / 3 };
}

/** 27: skin that is struck: its frequency, how it dies away, and the same peak at three densities. */
function struck(quick: boolean): TruthRow[] {
  const rows: TruthRow[] = [];
  const damping = 0.08;
  const { frames } = run(9, 0, lift, set({ damping, spread: 0 }), { all: true });
  // After the lift is over; in the middle.
  const x = Array.from({ length: 200 }, (_, k) => offsetsOf(frames, 20 + k)[3 * 40 + 1]!);
  const { period, decrement } = swing(x);
  const damped = Math.sqrt(1 - damping * damping);
  rows.push(judge(27, 'skin struck: frequency, Hz', 3 * damped, 60 / period, 0.03, true));
  rows.push(judge(27, 'the same: decrement', (2 * Math.PI * damping) / damped, decrement, 0.03, true));
  const peaks = (quick ? [17, 33] : [17, 33, 65]).map((n) => {
    const other = run(n, 0.6, lift);
    return Math.max(...meanOff(other.character, other.frames));
  });
  for (const peak of peaks.slice(1))
    rows.push(judge(27, 'painted skin lifted, finer: mean peak, m', peaks[0]!, peak, 0.03, true));
  return rows;
}

/** 8, 9, 28: scale, a steady flight, an acceleration, gravity and a spin. */
function carried(): TruthRow[] {
  const far = (f: ReturnType<typeof run>, row: number) => offsetsOf(f.frames, row);
  const flown = run(9, 0.6, (t) => [3 * t, 0, 0]);
  const a = 2;
  const pushed = run(9, 0, (t) => [(a * t * t) / 2, 0, 0], set({ damping: 0.7, spread: 0 }), { all: true });
  const hung = run(9, 0, () => [0, 0, 0], set({ damping: 0.7, droop: 1, spread: 0 }), { all: true });
  const spun = run(9, 0, (t) => [0, 0, 0, 2 * Math.PI * t], set({ damping: 0.5, spread: 0 }), {
    ...{ all: true, off: 0.5, seconds: 5 },
  });
  const middle = far(spun, 240).subarray(120, 123);
  const outwards = Math.sqrt(middle.reduce((s, x) => s + x * x, 0));
  const spin = 2 * Math.PI;
  return [
    atMost(
      9,
      'skin in steady flight: how far it is off, m',
      Math.max(...far(flown, 200).map(Math.abs)),
      1e-4,
    ),
    judge(9, 'skin that is accelerated: a / ω², m', a / (W * W), -far(pushed, 180)[0]!, 0.01, true),
    judge(2, 'skin that hangs: g / ω², m', G / (W * W), -far(hung, 200)[1]!, 0.01, true),
    judge(
      9,
      'skin in a spin: outwards, m',
      (0.5 * spin * spin) / (W * W - spin * spin),
      outwards,
      0.01,
      true,
    ),
  ];
}

/** 8: the same in another unit. */
function scaled(): TruthRow[] {
  const metre = run(17, 0.6, lift);
  const { character, shot } = softPatch(17, 0.6, lift);
  const part = shot.parts.skin as RegionPart;
  const inches = { ...shot, character: { ...shot.character, metresPerUnit: 10 } };
  const large = {
    ...inches,
    parts: { skin: { ...part, settings: { ...part.settings, spread: 10 * part.settings.spread } } },
  } as Shot;
  const tenfold = offsetsOf(simulateAll(character, large), 12);
  const own = offsetsOf(metre.frames, 12);
  const most = Math.max(...own.map(Math.abs));
  const apart = Math.max(...own.map((x, k) => Math.abs(10 * x - tenfold[k]!)));
  return [atMost(8, 'skin ten times as large: difference, share of its peak', apart / (10 * most), 1e-4)];
}

/** 20, 21: anything that can be set stays a number and in bounds; and again to the bit. */
function anything(quick: boolean): TruthRow[] {
  const random = mulberry32(4242);
  const rounds = quick ? 40 : 2000;
  let failed = 0;
  for (let k = 0; k < rounds; k++) {
    const speed = 3 * random();
    const f = run(
      5 + Math.floor(5 * random()),
      random(),
      (t) => [speed * Math.sin(7 * t), random() < 0.02 ? 5 : 0, 0, 3 * Math.sin(speed * t)],
      (p, s) => {
        for (const key of Object.keys(REGION_SETTINGS) as RegionSettingKey[]) {
          const { min, max } = REGION_SETTINGS[key];
          if (random() < 0.5) p.settings[key] = min + (Math.min(max, 30) - min) * random();
        }
        s.substeps = 1 + Math.floor(6 * random());
      },
      { seconds: 0.5, fps: 24 + Math.floor(40 * random()), all: random() < 0.5 },
    );
    if (!f.frames.points.every((x) => Math.abs(x) < 1e4)) failed++;
  }
  const [one, two] = [run(17, 0.6, lift), run(17, 0.6, lift)];
  const differs = one.frames.points.reduce((n, x, k) => n + Number(x !== two.frames.points[k]), 0);
  return [
    atMost(20, `${rounds} random soft regions: some number is none, or without end`, failed, 0),
    atMost(21, 'a soft region, run again: numbers that differ', differs, 0),
  ];
}

/** What is measured of soft regions. */
export const softRows = (quick: boolean): TruthRow[] => [
  ...struck(quick),
  ...carried(),
  ...scaled(),
  ...anything(quick),
];
