import { NO_FEEL, lumpMasses, makeChainSolver, type ChainFeel, type ChainSolver } from '../src/solver/index';

/** A bare chain along a direction, at rest on a source that can be turned and moved; nothing of files or shots. */
export interface Bench {
  solver: ChainSolver;
  h: number;
  length: number;
  /** Points the whole source at `angle` radians from straight down (in the x–y plane), at a root place. */
  aim(angle: number, root?: readonly [number, number, number]): void;
  /** Angle of the chord from straight down, radians, positive toward +x. */
  chord(): number;
}

export function makeBench(
  links: number,
  length: number,
  feel: Partial<ChainFeel>,
  rate: number,
  masses?: Float64Array,
): Bench {
  const lengths = new Float64Array(links).fill(length / links);
  const h = 1 / rate;
  const full: ChainFeel = { ...NO_FEEL, ...feel };
  const solver = makeChainSolver({ lengths, masses: masses ?? lumpMasses(lengths, 0.1) }, full, h);
  const aim: Bench['aim'] = (angle, root = [0, 0, 0]) => {
    for (let i = 0; i <= links; i++) {
      const r = (i * length) / links;
      solver.source[3 * i] = root[0] + r * Math.sin(angle);
      solver.source[3 * i + 1] = root[1] - r * Math.cos(angle);
      solver.source[3 * i + 2] = root[2];
    }
    for (let i = 0; i < links; i++)
      solver.sourceTurn.set([0, 0, Math.sin(angle / 2), Math.cos(angle / 2)], 4 * i);
  };
  const chord = () => {
    const { x } = solver;
    const t = 3 * links;
    return Math.atan2(x[t]! - x[0]!, -(x[t + 1]! - x[1]!));
  };
  return { solver, h, length, aim, chord };
}

/** Runs and records the chord angle each step. */
export function record(bench: Bench, seconds: number): Float64Array {
  const n = Math.round(seconds / bench.h);
  return Float64Array.from({ length: n }, () => {
    bench.solver.step();
    return bench.chord();
  });
}

/** Times (s) and heights of the extremes of a row, by the parabola through each highest sample and its neighbours. */
export function extremes(row: Float64Array, h: number, sign: 1 | -1 = 1): { time: number; value: number }[] {
  const out: { time: number; value: number }[] = [];
  for (let i = 1; i + 1 < row.length; i++) {
    const a = sign * row[i - 1]!,
      b = sign * row[i]!,
      c = sign * row[i + 1]!;
    if (b > a && b >= c) {
      const curve = a - 2 * b + c;
      const d = curve === 0 ? 0 : (a - c) / (2 * curve);
      out.push({ time: (i + 1 + d) * h, value: sign * (b - ((a - c) * d) / 4) });
    }
  }
  return out;
}

/** Times (s) at which a row crosses 0 upward, by a straight line between samples. */
export function upcrossings(row: Float64Array, h: number): number[] {
  const out: number[] = [];
  for (let i = 1; i < row.length; i++) {
    if (row[i - 1]! < 0 && row[i]! >= 0) out.push((i + 1 - row[i]! / (row[i]! - row[i - 1]!)) * h);
  }
  return out;
}
