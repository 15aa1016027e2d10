import { makeSheet } from '../src/sheets/index';
import { benchCloth } from './clothBench';
import { judge, type TruthRow } from './row';

const G = 9.81;
const RATE = 240;
const EDGES = 40;
const WEIGHT = 0.3;

/** A row of lines along places (m, 3 numbers each). */
const lineOf = (places: Float64Array) =>
  makeSheet(places, [], Array.from({ length: places.length / 3 - 1 }, (_, i) => [i, i + 1]).flat());

/** 3: the first mode of a hanging string. */
function hangs(): TruthRow {
  const places = Float64Array.from({ length: 3 * (EDGES + 1) }, (_, k) =>
    k % 3 === 1 ? -Math.floor(k / 3) / EDGES : 0,
  );
  const { cloth, env, step } = benchCloth(lineOf(places), (p) => p === 0, RATE, { matter: { rigidity: 0 } });
  env.gravity = [0, -G, 0];
  // A small kick, the more the lower: nearly its first mode.
  cloth.kick(Float64Array.from(cloth.x, (_, k) => (k % 3 === 0 ? (0.05 * Math.floor(k / 3)) / EDGES : 0)));
  const tip = 3 * EDGES;
  const crossings: number[] = [];
  let before = 0;
  for (let k = 1; k <= 20 * RATE; k++) {
    step();
    const now = cloth.x[tip]!;
    if (before < 0 && now >= 0) crossings.push((k - 1 + before / (before - now)) / RATE);
    before = now;
  }
  const hz = (crossings.length - 1) / (crossings.at(-1)! - crossings[0]!);
  return judge(
    3,
    'string of 40 lines hanging: first mode, rad/s',
    1.2024 * Math.sqrt(G),
    2 * Math.PI * hz,
    0.01,
    true,
  );
}

/** Where a function that falls goes through 0 between two places. */
function solve(falls: (x: number) => number, from: number, to: number): number {
  let [lo, hi] = [from, to];
  for (let k = 0; k < 200; k++) {
    const x = (lo + hi) / 2;
    if (falls(x) > 0) lo = x;
    else hi = x;
  }
  return lo;
}

/** 4: a string held at both ends hangs as a catenary, and pulls at its ends as one does. */
function spans(span: number): TruthRow[] {
  const length = 1;
  // It begins as an arc of a circle: chord = 2 sin(turn / 2) / turn.
  const turn = solve((t) => (2 * Math.sin(t / 2)) / t - span, 1e-3, 2 * Math.PI);
  const places = new Float64Array(3 * (EDGES + 1));
  for (let i = 0; i <= EDGES; i++) {
    const t = turn * (i / EDGES - 0.5);
    places.set([Math.sin(t) / turn, (Math.cos(turn / 2) - Math.cos(t)) / turn, 0], 3 * i);
  }
  const sheet = lineOf(places);
  const { cloth, env, step } = benchCloth(sheet, (p) => p === 0 || p === EDGES, RATE, {
    matter: { rigidity: 0, weight: WEIGHT, stretch: 0, compression: 0 },
  });
  env.gravity = [0, -G, 0];
  cloth.damp.fill(1.5);
  step(12 * RATE);
  // length = 2a sinh(span / 2a)
  const a = solve((x) => 2 * x * Math.sinh(span / (2 * x)) - length, 0.01, 100);
  const sag = a * (Math.cosh(span / (2 * a)) - 1);
  let low = 0;
  for (let i = 0; i <= EDGES; i++) low = Math.min(low, cloth.x[3 * i + 1]!);
  const weight = cloth.mass.reduce((sum, m) => sum + m, 0) * G;
  // Half a line at each end hangs on nothing.
  const pull = Math.sqrt((weight * a) ** 2 + ((weight / 2) * (1 - 1 / EDGES)) ** 2);
  const name = `string of 40 lines held ${span} m apart`;
  return [
    judge(4, `${name}: sag, m`, sag, -low, 0.01, true),
    judge(4, `${name}: pull at its ends, N`, pull, cloth.tension(), 0.01, true),
  ];
}

/** Strings beside the other kinds of part. */
export const stringRows = (): TruthRow[] => [hangs(), ...spans(0.6), ...spans(0.9)];
