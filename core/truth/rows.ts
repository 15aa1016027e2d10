import type { Frames } from '../src/frames/index';
import { simulateAll } from '../src/simulate/index';
import { extremes, makeBench, record, upcrossings } from './drive';
import { makeRow, rowShot, type RootMotion } from './rig';
import { atMost, judge, type TruthRow } from './row';

const G = 9.81;
const RAD = Math.PI / 180;

/** Quarter period factor K(sin θ/2)·2/π by the arithmetic–geometric mean, exact. */
function periodOf(length: number, angle: number): number {
  let a = 1;
  let g = Math.cos(angle / 2);
  for (let i = 0; i < 40; i++) [a, g] = [(a + g) / 2, Math.sqrt(a * g)];
  return (2 * Math.PI * Math.sqrt(length / G)) / a;
}

/** 1: one free link swings with the exact period and keeps its energy. */
export function freeLink(quick: boolean): TruthRow[] {
  const rows: TruthRow[] = [];
  for (const length of quick ? [0.3] : [0.1, 0.2, 0.3, 1]) {
    for (const degrees of quick ? [10, 150] : [10, 90, 150]) {
      const substeps = length < 0.3 ? 16 : 8;
      const bench = makeBench(1, length, { gravity: [0, -G, 0] }, 30 * substeps);
      bench.aim(degrees * RAD);
      bench.solver.reset(new Float64Array(6));
      bench.aim(0);
      const energy = () => bench.solver.kinetic() / (0.05 * length) + G * (bench.solver.x[4]! + length);
      const start = energy();
      const swing = record(bench, 10);
      const cross = upcrossings(swing, bench.h);
      const name = `free link ${length} m, ${degrees}°, ${substeps} substeps`;
      rows.push(
        judge(
          1,
          `${name}: first full period, s`,
          periodOf(length, degrees * RAD),
          cross[1]! - cross[0]!,
          0.003,
          true,
        ),
      );
      rows.push(atMost(1, `${name}: energy lost in 10 s`, 1 - energy() / start, 0.02));
    }
  }
  return rows;
}

/** 2: hold has the asked frequency and decrement; no overshoot at ratio 1. */
export function holdLink(quick: boolean): TruthRow[] {
  const rows: TruthRow[] = [];
  for (const hz of quick ? [2] : [0.5, 2, 8]) {
    for (const ratio of quick ? [0.3, 1] : [0.02, 0.3, 1]) {
      const bench = makeBench(1, 0.3, { hold: hz, damping: ratio }, 240);
      const swing0 = 3 * RAD;
      // Set off by a push: turning the source instead would drag the link along through the damping, which follows it.
      bench.aim(0);
      bench.solver.reset(Float64Array.from([0, 0, 0, swing0 * 2 * Math.PI * hz * 0.3, 0, 0]));
      const row = record(bench, Math.max(2, 12 / hz));
      const name = `hold ${hz} Hz, ratio ${ratio}`;
      if (ratio === 1) {
        rows.push(
          atMost(
            2,
            `${name}: overshoot, share of swing`,
            Math.max(0, -Math.min(...row)) / Math.max(...row),
            0.005,
          ),
        );
        continue;
      }
      const peaks = extremes(row, bench.h);
      const valleys = extremes(row, bench.h, -1);
      const used = Math.min(peaks.length, valleys.length, ratio > 0.1 ? 2 : 8);
      const period = (peaks[used - 1]!.time - peaks[0]!.time) / (used - 1);
      const decrement = Math.log(peaks[0]!.value / peaks[used - 1]!.value) / (used - 1);
      const damped = Math.sqrt(1 - ratio * ratio);
      rows.push(judge(2, `${name}: frequency, Hz`, hz * damped, 1 / period, 0.02, true));
      rows.push(judge(2, `${name}: decrement`, (2 * Math.PI * ratio) / damped, decrement, 0.02, true));
    }
  }
  return rows;
}

/** 5: a heavy tip on a hard length keeps the length. */
export function heavyTip(): TruthRow[] {
  const links = 40;
  const masses = new Float64Array(links).fill(0.1 / links);
  masses[links - 1] = 1 / links;
  const bench = makeBench(links, 1, { gravity: [0, -G, 0], damping: 0.1, hold: 0.3 }, 240, masses);
  bench.aim(0);
  bench.solver.reset(new Float64Array(3 * (links + 1)));
  const worst = () => {
    let e = 0;
    for (let i = 0; i < links; i++) {
      const o = 3 * i;
      const { x } = bench.solver;
      e = Math.max(
        e,
        Math.abs(Math.hypot(x[o + 3]! - x[o]!, x[o + 4]! - x[o + 1]!, x[o + 5]! - x[o + 2]!) * links - 1),
      );
    }
    return e;
  };
  for (let k = 0; k < 480; k++) bench.solver.step();
  const rest = worst();
  let swing = 0;
  for (let k = 0; k < 960; k++) {
    const t = k / 240;
    bench.aim(0, [
      0.4 * Math.sin(2 * Math.PI * 1.3 * t),
      0.1 * Math.sin(2 * Math.PI * 2.1 * t),
      0.2 * Math.sin(2 * Math.PI * 0.7 * t),
    ]);
    bench.solver.step();
    swing = Math.max(swing, worst());
  }
  return [
    atMost(5, '40 links, tip ten times heavier: length error at rest', rest, 0.001),
    atMost(5, '40 links, tip ten times heavier: length error in a hard swing', swing, 0.005),
  ];
}

/** 6: the same strand in 10, 20 and 40 links droops and swings alike. */
export function jointCount(quick: boolean): TruthRow[] {
  const measure = (links: number) => {
    const droop = makeBench(links, 0.6, { bend: 2.4, damping: 1, gravity: [0, -2, 0] }, 240);
    droop.aim(Math.PI / 2);
    droop.solver.reset(new Float64Array(3 * links + 3));
    for (let k = 0; k < 960; k++) droop.solver.step();
    const swing = makeBench(links, 0.6, { bend: 2.4, damping: 0.02 }, 240);
    swing.aim(2 * RAD);
    swing.solver.reset(new Float64Array(3 * links + 3));
    swing.aim(0);
    const cross = upcrossings(record(swing, 4), swing.h);
    return {
      droop: -droop.solver.x[3 * links + 1]! / 0.6,
      hz: (cross.length - 1) / (cross.at(-1)! - cross[0]!),
    };
  };
  const fine = measure(40);
  const rows = [judge(6, 'bend 2.4 Hz, 40 links: first frequency, Hz', 2.4, fine.hz, 0.03, true)];
  for (const links of quick ? [10] : [10, 20]) {
    const m = measure(links);
    rows.push(judge(6, `${links} links against 40: droop, share of length`, fine.droop, m.droop, 0.03, true));
    rows.push(judge(6, `${links} links against 40: first frequency, Hz`, fine.hz, m.hz, 0.03, true));
  }
  return rows;
}

/** A hard drive that is smooth: turning ±50°, swaying and bobbing. */
const hard: RootMotion = (t) => {
  const ease = Math.min(1, t / 0.5) ** 2 * (3 - 2 * Math.min(1, t / 0.5));
  return {
    place: [0.3 * ease * Math.sin(2 * Math.PI * 0.9 * t), 0.1 * ease * Math.sin(2 * Math.PI * 1.7 * t), 0],
    turn: 50 * RAD * ease * Math.sin(2 * Math.PI * 1.1 * t),
  };
};

/** Tip of chain 0 at a time in s, by the cubic through four frames. */
function tipAt(frames: Frames, fps: number, time: number): number[] {
  const at = time * fps;
  const f = Math.min(frames.count - 2, Math.floor(at));
  const u = at - f;
  const w = [
    (-u * (u - 1) * (u - 2)) / 6,
    ((u + 1) * (u - 1) * (u - 2)) / 2,
    (-(u + 1) * u * (u - 2)) / 2,
    ((u + 1) * u * (u - 1)) / 6,
  ];
  return [0, 1, 2].map((a) =>
    w.reduce(
      (sum, k, i) => sum + k * frames.tips[3 * Math.min(frames.count - 1, Math.max(0, f - 1 + i)) + a]!,
      0,
    ),
  );
}

/**
 * 7: the same shot at other frame rates and substeps gives the same tip path (1 %, and 1.5 % below 120 steps a second).
 */
export function frameRates(quick: boolean): TruthRow[] {
  const rows: TruthRow[] = [];
  const character = makeRow(10, 0.5, 4, hard);
  const feels = {
    hold: { hold: 1.6, bend: 0, damping: 0.2 },
    bend: { hold: 0, bend: 2.4, damping: 0.2 },
    both: { hold: 1.2, bend: 2, damping: 0.1 },
  };
  for (const [name, feel] of Object.entries(feels)) {
    if (quick && name !== 'both') continue;
    const run = (fps: number, substeps: number) =>
      simulateAll(character, rowShot(character, feel, { fps, substeps }));
    const reference = run(120, 16);
    for (const fps of [24, 30, 60]) {
      for (const substeps of quick ? [8] : [4, 8, 16]) {
        const frames = run(fps, substeps);
        let sum = 0;
        let n = 0;
        for (let f = 0; f < frames.count - 2; f++, n++) {
          const b = tipAt(reference, 120, f / fps);
          for (let a = 0; a < 3; a++) sum += (frames.tips[3 * f + a]! - b[a]!) ** 2;
        }
        rows.push(
          atMost(
            7,
            `${name}, ${fps} fps, ${substeps} substeps: tip path off, RMS share of length`,
            Math.sqrt(sum / n) / 0.5,
            0.01,
          ),
        );
      }
    }
  }
  return rows;
}

/** 9: steady travel bends nothing; steady acceleration leans the chain by atan(a/g). */
export function travel(quick: boolean): TruthRow[] {
  const rows: TruthRow[] = [];
  for (const [fps, substeps] of quick
    ? [[30, 8]]
    : [
        [24, 4],
        [30, 8],
        [60, 16],
      ]) {
    const steady = makeRow(8, 0.5, 4, (t) => ({ place: [3 * t, 0, 0], turn: 0 }));
    const still = simulateAll(steady, rowShot(steady, { hold: 1, bend: 0, damping: 0.3 }, { fps, substeps }));
    rows.push(
      atMost(
        9,
        `constant velocity, ${fps} fps, ${substeps} substeps: deflection, share of length`,
        Math.max(...still.tipOffSource.slice(0, -2)) / 0.5,
        0.001,
      ),
    );
    const a = 4;
    const pushed = makeRow(8, 0.5, 6, (t) => ({ place: [(a * t * t) / 2, 0, 0], turn: 0 }));
    const frames = simulateAll(
      pushed,
      rowShot(pushed, { hold: 0, bend: 0, damping: 0.5 }, { fps, substeps }),
    );
    const f = frames.count - 3;
    const t = f / fps!;
    const lean = Math.atan2((a * t * t) / 2 - frames.tips[3 * f]!, -frames.tips[3 * f + 1]!);
    rows.push(
      judge(
        9,
        `constant acceleration ${a} m/s², ${fps} fps, ${substeps} substeps: lean, °`,
        Math.atan(a / G) / RAD,
        lean / RAD,
        0.01,
        true,
      ),
    );
  }
  return rows;
}
