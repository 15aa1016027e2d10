import { atan2, cos, quatRotate, sin } from '../../math/index';
import {
  chainNumbers,
  makeArena,
  makeChainSolver,
  type Arena,
  type ChainFeel,
  type ChainMatter,
} from '../../solver/index';
import { missed, type AskedFeel, type Feel, type FittedFeel } from '../diagnosis';

/** The standard quick turn: 30° across the chain in 1/6 s, minimum jerk, no gravity, nothing touched. */
const TURN = Math.PI / 6;
const TURN_TIME = 1 / 6;
const WITHIN = 0.05;
/** Steps a second of the measurement, and how long it watches at most, s. */
const RATE = 240;
const LONGEST = 12;

/** Minimum jerk from 0 to 1 (Flash and Hogan 1985). */
const minimumJerk = (t: number): number => (t >= 1 ? 1 : t <= 0 ? 0 : t * t * t * (10 + t * (6 * t - 15)));

/**
 * Measures the feel of a chain of this matter and feel on the standard quick turn. `shape` is its rest shape: points 0..n,
 * 3 numbers each, m. `fps` is what a frame is.
 */
export function measureFeel(
  matter: ChainMatter,
  feel: ChainFeel,
  shape: Float64Array,
  fps: number,
  arena: Arena = makeArena(chainNumbers(matter.lengths.length)),
): Feel {
  const n = matter.lengths.length;
  arena.release(0);
  const solver = makeChainSolver(
    matter,
    { ...feel, gravity: [0, 0, 0], angleLimit: 180, planar: false },
    1 / RATE,
    arena,
  );
  // The turn's axis: across the chord.
  const t = 3 * n;
  const chord = [0, 1, 2].map((k) => shape[t + k]! - shape[k]!) as [number, number, number];
  const l = Math.sqrt(chord[0] ** 2 + chord[1] ** 2 + chord[2] ** 2) || 1;
  const [cx, cy, cz] = [chord[0] / l, chord[1] / l, chord[2] / l];
  // Perpendicular to the chord, as upright as can be.
  const up = Math.abs(cy) < 0.9 ? [0, 1, 0] : [0, 0, 1];
  const dot = up[0]! * cx + up[1]! * cy + up[2]! * cz;
  const a = [up[0]! - dot * cx, up[1]! - dot * cy, up[2]! - dot * cz];
  const al = Math.sqrt(a[0]! ** 2 + a[1]! ** 2 + a[2]! ** 2);
  const axis = a.map((x) => x / al) as [number, number, number];
  const side = [
    axis[1] * cz - axis[2] * cy,
    axis[2] * cx - axis[0] * cz,
    axis[0] * cy - axis[1] * cx,
  ] as const;
  const q = new Float64Array(4);
  const p = new Float64Array(3);
  const aim = (angle: number) => {
    const s = sin(angle / 2);
    q.set([axis[0] * s, axis[1] * s, axis[2] * s, cos(angle / 2)]);
    for (let i = 0; i <= n; i++) {
      for (let k = 0; k < 3; k++) p[k] = shape[3 * i + k]! - shape[k]!;
      quatRotate(solver.source, 3 * i, q, 0, p, 0);
      if (i < n) solver.sourceTurn.set(q, 4 * i);
    }
  };
  aim(0);
  solver.reset(new Float64Array(3 * n + 3));
  const steps = LONGEST * RATE;
  const curve: number[] = [0];
  let rootHalf = NaN;
  let half = NaN;
  let most = 0;
  let lastOut = 0;
  let before = 0;
  let rootBefore = 0;
  let k = 1;
  for (; k <= steps; k++) {
    const time = k / RATE;
    const root = minimumJerk(time / TURN_TIME);
    aim(TURN * root);
    solver.step();
    const { x } = solver;
    let along = 0;
    let across = 0;
    for (let c = 0; c < 3; c++) {
      const d = x[t + c]! - x[c]!;
      along += d * [cx, cy, cz][c]!;
      across += d * side[c]!;
    }
    const share = atan2(across, along) / TURN;
    const cross = (from: number, to: number) => (k - 1 + (0.5 - from) / (to - from)) / RATE;
    if (Number.isNaN(rootHalf) && root >= 0.5) rootHalf = cross(rootBefore, root);
    if (Number.isNaN(half) && share >= 0.5) half = cross(before, share);
    most = Math.max(most, share);
    if (Math.abs(share - 1) > WITHIN) lastOut = time;
    before = share;
    rootBefore = root;
    const frame = time * fps;
    if (Math.floor(frame + 1e-9) >= curve.length) curve.push(share);
    // Long inside its band, and slow: nothing more will come.
    if (time > TURN_TIME + 0.5 && time - lastOut > 1) break;
  }
  return {
    lag: Number.isNaN(half) ? Infinity : (half - rootHalf) * fps,
    overshoot: Math.max(0, most - 1) * 100,
    settle: k > steps ? Infinity : Math.max(0, lastOut - TURN_TIME) * fps,
    curve: Float64Array.from(curve),
  };
}

/**
 * Finds hold, bend and damping that give an asked feel: the two stiffnesses keep their proportion and are scaled
 * together. Overshoot falls with damping and lag with stiffness, so each is found by halving; settle goes with
 * stiffness where no lag is asked for, with damping where no overshoot is. Where all three are asked the first two are
 * met and `why` says what became of the third.
 */
export function fitFeel(
  matter: ChainMatter,
  feel: ChainFeel,
  shape: Float64Array,
  fps: number,
  asked: AskedFeel,
  most = 30,
): FittedFeel {
  const base = feel.hold > 0 || feel.bend > 0 ? feel : { ...feel, hold: 1 };
  const limit = most / Math.max(base.hold, base.bend);
  const arena = makeArena(chainNumbers(matter.lengths.length));
  const at = (scale: number, damping: number) => {
    const next = { ...base, hold: base.hold * scale, bend: base.bend * scale, damping };
    return { next, feel: measureFeel(matter, next, shape, fps, arena) };
  };
  /** The largest value of a rising variable for which `high` still holds. */
  const halve = (lo: number, hi: number, high: (x: number) => boolean) => {
    let [a, b] = [lo, hi];
    for (let k = 0; k < 22; k++) {
      // Halving ratios: these settings work by how many times as much.
      const m = Math.sqrt(a * b);
      if (high(m)) a = m;
      else b = m;
    }
    return Math.sqrt(a * b);
  };
  let scale = 1;
  let damping = base.damping;
  for (let round = 0; round < 6; round++) {
    const before = [scale, damping] as const;
    if (asked.overshoot !== undefined) {
      const want = asked.overshoot;
      damping = halve(0.005, 4, (d) => at(scale, d).feel.overshoot > want);
    } else if (asked.settle !== undefined && asked.lag !== undefined) {
      // From the side where it swings: less damping settles later.
      const want = asked.settle;
      damping = halve(0.02, 0.8, (d) => at(scale, d).feel.settle > want);
    }
    if (asked.lag !== undefined) {
      const want = asked.lag;
      scale = halve(0.002 * limit, limit, (s) => at(s, damping).feel.lag > want);
    } else if (asked.settle !== undefined) {
      const want = asked.settle;
      scale = halve(0.002 * limit, limit, (s) => at(s, damping).feel.settle > want);
    }
    if (Math.abs(scale / before[0] - 1) < 1e-3 && Math.abs(damping / before[1] - 1) < 1e-3) break;
  }
  const found = at(scale, damping);
  const settings = { hold: found.next.hold, bend: found.next.bend, damping };
  return { settings, feel: found.feel, why: missed(asked, found.feel) };
}
