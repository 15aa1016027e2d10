import { acos, atan2, cos, quatRotate, sin } from '../../math/index';
import {
  chainNumbers,
  makeArena,
  makeChainSolver,
  type Arena,
  type ChainFeel,
  type ChainMatter,
  type ChainSolver,
} from '../../solver/index';
import type { AskedFeel, Feel, FittedFeel } from '../diagnosis';
import { fitTo } from '../fitting';

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
 * Turns the source of a chain about an axis across its chord, and reads how far the chain itself has turned, radians.
 */
function quickTurn(
  solver: ChainSolver,
  shape: Float64Array,
): { aim: (angle: number) => void; angleOf: () => number } {
  const n = solver.links;
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
  const angleOf = () => {
    const { x } = solver;
    let along = 0;
    let across = 0;
    for (let c = 0; c < 3; c++) {
      const d = x[t + c]! - x[c]!;
      along += d * [cx, cy, cz][c]!;
      across += d * side[c]!;
    }
    return atan2(across, along);
  };
  return { aim, angleOf };
}

/**
 * Measures the feel of a chain of this matter and feel on the standard quick turn. `shape` is its rest shape: points
 * 0..n, 3 numbers each, m. `fps` is what a frame is.
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
  const { aim, angleOf } = quickTurn(solver, shape);
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
    const share = angleOf() / TURN;
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

/** Steps in which a rest is looked for, s each; and the speed, in lengths a second, below which it is one. */
const REST_STEP = 1 / 30;
const REST_STEPS = 900;
const REST_SPEED = 1e-4;

/**
 * Degrees by which the tip, seen from the root, rests off its source under gravity, for a shot whose step is h (s): its
 * stiffness depends a little on that. Other arguments as of {@link measureFeel}.
 */
export function restDroop(
  matter: ChainMatter,
  feel: ChainFeel,
  shape: Float64Array,
  h: number,
  arena: Arena = makeArena(chainNumbers(matter.lengths.length)),
): number {
  const n = matter.lengths.length;
  if (feel.gravity.every((g) => g === 0)) return 0;
  arena.release(0);
  const damping = Math.max(1, feel.damping);
  const solver = makeChainSolver(matter, { ...feel, damping, planar: false }, h, arena);
  solver.setStep(REST_STEP);
  const { aim } = quickTurn(solver, shape);
  aim(0);
  solver.reset(new Float64Array(3 * n + 3));
  const length = matter.lengths.reduce((a, b) => a + b, 0);
  for (let k = 1; k <= REST_STEPS; k++) {
    solver.step();
    if (k > 10 && solver.v.every((v) => Math.abs(v) < REST_SPEED * length)) break;
  }
  const { x } = solver;
  let [dot, here, source] = [0, 0, 0];
  for (let c = 0; c < 3; c++) {
    const is = x[3 * n + c]! - x[c]!;
    const was = shape[3 * n + c]! - shape[c]!;
    dot += is * was;
    here += is * is;
    source += was * was;
  }
  return (acos(dot / (Math.sqrt(here * source) || 1)) * 180) / Math.PI;
}

/** The hold (Hz) with which a chain rests so many degrees below its source. */
export function fitDroop(
  matter: ChainMatter,
  feel: ChainFeel,
  shape: Float64Array,
  h: number,
  asked: number,
  most = 30,
): { readonly hold: number; readonly droop: number } {
  const arena = makeArena(chainNumbers(matter.lengths.length));
  const at = (hold: number) => restDroop(matter, { ...feel, hold }, shape, h, arena);
  let [low, high] = [0.01, most];
  if (at(low) <= asked) return { hold: 0, droop: at(0) };
  for (let k = 0; k < 18; k++) {
    const middle = Math.sqrt(low * high);
    if (at(middle) > asked) low = middle;
    else high = middle;
  }
  return { hold: high, droop: at(high) };
}

/**
 * Finds hold, bend and damping that give an asked feel: the two stiffnesses keep their proportion. See {@link fitTo}.
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
  const arena = makeArena(chainNumbers(matter.lengths.length));
  const set = (scale: number, damping: number) => ({
    hold: base.hold * scale,
    bend: base.bend * scale,
    damping,
  });
  const limit = most / Math.max(base.hold, base.bend);
  return fitTo(asked, base.damping, limit, set, (settings) =>
    measureFeel(matter, { ...base, ...settings }, shape, fps, arena),
  );
}
