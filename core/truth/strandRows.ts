import { finishBody, makeArena, makeBody, predictBody } from '../src/solver/index';
import { bodyNumbers, wholeStep } from '../src/solver/cloth/index';
import {
  makeStrands,
  StrandContacts,
  strandNumbers,
  touchedNumbers,
  type StrandFeel,
  type Strands,
  type StrandShape,
} from '../src/solver/strands/index';
import { mulberry32 } from '../src/math/index';
import { strandFalls, strandLengths } from './strandFalls';
import { FEEL, G, one, rootAt, shape } from './strandRig';
import { atMost, judge, type TruthRow } from './row';

/** Hz of a strand that is nudged along x and swings. */
function frequency(strand: Strands, h: number, gravity: readonly number[]): number {
  const n = strand.links;
  const zeros: number[] = [];
  let b = 0;
  for (let k = 0; k < 20 / h && zeros.length < 14; k++) {
    if (k < 0.06 / h) for (let i = 0; i < n; i++) strand.push[3 * i] = (0.3 * (i + 1)) / n;
    strand.predict(rootAt(0), gravity, 1, 1);
    strand.solve(0);
    const x = strand.x[3 * (n - 1)]!;
    if (k > 0.12 / h && b * x < 0) zeros.push((k - 1 + b / (b - x)) * h);
    b = x;
  }
  return (zeros.length - 4) / 2 / (zeros.at(-1)! - zeros[3]!);
}

/** The largest angle (degrees) of a link from its groom. */
const turned = ({ fields: { d, s }, links }: Strands): number => {
  let least = 1;
  for (let i = 0; i < links; i++)
    least = Math.min(
      least,
      d[3 * i]! * s[3 * i]! + d[3 * i + 1]! * s[3 * i + 1]! + d[3 * i + 2]! * s[3 * i + 2]!,
    );
  return (180 / Math.PI) * Math.acos(Math.min(1, least));
};

/** 30: bending and the groom. */
function bendAndGroom(): TruthRow[] {
  const h = 1 / 240;
  const bends = [4, 8, 16, 24].map((n) =>
    judge(
      30,
      `strand of ${n} links, bend 2 Hz: frequency, Hz`,
      2 * Math.sqrt(1 - 0.01),
      frequency(one(shape(n, 0.3), { bend: 2, damping: 0.1 }, h), h, [0, 0, 0]),
      0.03,
      true,
    ),
  );
  const grooms = (
    [
      [
        'straight out',
        { ...shape(12, 0.3), directions: shape(12, 0.3).directions.map((_, o) => +(o % 3 === 0)) },
      ],
      ['curl', shape(12, 0.3, 1.5, 0.6)],
      ['ringlet', shape(16, 0.3, 3, 1.1)],
    ] as const
  ).map(([name, s]) => {
    const strand = one(s, { hold: 1, bend: 1, damping: 0.3, gravity: [0, -G, 0] }, h);
    for (let k = 0; k < 720; k++) {
      strand.predict(rootAt(0), [0, -G, 0], 1, 1);
      strand.solve(0);
    }
    return atMost(30, `groom kept under gravity, ${name}: degrees`, turned(strand), 1);
  });
  return [...bends, ...grooms];
}

/** 2, 3 and 10: a held link, a hanging strand, a spinning one. */
function swings(): TruthRow[] {
  const h = 1 / 240;
  const link = one(shape(1, 0.2), { hold: 3, damping: 0.05 }, h);
  const hang = one(shape(40, 0.5), { keeps: 0, gravity: [0, -G, 0] }, 1 / 480);
  const spin = one(shape(1, 0.3), { damping: 0, keeps: 0, gravity: [0, -G, 0] }, h);
  const [omega, r] = [4, 0.2];
  let angle = 0;
  // Damped by hand until it stands still in the turning frame.
  for (let k = 0; k < 12 / h; k++) {
    const a = omega * Math.min(1, k * h) * k * h * (k * h < 1 ? 0.5 : 1) - (k * h < 1 ? 0 : omega / 2);
    const drag = (o: number) => -2 * (spin.way[o]! / h - [omega * spin.x[2]!, 0, -omega * spin.x[0]!][o]!);
    for (let o = 0; o < 3; o++) spin.push[o] = drag(o);
    spin.predict(rootAt(r * Math.cos(a), 0, -r * Math.sin(a)), [0, -G, 0], 1, 1);
    spin.solve(0);
    const out = Math.hypot(spin.x[0]! + spin.roots[0]!, spin.x[2]! + spin.roots[2]!) - r;
    angle = (180 / Math.PI) * Math.atan2(out, -spin.x[1]!);
  }
  let meant = 20;
  for (let k = 0; k < 60; k++)
    meant = (180 / Math.PI) * Math.atan((omega ** 2 * (r + 0.3 * Math.sin((meant * Math.PI) / 180))) / G);
  return [
    judge(
      2,
      'strand of one link, hold 3 Hz: frequency, Hz',
      3 * Math.sqrt(1 - 0.0025),
      frequency(link, h, [0, 0, 0]),
      0.02,
      true,
    ),
    judge(
      3,
      'hanging strand of 40 links: first mode, Hz',
      (1.2024 * Math.sqrt(G / 0.5)) / (2 * Math.PI),
      frequency(hang, 1 / 480, [0, -G, 0]),
      0.01,
      true,
    ),
    judge(10, 'strand on a spinning root: rest angle, degrees', meant, angle, 0.01, true),
  ];
}

/** The tip's way, driven hard, sampled 12 times a second. */
function driven(
  fps: number,
  substeps: number,
  s: StrandShape,
  feel: Partial<StrandFeel>,
  size = 1,
  slower = 1,
): number[] {
  const h = slower / (fps * substeps);
  const strand = one(s, { damping: 0.2, ...feel }, h);
  const out: number[] = [];
  for (let k = 1; k <= 4 * fps * substeps; k++) {
    const t = (k * h) / slower;
    const e = t < 0.25 ? (t / 0.25) ** 3 * (10 - 15 * (t / 0.25) + 6 * (t / 0.25) ** 2) : 1;
    const at = [0.12, 0.05, 0.08].map(
      (a, i) => size * a * e * Math.sin(2 * Math.PI * [1.3, 2.1, 0.9][i]! * t),
    );
    strand.predict(
      rootAt(at[0]!, at[1]!, at[2]!, 0.9 * e * Math.sin(2 * Math.PI * 1.1 * t)),
      [0, -G, 0],
      1,
      1,
    );
    strand.solve(0);
    const tip = 3 * (strand.links - 1);
    if (k % ((fps * substeps) / 12) === 0) out.push(...[0, 1, 2].map((a) => strand.x[tip + a]! / size));
  }
  return out;
}
const rms = (a: readonly number[], b: readonly number[], long: number): number =>
  Math.sqrt(a.reduce((sum, x, k) => sum + (x - b[k]!) ** 2, 0) / (a.length / 3)) / long;

/** 6 to 9: links, frame rates, sizes, travel. */
function alike(): TruthRow[] {
  const feel = { hold: 1.5, bend: 2, gravity: [0, -G, 0] as const };
  const curl = shape(12, 0.3, 1.5, 0.6);
  const base = driven(24, 8, curl, feel);
  const rows = (
    [
      [60, 8],
      [24, 4],
      [24, 16],
    ] as const
  ).map(([fps, substeps]) =>
    atMost(
      7,
      `curled strand, ${fps} fps, ${substeps} substeps against 24 and 8: of its length`,
      rms(driven(fps, substeps, curl, feel), base, 0.3),
      0.01,
    ),
  );
  const large = driven(
    24,
    8,
    shape(12, 3, 1.5, 0.6),
    { ...feel, hold: 1.5 / Math.sqrt(10), bend: 2 / Math.sqrt(10) },
    10,
    Math.sqrt(10),
  );
  const h = 1 / 240;
  const steady = one(shape(12, 0.3), { hold: 1, bend: 1, damping: 0.3 }, h);
  const pulled = one(shape(1, 0.3), { keeps: 0, damping: 0, gravity: [0, -G, 0] }, h);
  steady.begin(rootAt(0), rootAt(-3 * h));
  for (let k = 1; k < 2 / h; k++) {
    steady.predict(rootAt(3 * k * h), [0, 0, 0], 1, 1);
    steady.solve(0);
  }
  let angle = 0;
  for (let k = 1; k < 6 / h; k++) {
    for (let o = 0; o < 3; o++) pulled.push[o] = (-3 * pulled.way[o]!) / h;
    pulled.predict(rootAt((4 * (k * h) ** 2) / 2), [0, -G, 0], 1, 1);
    pulled.solve(0);
    angle = Math.atan2(-pulled.x[0]!, -pulled.x[1]!);
  }
  const lows = [10, 20, 40].map((n) => {
    const strand = one(shape(n, 0.3), { bend: 1, keeps: 0, damping: 1, gravity: [0, -G, 0] }, h);
    for (let k = 0; k < 4 / h; k++) {
      for (let i = 0; i < n; i++) strand.push[3 * i] = 3;
      strand.predict(rootAt(0), [0, -G, 0], 1, 1);
      strand.solve(0);
    }
    return strand.x[3 * (n - 1)]!;
  });
  return [
    ...lows
      .slice(1)
      .map((x, k) =>
        judge(6, `strand of ${[20, 40][k]} links blown aside against 10: tip, m`, lows[0]!, x, 0.03, true),
      ),
    ...rows,
    atMost(8, 'strand ten times the size, √10 slower: of its length', rms(large, base, 0.3), 1e-3),
    atMost(9, 'strand at constant speed: deflection, degrees', turned(steady), 0.06),
    judge(9, 'strand pulled at 4 m/s²: degrees', Math.atan(4 / G), angle, 0.01, true),
  ];
}

/** 14 and 16: a fast ball, and rest on a ball. */
function touching(): TruthRow[] {
  const h = 1 / 240;
  const links = 16;
  const rest = makeBody({ kind: 'sphere', radius: 0.1 }, 0.5, 0, null);
  rest.now.set([0.15, -0.12, 0, 0, 0, 0, 1]);
  rest.before.set(rest.now);
  const aside = {
    ...shape(links, 0.35),
    directions: shape(links, 0.35).directions.map((_, o) => +(o % 3 === 0)),
  };
  const lying = one(aside, { bend: 0.5, damping: 0.4, keeps: 0, gravity: [0, -G, 0] }, h);
  const touch = new StrandContacts(lying, [rest], h, () => ({ thickness: 0.004, friction: 0.4 }), null);
  touch.begin();
  let [deep, creep] = [0, 0];
  for (let k = 0; k < 1200; k++) {
    const before = k >= 1192 ? Float64Array.from(lying.x) : null;
    touch.ready();
    lying.predict(rootAt(0), [0, -G, 0], 1, 1);
    touch.find(k % 8 === 0);
    lying.solve(0.4);
    deep = Math.max(deep, touch.done().depth);
    if (before) creep += Math.max(...before.map((x, o) => Math.abs(x - lying.x[o]!)));
  }
  return [
    atMost(16, 'strand lying on a ball: creep, mm a frame', 1000 * creep, 0.01),
    atMost(16, 'strand lying on a ball: depth, mm', 1000 * deep, 1),
    fastBall(),
  ];
}

/** A ball at 20 m/s against a hanging strand: it sweeps it aside. */
function fastBall(): TruthRow {
  const h = 1 / 240;
  const links = 12;
  const ball = makeBody({ kind: 'sphere', radius: 0.05 }, 0, 0, {
    mass: 0.05,
    velocity: [20, 0, 0],
    spin: [0, 0, 0],
  });
  ball.now.set([-0.5, -0.15, 0, 0, 0, 0, 1]);
  ball.before.set(ball.now);
  const arena = makeArena(
    strandNumbers(1, links) + touchedNumbers(links) + bodyNumbers(links, wholeStep(ball)),
  );
  const strand = makeStrands([shape(links, 0.3)], h, arena);
  strand.tune(0, { ...FEEL, bend: 2, damping: 0.1 });
  strand.begin(rootAt(0), rootAt(0));
  const touch = new StrandContacts(strand, [ball], h, () => ({ thickness: 0.005, friction: 0 }), arena);
  touch.begin();
  let deepest = 0;
  for (let k = 0; k < 60; k++) {
    predictBody(ball, h, [0, 0, 0], 0);
    touch.ready();
    strand.predict(rootAt(0), [0, 0, 0], 1, 1);
    touch.find(k % 8 === 0);
    strand.solve(0);
    touch.done();
    finishBody(ball, 0);
    // It sweeps the strand aside: at no time is a point inside of it.
    for (let i = 0; i < links; i++) {
      const off = [0, 1, 2].map((a) => strand.x[3 * i + a]! - ball.now[a]!);
      deepest = Math.max(deepest, 0.05 - Math.hypot(...off));
    }
  }
  return atMost(14, 'ball at 20 m/s against a strand: depth inside it, mm', 1000 * deepest, 1);
}

/** 20: random strands, hard driven: all numbers, no energy from nothing. */
function wild(quick: boolean): TruthRow[] {
  const next = mulberry32(20);
  const trials = quick ? 60 : 2000;
  let failed = 0;
  for (let t = 0; t < trials; t++) {
    const n = 4 + Math.floor(21 * next());
    const h = 1 / 30 / (next() < 0.5 ? 4 : 8);
    const s = next() < 0.5 ? shape(n, 0.05 + next()) : shape(n, 0.05 + next(), 3 * next(), 1.3 * next());
    const strand = one(s, { hold: 0.5 + 8 * next(), bend: 0.5 + 15 * next() }, h);
    const push = Array.from({ length: 3 * n }, () => 400 * (next() - 0.5));
    let [most, later] = [0, 0];
    for (let k = 0; k < 1.5 / h; k++) {
      if (k < 0.1 / h) push.forEach((p, o) => (strand.push[o] = p));
      strand.predict(rootAt(0), [0, 0, 0], 1, 1);
      strand.solve(0);
      const { w } = strand.fields;
      const energy = strand.masses.reduce(
        (e, m, i) => e + m * (w[3 * i]! ** 2 + w[3 * i + 1]! ** 2 + w[3 * i + 2]! ** 2),
        0,
      );
      if (k < 0.4 / h) most = Math.max(most, energy);
      else later = Math.max(later, energy);
    }
    if (!(later <= 1.3 * most)) failed++;
  }
  return [atMost(20, `${trials} random strands thrown about: failures`, failed, 0)];
}

/** 21: compiled and plain are the same to the bit. */
function bits(): TruthRow[] {
  const [plain, compiled] = [false, true].map((arena) => {
    const strand = one(
      shape(12, 0.3, 2, 0.8),
      { hold: 1, bend: 2, damping: 0.2, gravity: [0, -G, 0] },
      1 / 120,
      arena,
    );
    for (let k = 1; k < 300; k++) {
      strand.predict(rootAt(0.2 * Math.sin(k / 9), 0, 0, Math.sin(k / 11)), [0, -G, 0], 1, 0.7);
      strand.solve(0);
    }
    return [...strand.x];
  }) as [number[], number[]];
  return [
    atMost(
      21,
      'strand compiled against plain: numbers that differ',
      plain.filter((x, k) => x !== compiled[k]).length,
      0,
    ),
  ];
}

/** All lines for strands. */
export const strandRows = (quick: boolean): TruthRow[] => [
  ...swings(),
  ...strandLengths(),
  ...strandFalls(),
  ...alike(),
  ...touching(),
  ...wild(quick),
  ...bits(),
  ...bendAndGroom(),
];
