import type { Character } from '../src/character/index';
import type { ValueKeys } from '../src/model/index';
import { softly } from '../src/parts/pendulum/limits';
import { makePendulumPart, type PendulumPart } from '../src/parts/pendulum/shared';
import { editShot, makeShot, type Shot } from '../src/shot/index';
import { simulateAll } from '../src/simulate/index';
import { makeRow } from './rig';
import { atMost, judge, type TruthRow } from './row';

/** Two joints, one below the other, that a pair of pendulums turns: the first by the one, the second by the other. */
const character: Character = makeRow(2, 0.4, 8, () => ({ place: [0, 0, 0], turn: 0 }));

type Settings = Partial<PendulumPart['settings']>;

export function pendulumShot(
  keys: ValueKeys,
  settings: Settings,
  shot: Partial<Pick<Shot, 'fps' | 'loop'>> & { seconds: number },
  more: Partial<PendulumPart> = {},
): Shot {
  const fps = shot.fps ?? 30;
  const base = makeShot({
    ...{ name: 'Pendulum', hash: '0'.repeat(64), fileName: 'row.glb', fps },
    clip: { index: 0, name: 'clip', duration: shot.seconds },
  });
  const turn = (node: number, pendulum: 1 | 2, limits = {}) => ({
    ...{ id: `o${pendulum}`, pendulum, ...limits },
    target: { does: 'turn' as const, joint: { node, name: character.nodes[node]!.name }, axis: 'z' as const },
  });
  return editShot(base, 'pendulum-1', 'Make', (d) => {
    d.loop = shot.loop ?? false;
    d.parts.p = makePendulumPart({
      ...{ id: 'p', name: 'Pair', settings, outputs: [turn(1, 1), turn(2, 2)] },
      ...{ input: { from: 'drawn', keys, cycles: false } },
      ...more,
    });
  }).shot;
}

/** Degrees by which both joints are turned on each frame. */
export function answers(shot: Shot): [number[], number[]] {
  const frames = simulateAll(character, shot);
  const column = (c: number) =>
    Array.from({ length: frames.count }, (_, f) => {
      const q = 4 * (f * frames.joints.length + c);
      return (2 * Math.atan2(frames.rotations[q + 2]!, frames.rotations[q + 3]!) * 180) / Math.PI;
    });
  return [column(0), column(1)];
}

type Complex = readonly [number, number];
const times = ([a, b]: Complex, [c, d]: Complex): Complex => [a * c - b * d, a * d + b * c];
const less = ([a, b]: Complex, [c, d]: Complex): Complex => [a - c, b - d];
const over = (a: Complex, [c, d]: Complex): Complex => times(a, [c / (c * c + d * d), -d / (c * c + d * d)]);

/** Roots of xⁿ + c₁ xⁿ⁻¹ + … by the method of Durand and Kerner. */
function rootsOf(c: readonly number[]): Complex[] {
  const at = (x: Complex) => c.reduce<Complex>((sum, k) => less(times(sum, x), [-k, 0]), [1, 0]);
  const size = Math.max(1, ...c.map((k, i) => Math.abs(k) ** (1 / (i + 1))));
  let roots = c.map((_, i): Complex => [size * Math.cos(i + 0.4), size * Math.sin(i + 0.4)]);
  for (let n = 0; n < 2000; n++)
    roots = roots.map((x, i) =>
      less(
        x,
        over(
          at(x),
          roots.reduce<Complex>((p, y, j) => (i === j ? p : times(p, less(x, y))), [1, 0]),
        ),
      ),
    );
  return roots;
}

/** Frequency (Hz) and logarithmic decrement of each of two modes from their poles (1/s), the slower first. */
const modesOf = (poles: readonly Complex[]) =>
  poles
    .filter(([, im]) => im > 1e-6)
    .map(([re, im]) => ({ hz: im / (2 * Math.PI), decrement: (-2 * Math.PI * re) / im }))
    .sort((a, b) => a.hz - b.hz);

/** The poles of a free swing, read off its samples: all obey one recurrence of fourth order (Prony). */
function polesIn(rows: readonly (readonly number[])[], fps: number): Complex[] {
  const a = Array.from({ length: 4 }, () => new Array<number>(5).fill(0));
  for (const row of rows)
    for (let n = 0; n + 4 < row.length; n++)
      for (let i = 0; i < 4; i++) {
        for (let j = 0; j < 4; j++) a[i]![j]! += row[n + i]! * row[n + j]!;
        a[i]![4]! += row[n + i]! * row[n + 4]!;
      }
  for (let p = 0; p < 4; p++) {
    const best = [0, 1, 2, 3]
      .slice(p)
      .reduce((m, r) => (Math.abs(a[r]![p]!) > Math.abs(a[m]![p]!) ? r : m), p);
    [a[p], a[best]] = [a[best]!, a[p]!];
    for (let r = 0; r < 4; r++)
      if (r !== p) {
        const by = a[r]![p]! / a[p]![p]!;
        for (let k = p; k <= 4; k++) a[r]![k]! -= by * a[p]![k]!;
      }
  }
  const x = a.map((row, i) => row[4]! / row[i]!);
  const z = rootsOf([3, 2, 1, 0].map((i) => -x[i]!));
  return z.map(([re, im]) => [fps * Math.log(Math.hypot(re, im)), fps * Math.atan2(im, re)]);
}

const released = (value: number): ValueKeys => [
  { frame: 0, value, kind: 'stepped' },
  { frame: 1, value: 0, kind: 'stepped' },
];

/** 22: a coupled pair let go swings in its two modes; its answer to a step; limits; a loop that closes. */
export function pendulums(quick: boolean): TruthRow[] {
  const rows: TruthRow[] = [];
  const settings = { frequency: 1.3, frequency2: 0.8, damping: 0.06, damping2: 0.09, coupling: 0.3 };
  const [w1, w2] = [2 * Math.PI * settings.frequency, 2 * Math.PI * settings.frequency2];
  const tie = settings.coupling * w1 * w2;
  const [c1, c2, k1, k2] = [
    2 * settings.damping * w1,
    2 * settings.damping2 * w2,
    w1 * w1 + tie,
    w2 * w2 + tie,
  ];
  // (s² + c₁ s + k₁)(s² + c₂ s + k₂) = tie²
  const expected = modesOf(rootsOf([c1 + c2, c1 * c2 + k1 + k2, c1 * k2 + c2 * k1, k1 * k2 - tie * tie]));
  for (const fps of quick ? [30] : [24, 30, 60]) {
    const both = answers(pendulumShot(released(20), settings, { fps, seconds: 8 }));
    const measured = modesOf(
      polesIn(
        both.map((row) => row.slice(2)),
        fps,
      ),
    );
    expected.forEach((m, i) => {
      const name = `two coupled pendulums, ${fps} fps, ${i === 0 ? 'slow' : 'fast'} mode`;
      rows.push(judge(22, `${name}: frequency, Hz`, m.hz, measured[i]!.hz, 0.001, true));
      rows.push(judge(22, `${name}: decrement`, m.decrement, measured[i]!.decrement, 0.001, true));
    });
    rows.push(
      atMost(
        22,
        `their answer to a step, ${fps} fps: off by, degrees`,
        stepError(both, 20, fps, [c1, c2, k1, k2, tie]),
        1e-4,
      ),
    );
  }
  const shot = pendulumShot(released(90), { ...settings, damping: 0.02 }, { seconds: 8 });
  const limited = { ...(shot.parts.p as PendulumPart) };
  limited.outputs = limited.outputs.map((o) => ({ ...o, low: -12, high: 30 }));
  const [held] = answers({ ...shot, parts: { p: limited } } as Shot);
  rows.push(atMost(22, 'driven far past its limits: degrees past them', Math.max(...held, 0) - 30, 0));
  rows.push(
    atMost(22, 'driven far past its limits, below: degrees past them', -12 - Math.min(...held, 0), 0),
  );
  rows.push(atMost(22, 'a limit: largest jump of its slope', slopeJump(), 1e-3));
  rows.push(atMost(22, 'in a loop: degrees between first and last frame', loopGap(settings), 1e-6));
  return rows;
}

/**
 * Difference from the equations of motion taken in tiny steps (Runge and Kutta), the input falling as it is sampled.
 */
function stepError(
  [one, two]: readonly [number[], number[]],
  value: number,
  fps: number,
  [c1, c2, k1, k2, tie]: readonly [number, number, number, number, number],
): number {
  const steps = Math.ceil(240 / fps);
  const fall = 1 / (fps * steps);
  const input = (t: number) => value * Math.min(1, Math.max(0, (1 / fps - t) / fall));
  const rate = ([x, y, v, w]: readonly number[], t: number): number[] => [
    v!,
    w!,
    (k1 - tie) * input(t) - k1 * x! + tie * y! - c1 * v!,
    (k2 - tie) * input(t) - k2 * y! + tie * x! - c2 * w!,
  ];
  const moved = (s: readonly number[], d: readonly number[], h: number) => s.map((x, i) => x + h * d[i]!);
  let state = [value, value, 0, 0];
  let worst = 0;
  const parts = 40 * steps;
  const h = 1 / (fps * parts);
  for (let f = 1; f < one.length; f++) {
    for (let k = 0; k < parts; k++) {
      const t = (f - 1) / fps + k * h;
      const a = rate(state, t);
      const b = rate(moved(state, a, h / 2), t + h / 2);
      const c = rate(moved(state, b, h / 2), t + h / 2);
      const d = rate(moved(state, c, h), t + h);
      state = state.map((x, i) => x + (h / 6) * (a[i]! + 2 * b[i]! + 2 * c[i]! + d[i]!));
    }
    worst = Math.max(worst, Math.abs(state[0]! - one[f]!), Math.abs(state[1]! - two[f]!));
  }
  return worst;
}

/** Largest change of the slope of a limited value over a ten thousandth of its range. */
function slopeJump(): number {
  const d = 1e-4;
  let worst = 0;
  const slope = (x: number) => (softly(x + d, -1, 1) - softly(x, -1, 1)) / d;
  for (let x = -4; x < 4; x += d) worst = Math.max(worst, Math.abs(slope(x + d) - slope(x)));
  return worst;
}

/** Both joints on the first and the last frame of a drawn signal that repeats, lightly damped. */
function loopGap(settings: Settings): number {
  const keys: ValueKeys = [0, 20, 45, 90].map((frame, i) => ({
    frame,
    value: [0, 14, -6, 0][i]!,
    kind: 'smooth',
  }));
  const [one, two] = answers(pendulumShot(keys, settings, { seconds: 3, loop: true }));
  return Math.max(Math.abs(one[0]! - one.at(-1)!), Math.abs(two[0]! - two.at(-1)!));
}
