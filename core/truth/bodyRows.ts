import {
  bodyNumbers,
  makeLattice,
  makeSoftBody,
  type BodyMatter,
  type SoftBody,
} from '../src/solver/soft/index';
import { makeArena } from '../src/solver/index';
import { mulberry32 } from '../src/math/index';
import type { Lattice } from '../src/solver/soft/index';
import { atMost, judge, type TruthRow } from './row';

const G = 9.81;
const JELLY: BodyMatter = { young: 1e6, poisson: 0.45, density: 1000, damping: 0, first: 0 };

interface Block {
  readonly lattice: Lattice;
  readonly body: SoftBody;
}

/** A block of cells at rest that takes so many steps a second; nodes that `fixed` picks (places, m) do not move. */
export function block(
  counts: readonly [number, number, number],
  size: number,
  matter: Partial<BodyMatter>,
  rate: number,
  fixed: (x: number, y: number, z: number) => boolean = () => false,
  plain = false,
): Block {
  const fill = new Float64Array(counts[0] * counts[1] * counts[2]).fill(1);
  const lattice = makeLattice(counts, size, [0, 0, 0], fill);
  const arena = plain ? null : makeArena(bodyNumbers(lattice));
  const body = makeSoftBody(lattice, { ...JELLY, ...matter }, 1 / rate, arena);
  const { rest } = lattice;
  for (let i = 0; i < lattice.nodes; i++)
    if (fixed(rest[3 * i]!, rest[3 * i + 1]!, rest[3 * i + 2]!)) body.free[i] = 0;
  body.begin(rest, new Float64Array(rest.length));
  return { lattice, body };
}

const volumeOf = ({ body }: Block): number => body.ratio.reduce((s, r) => s + r, 0) / body.ratio.length;

/** A beam a metre long and 0.25 m thick, held at one end and let go: its first mode, Hz, and how it dies away. */
function beam(n: number, damping: number): { hertz: number; decrement: number } {
  const first = 4;
  const b = block([4 * n, n, n], 0.25 / n, { young: 1e7, damping, first }, 240, (x) => x < 1e-9);
  const tip = 3 * b.lattice.at(4 * n, n >> 1, n >> 1) + 1;
  const y = Array.from({ length: 480 }, () => {
    b.body.step([0, -G, 0]);
    return b.body.x[tip]!;
  });
  const turns = y.flatMap((v, k) =>
    k > 1 && (y[k - 1]! - y[k - 2]!) * (v - y[k - 1]!) < 0
      ? [{ at: k - 1 + (y[k - 2]! - v) / (2 * (y[k - 2]! - 2 * y[k - 1]! + v)), v: y[k - 1]! }]
      : [],
  );
  const some = turns.slice(0, 7);
  const swings = some.slice(1).map((t, k) => Math.abs(t.v - some[k]!.v));
  return {
    hertz: (240 * 3) / (some[6]!.at - some[0]!.at),
    decrement: Math.log(swings[0]! / swings[5]!) / 2.5,
  };
}

/** 28: a beam at two cell sizes, and a cube that stands on its base; 2: its damping. */
function modes(quick: boolean): TruthRow[] {
  const [coarse, fine] = [beam(2, 0), beam(quick ? 3 : 4, 0)];
  const ratio = 0.1;
  const damped = beam(2, ratio);
  // Euler–Bernoulli, less what so thick a beam loses to shear and to the turning of its sections (at 8 cells).
  const exact = 1.26 * Math.sqrt(10);
  const sag = (n: number) => {
    const b = block([n, n, n], 1 / n, { damping: 1, first: 8 }, 120, (_, y) => y < 1e-9);
    for (let k = 0; k < 180; k++) b.body.step([0, -G, 0]);
    let sum = 0;
    for (let i = 0; i <= n; i++) for (let k = 0; k <= n; k++) sum += b.body.x[3 * b.lattice.at(i, n, k) + 1]!;
    return 1 - sum / (n + 1) ** 2;
  };
  const [four, eight] = [sag(4), sag(quick ? 6 : 8)];
  return [
    judge(28, 'soft beam, 2 cells thick: first mode, Hz', exact, coarse.hertz, 0.03, true),
    judge(28, 'the same, finer', coarse.hertz, fine.hertz, 0.05, true),
    judge(28, 'soft cube on its base, 4 cells: its top sinks, m', 0.00409, four, 0.05, true),
    judge(28, 'the same, finer, m', four, eight, 0.05, true),
    judge(
      2,
      'soft beam, damping ratio 0.1: decrement',
      (2 * Math.PI * ratio) / Math.sqrt(1 - ratio * ratio),
      damped.decrement,
      0.05,
      true,
    ),
  ];
}

/** 19, 29: a jelly under its own weight keeps its volume; a shape that swells follows its keys. */
function volumes(): TruthRow[] {
  const jelly = block(
    [4, 4, 4],
    0.25,
    { young: 30_000, poisson: 0.49, damping: 1, first: 1.5 },
    120,
    (_, y) => y < 1e-9,
  );
  for (let k = 0; k < 240; k++) jelly.body.step([0, -G, 0]);
  const swells = block([4, 4, 4], 0.05, { young: 20_000, poisson: 0.47, damping: 0.2, first: 5 }, 120);
  // To ten times its volume in a second, minimum jerk.
  const keyed = (t: number) => 1 + 9 * (t >= 1 ? 1 : t * t * t * (10 + t * (6 * t - 15)));
  let most = 0;
  for (let k = 1; k <= 180; k++) {
    const [volume, before] = [keyed(k / 120), keyed((k - 1) / 120)];
    swells.body.growing.fill(120 * (Math.cbrt(volume) - Math.cbrt(before)));
    swells.body.grow.fill(Math.cbrt(volume));
    swells.body.step([0, 0, 0]);
    most = Math.max(most, Math.abs(volumeOf(swells) / volume - 1));
  }
  return [
    judge(19, 'soft cube under its weight, Poisson’s ratio 0.49: volume', 1, volumeOf(jelly), 0.01, true),
    atMost(29, 'shape that swells tenfold in a second: volume off its keys, share', most, 0.02),
    atMost(29, 'the same: cells turned inside out', swells.body.ratio.filter((r) => r <= 0).length, 0),
  ];
}

/** 11, 20, 21: momentum and energy of a tumble, any scramble, and the kernel beside its TypeScript. */
function tumbles(quick: boolean): TruthRow[] {
  const b = block([4, 4, 4], 0.1, {}, 120);
  const { rest, nodes } = b.lattice;
  const speeds = rest.map((_, o) =>
    o % 3 === 0 ? -6 * (rest[o + 1]! - 0.2) : o % 3 === 1 ? 6 * (rest[o - 1]! - 0.2) : 0,
  );
  b.body.begin(rest, speeds);
  const energy = () =>
    b.body.mass.reduce(
      (s, m, i) => s + (m / 2) * [0, 1, 2].reduce((t, a) => t + b.body.v[3 * i + a]! ** 2, 0),
      0,
    );
  const drift = () =>
    Math.hypot(...[0, 1, 2].map((a) => b.body.mass.reduce((s, m, i) => s + m * b.body.v[3 * i + a]!, 0))) /
    b.body.mass.reduce((s, m) => s + m, 0);
  const before = energy();
  let most = 0;
  for (let k = 0; k < 240; k++) {
    b.body.step([0, 0, 0]);
    most = Math.max(most, energy() / before);
  }
  const random = mulberry32(77);
  let failed = 0;
  const rounds = quick ? 20 : 400;
  for (let round = 0; round < rounds; round++) {
    const young = 10 ** (3 + 4 * random());
    const made = block(
      [2, 3, 2],
      0.1,
      { young, damping: 0.2, first: Math.sqrt(young / 1000) },
      60 + 180 * random(),
    );
    const flat = random() < 0.3;
    made.body.begin(
      made.lattice.rest.map((x, o) => (flat && o % 3 === 1 ? -0.2 * x : x + 0.3 * (random() - 0.5))),
      new Float64Array(3 * made.lattice.nodes),
    );
    for (let k = 0; k < 60; k++) made.body.step([0, -G, 0]);
    if (!made.body.x.every((x) => Math.abs(x) < 50)) failed++;
  }
  const [one, two, plain] = [false, false, true].map((p) => {
    const own = block([3, 2, 2], 0.1, { damping: 0.1, first: 8 }, 120, (x) => x < 1e-9, p);
    for (let k = 0; k < 60; k++) own.body.step([0, -G, 1]);
    return Float64Array.from(own.body.x);
  }) as [Float64Array, Float64Array, Float64Array];
  const differs = (other: Float64Array) => one.reduce((n, x, k) => n + Number(x !== other[k]), 0);
  return [
    atMost(11, 'soft block that tumbles freely: speed of its centre, m/s', drift(), 1e-3),
    atMost(20, `the same: energy over its start, of ${nodes} nodes`, most - 1, 0.01),
    atMost(20, `${rounds} soft blocks, scrambled or turned inside out: some number is none`, failed, 0),
    atMost(21, 'soft block, run again: numbers that differ', differs(two), 0),
    atMost(21, 'the same, compiled and not: numbers that differ', differs(plain), 0),
  ];
}

/** What is measured of soft bodies. */
export const bodyRows = (quick: boolean): TruthRow[] => [...modes(quick), ...volumes(), ...tumbles(quick)];
