import { missed, type AskedFeel, type Feel, type FittedFeel } from './diagnosis';

/** Halvings of a search, and rounds over both variables. */
const HALVINGS = 22;
const ROUNDS = 6;

/**
 * The largest value of a rising variable for which `high` still holds: these settings work by how many times as much.
 */
function halve(lo: number, hi: number, high: (x: number) => boolean): number {
  let [a, b] = [lo, hi];
  for (let k = 0; k < HALVINGS; k++) {
    const m = Math.sqrt(a * b);
    if (high(m)) a = m;
    else b = m;
  }
  return Math.sqrt(a * b);
}

/**
 * Finds settings that give an asked feel. `set` makes them of a scale (1 to begin with, `limit` at most) on all
 * stiffnesses together and of a damping ratio; `measure` says how they feel. Overshoot falls with damping and lag with
 * stiffness, so each is found by halving; settle goes with stiffness where no lag is asked for, with damping where no
 * overshoot is. Where all three are asked the first two are met and `why` says what became of the third.
 */
export function fitTo<S extends Readonly<Record<string, number>>>(
  asked: AskedFeel,
  begin: number,
  limit: number,
  set: (scale: number, damping: number) => S,
  measure: (settings: S) => Feel,
): FittedFeel {
  const feelAt = (scale: number, damping: number) => measure(set(scale, damping));
  let scale = 1;
  let damping = begin;
  for (let round = 0; round < ROUNDS; round++) {
    const before = [scale, damping] as const;
    if (asked.overshoot !== undefined) {
      const want = asked.overshoot;
      damping = halve(0.005, 4, (d) => feelAt(scale, d).overshoot > want);
    } else if (asked.settle !== undefined && asked.lag !== undefined) {
      // From the side where it swings: less damping settles later.
      const want = asked.settle;
      damping = halve(0.02, 0.8, (d) => feelAt(scale, d).settle > want);
    }
    if (asked.lag !== undefined) {
      const want = asked.lag;
      scale = halve(0.002 * limit, limit, (s) => feelAt(s, damping).lag > want);
    } else if (asked.settle !== undefined) {
      const want = asked.settle;
      scale = halve(0.002 * limit, limit, (s) => feelAt(s, damping).settle > want);
    }
    if (Math.abs(scale / before[0] - 1) < 1e-3 && Math.abs(damping / before[1] - 1) < 1e-3) break;
  }
  const settings = set(scale, damping);
  const feel = measure(settings);
  return { settings, feel, why: missed(asked, feel) };
}
