import type { LoopReport } from '../frames/index';
import type { Memory, World } from './engine';

/** Differences below this count as closed: a tenth of what is promised. */
const CLOSED = 1e-7;
const MOST_LAPS = 80;
/** The same of what folds: folds are chaotic, and mostly never come to repeat. */
const FOLDED_LAPS = 4;
/** Laps remembered for the acceleration. */
const WINDOW = 6;

/** Looks for the motion of one group that repeats. */
interface Search {
  /** States before and after remembered laps. */
  readonly starts: Float64Array[];
  readonly ends: Float64Array[];
  best: number;
  readonly most: number;
  report: LoopReport;
  /** What it begins the kept lap with. */
  found: Memory | null;
}

/**
 * Runs a loop until its motion repeats: the state after a lap, carried back by the loop's travel, is the state before.
 * What converges slowly (lightly damped swings die over many laps) is accelerated by Anderson mixing (Walker and Ni
 * 2011): the next start is the combination of earlier ends that would leave the least difference if a lap were linear.
 * Each group of the world is looked at by itself, and kept as it was when it was found. `lap` runs once through, `back`
 * carries the world from its end to its start; yields what `lap` yields, returns a report for each group. `folds` says
 * which groups fold: these get few laps, and states are not mixed, for a mix of two folds is none.
 */
export function* findPeriodic(
  world: World,
  lap: () => Generator<void>,
  back: () => void,
  folds: readonly boolean[],
): Generator<void, LoopReport[]> {
  const searches = Array.from({ length: world.groups }, (_, g): Search => {
    const most = folds[g] ? FOLDED_LAPS : MOST_LAPS;
    const report = { found: false, laps: most, gap: Infinity, why: 'motion', blended: 0 } as const;
    return { starts: [], ends: [], best: Infinity, most, report, found: null };
  });
  for (let laps = 1; searches.some((s) => !s.found && laps <= s.most); laps++) {
    const starts = searches.map((_, g) => world.save(g));
    yield* lap();
    back();
    searches.forEach((s, g) => {
      if (s.found) return;
      const start = starts[g]!;
      const end = world.save(g);
      let gap = 0;
      for (let k = 0; k < end.length; k++) gap = Math.max(gap, Math.abs(end[k]! - start[k]!));
      const found = gap < CLOSED;
      s.report = found ? { found, laps, gap, why: '', blended: 0 } : { ...s.report, gap };
      if (found) {
        s.found = world.remember(g);
        return;
      }
      if (folds[g]) return;
      // A mix that made things worse is forgotten.
      if (gap > 4 * s.best) s.starts.length = s.ends.length = 0;
      s.best = Math.min(s.best, gap);
      s.starts.push(start);
      s.ends.push(end);
      if (s.starts.length > WINDOW) {
        s.starts.shift();
        s.ends.shift();
      }
      // The first laps shed what is only a beginning.
      world.load(g, laps > 2 && s.starts.length > 1 ? mix(s.starts, s.ends) : end);
    });
  }
  searches.forEach((s, g) => s.found && world.recall(g, s.found));
  return searches.map((s) => s.report);
}

/** The Anderson step from the remembered laps. */
function mix(starts: readonly Float64Array[], ends: readonly Float64Array[]): Float64Array {
  const m = starts.length - 1;
  const size = ends[m]!.length;
  const left = (k: number, i: number) => ends[k]![i]! - starts[k]![i]!;
  // Least squares of the last difference over the changes of difference, by normal equations.
  const a = Array.from({ length: m }, () => new Float64Array(m + 1));
  for (let p = 0; p < m; p++) {
    for (let q = p; q < m; q++) {
      let sum = 0;
      for (let i = 0; i < size; i++) sum += (left(p + 1, i) - left(p, i)) * (left(q + 1, i) - left(q, i));
      a[p]![q] = a[q]![p] = sum;
    }
    let sum = 0;
    for (let i = 0; i < size; i++) sum += (left(p + 1, i) - left(p, i)) * left(m, i);
    a[p]![m] = sum;
  }
  let trace = 0;
  for (let p = 0; p < m; p++) trace += a[p]![p]!;
  for (let p = 0; p < m; p++) a[p]![p]! += 1e-12 * trace + 1e-300;
  const gamma = solve(a);
  const out = Float64Array.from(ends[m]!);
  for (let p = 0; p < m; p++)
    for (let i = 0; i < size; i++) out[i]! -= gamma[p]! * (ends[p + 1]![i]! - ends[p]![i]!);
  return out;
}

/** Gaussian elimination with row exchange; the last column is the right-hand side. */
function solve(a: Float64Array[]): Float64Array {
  const m = a.length;
  for (let p = 0; p < m; p++) {
    let best = p;
    for (let r = p + 1; r < m; r++) if (Math.abs(a[r]![p]!) > Math.abs(a[best]![p]!)) best = r;
    [a[p], a[best]] = [a[best]!, a[p]!];
    const pivot = a[p]![p]!;
    if (Math.abs(pivot) < 1e-300) continue;
    for (let r = p + 1; r < m; r++) {
      const by = a[r]![p]! / pivot;
      for (let c = p; c <= m; c++) a[r]![c]! -= by * a[p]![c]!;
    }
  }
  const x = new Float64Array(m);
  for (let p = m - 1; p >= 0; p--) {
    let sum = a[p]![m]!;
    for (let c = p + 1; c < m; c++) sum -= a[p]![c]! * x[c]!;
    x[p] = Math.abs(a[p]![p]!) < 1e-300 ? 0 : sum / a[p]![p]!;
  }
  return x;
}
