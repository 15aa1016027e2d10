import { makeBody, makeSurface, type Body } from '../src/solver/index';
import { benchCloth, centreOf, lengthened, seeded, squareSheet, type ClothBench } from './clothBench';
import { makeSheet } from '../src/sheets/index';
import { atMost, judge, type TruthRow } from './row';

const G = 9.81;

const distance = (p: readonly number[], q: readonly number[]): number =>
  Math.sqrt(p.reduce((s, v, i) => s + (v - q[i]!) ** 2, 0));

/** Mean height of the last row of a square sheet, m. */
function hemOf({ cloth }: ClothBench, n: number): number {
  let sum = 0;
  for (let i = n * (n - 1); i < n * n; i++) sum += cloth.x[3 * i + 1]!;
  return sum / n;
}

/** Moves what holds a sheet: all places of its animation by so much. */
function moveTo({ env, cloth }: ClothBench, x: number, y: number, z: number): void {
  env.before = env.now;
  const by = [x, y, z];
  env.now = cloth.sheet.rest.map((p, k) => p + by[k % 3]!);
}

/** As hard as can be, hanging still and let go from the horizontal. */
function lengths(): TruthRow[] {
  const hard = { matter: { stretch: 0, compression: 0 } };
  const still = benchCloth(squareSheet(17, 1, 0.3), (i) => i < 17, 480, hard);
  still.cloth.damp.fill(4);
  still.step(480 * 2);
  const swings = benchCloth(squareSheet(17, 1, 0.3, [0, 0, 1]), (i) => i < 17, 480, hard);
  let most = 0;
  for (let k = 0; k < 480; k++) {
    swings.step();
    most = Math.max(most, lengthened(swings.cloth).mean);
  }
  return [
    atMost(
      5,
      'cloth of stretch 0, hanging: edges longer than at rest, mean share',
      lengthened(still.cloth).mean,
      0.001,
    ),
    atMost(5, 'the same let go from the horizontal: at most', most, 0.005),
  ];
}

/** A curtain whose rail is swung to and fro for 2 s, at three rates: its centre and its hem. */
function rates(): TruthRow[] {
  const n = 17;
  const paths = [240, 480, 960].map((rate) => {
    const b = benchCloth(squareSheet(n, 1, 0), (i) => i < n, rate, { matter: { rigidity: 1e-4 } });
    b.cloth.damp.fill(1.5);
    const out: [number, number, number, number][] = [];
    for (let k = 1; k <= 2 * rate; k++) {
      moveTo(b, 0, 0, 0.15 * Math.sin((2 * Math.PI * 0.9 * k) / rate));
      b.step();
      if (k % (rate / 30) === 0) out.push([...centreOf(b.cloth), hemOf(b, n)]);
    }
    return out;
  });
  const fine = paths[2]!;
  return [240, 480].map((rate, i) => {
    const apart = paths[i]!.map((p, f) => distance(p, fine[f]!) ** 2);
    const rms = Math.sqrt(apart.reduce((a, v) => a + v, 0) / apart.length);
    return atMost(
      7,
      `curtain swung hard, ${rate} steps a second against 960: centre and hem, m RMS`,
      rms,
      0.03,
    );
  });
}

/** Ten times the size in √10 times the time, with what it is made of scaled as lengths and weights ask. */
function sizes(): TruthRow[] {
  const n = 13;
  const path = (size: number) => {
    const slow = Math.sqrt(size);
    const b = benchCloth(squareSheet(n, size, 0), (i) => i < n, 480 / slow, {
      matter: { rigidity: 1e-4 * size ** 3, stretch: 3000 * size, compression: 3000 * size },
    });
    b.cloth.damp.fill(1.5 / slow);
    const out: number[][] = [];
    for (let k = 1; k <= 480; k++) {
      moveTo(b, 0, 0, 0.1 * size * Math.sin((2 * Math.PI * k) / 480));
      b.step();
      if (k % 16 === 0) out.push(centreOf(b.cloth).map((x) => x / size));
    }
    return out;
  };
  const [one, ten] = [path(1), path(10)];
  const apart = Math.max(...one.map((p, f) => distance(p, ten[f]!)));
  return [
    atMost(
      8,
      'curtain of 10 m in √10 times the time: centre off that of 1 m, share of its length',
      apart,
      0.01,
    ),
  ];
}

/** Carried along evenly it hangs straight; carried faster and faster it leans by atan(a / g). */
function carried(): TruthRow[] {
  const n = 13;
  const lean = (acceleration: number): number => {
    const b = benchCloth(squareSheet(n, 1, 0), (i) => i < n, 480, { matter: { stretch: 0, compression: 0 } });
    b.cloth.damp.fill(6);
    const speed = acceleration === 0 ? 2 : 0;
    b.cloth.begin(
      b.cloth.sheet.rest,
      Float64Array.from(b.cloth.sheet.rest, (_, k) => (k % 3 === 2 ? speed : 0)),
    );
    let z = 0;
    for (let k = 1; k <= 480 * 5; k++) {
      const t = k / 480;
      z = speed * t + (acceleration * t * t) / 2;
      moveTo(b, 0, 0, z);
      b.step();
    }
    const last = 3 * (n * n - 1);
    return Math.atan2(z - b.cloth.x[last + 2]!, -b.cloth.x[last + 1]!);
  };
  return [
    atMost(9, 'curtain carried at 2 m/s: its hem off the vertical, rad', Math.abs(lean(0)), 0.001),
    judge(9, 'curtain carried at 3 m/s²: its lean, rad', Math.atan2(3, G), lean(3), 0.01, true),
  ];
}

/** A sheet thrown with a spin and a ripple, without gravity: what moves it on the whole stays. */
function thrown(): TruthRow[] {
  const b = benchCloth(squareSheet(13, 0.6, 0.3, [0, 0, 1]), () => false, 480, {
    matter: { rigidity: 1e-4 },
  });
  b.env.gravity = [0, 0, 0];
  const { rest } = b.cloth.sheet;
  const middle = centreOf(b.cloth);
  b.cloth.begin(
    rest,
    Float64Array.from(rest, (_, k) => {
      const [x, , z] = [0, 1, 2].map((a) => rest[3 * Math.floor(k / 3) + a]! - middle[a]!) as number[];
      return [2 * z! + 0.5, 0.8 * Math.sin(9 * x!), -2 * x!][k % 3]!;
    }),
  );
  const momenta = (): number[] => {
    const c = centreOf(b.cloth);
    const out = [0, 0, 0, 0, 0, 0];
    b.cloth.mass.forEach((m, i) => {
      const p = [0, 1, 2].map((a) => b.cloth.x[3 * i + a]! - c[a]!);
      const v = [0, 1, 2].map((a) => m * b.cloth.v[3 * i + a]!);
      for (let a = 0; a < 3; a++) {
        out[a]! += v[a]!;
        const [j, k] = [(a + 1) % 3, (a + 2) % 3];
        out[3 + a]! += p[j]! * v[k]! - p[k]! * v[j]!;
      }
    });
    return out;
  };
  const before = momenta();
  b.step(480);
  const after = momenta();
  const size = (p: readonly number[]) => distance(p, [0, 0, 0]);
  const lost = (from: number) =>
    distance(before.slice(from, from + 3), after.slice(from, from + 3)) / size(before.slice(from, from + 3));
  return [
    atMost(11, 'cloth thrown with a ripple, 1 s: momentum that came or went, share', lost(0), 0.001),
    atMost(11, 'the same: angular momentum, share', lost(3), 0.001),
  ];
}

/** A sheet at rest on a ball of triangles: how far any point that touches goes in a frame. */
function rests(): TruthRow[] {
  const ball = meshBall();
  const b = benchCloth(squareSheet(17, 0.5, 0.3, [0, 0, 1]), () => false, 480, {
    bodies: [ball],
    friction: 0.6,
  });
  b.cloth.damp.fill(6);
  b.step(480 * 4);
  let most = 0;
  for (let f = 0; f < 10; f++) {
    const before = Float64Array.from(b.cloth.x);
    b.step(16);
    for (let o = 0; o < before.length; o += 3) {
      const at = [0, 1, 2].map((a) => b.cloth.x[o + a]!);
      if (distance(at, [0.25, -0.16, 0.25]) > 0.1545) continue;
      most = Math.max(
        most,
        distance(
          at,
          [0, 1, 2].map((a) => before[o + a]!),
        ),
      );
    }
  }
  return [
    atMost(
      16,
      'cloth at rest on a mesh: farthest a point that touches goes in a frame, mm',
      1000 * most,
      0.02,
    ),
  ];
}

function meshBall(): Body {
  const places: number[] = [];
  const indices: number[] = [];
  for (let r = 0; r <= 12; r++)
    for (let c = 0; c < 24; c++) {
      const [polar, turn] = [(Math.PI * r) / 12, (Math.PI * c) / 12];
      places.push(
        0.25 + 0.15 * Math.sin(polar) * Math.sin(turn),
        -0.16 + 0.15 * Math.cos(polar),
        0.25 + 0.15 * Math.sin(polar) * Math.cos(turn),
      );
      const [p, q] = [24 * (r - 1) + c, 24 * (r - 1) + ((c + 1) % 24)];
      if (r > 1) indices.push(p, p + 24, q);
      if (r > 0 && r < 12) indices.push(q, p + 24, q + 24);
    }
  const surface = makeSurface(Float64Array.from(places), Uint32Array.from(indices));
  return makeBody({ kind: 'mesh', surface }, 0.6, 0, null);
}

/** Falling flat through air: ½ ρ v² is its weight. */
function falls(): TruthRow[] {
  const b = benchCloth(squareSheet(9, 0.5, 0, [0, 0, 1]), () => false, 240);
  b.env.sail = { drag: 1, lift: 0, density: 1.2 };
  b.step(240 * 3);
  const speed = Math.sqrt((2 * 0.3 * G) / 1.2);
  return [judge(17, 'cloth that falls flat: its terminal speed, m/s', speed, -b.cloth.v[1]!, 0.02, true)];
}

/** Sheets of any triangles with any matter among a body and gusts: nothing that is no number, no speed without end. */
function anything(quick: boolean): TruthRow[] {
  const random = seeded(99);
  const rounds = quick ? 300 : 10_000;
  let failed = 0;
  for (let round = 0; round < rounds; round++) {
    const count = 3 + Math.floor(20 * random());
    const places = Float64Array.from({ length: 3 * count }, () => (random() < 0.1 ? 0 : random() - 0.5));
    const indices = Array.from({ length: 3 * Math.floor(30 * random()) }, () => Math.floor(count * random()));
    const body = makeBody({ kind: 'sphere', radius: 0.05 + 0.3 * random() }, random(), 0, null);
    const b = benchCloth(makeSheet(places, indices), () => random() < 0.2, 60 + 600 * random(), {
      bodies: random() < 0.7 ? [body] : [],
      self: random() < 0.3,
      thickness: 0.02 * random(),
      matter: {
        weight: 10 ** (-2 + 3 * random()),
        rigidity: random() < 0.4 ? 0 : 10 ** (-7 + 6 * random()),
        stretch: random() < 0.4 ? 0 : 10 ** (1 + 4 * random()),
        compression: random() < 0.4 ? 0 : 10 ** (1 + 4 * random()),
      },
    });
    b.env.sail = { drag: 3 * random(), lift: 2 * random(), density: 1.2 };
    b.env.field = (out) => void out.fill(20 * (random() - 0.5));
    for (let k = 0; k < 20; k++) {
      body.before.set(body.now);
      for (let a = 0; a < 3; a++) body.now[a]! += 0.05 * (random() - 0.5);
      b.step();
    }
    if (![...b.cloth.x, ...b.cloth.v].every((v) => Math.abs(v) < 200)) failed++;
  }
  return [atMost(20, `${rounds} random cloths: some number is none, or faster than 200 m/s`, failed, 0)];
}

/** Two runs, and the kernel beside the TypeScript it is compiled from. */
function bits(): TruthRow[] {
  const run = (plain: boolean): Float64Array => {
    const b = benchCloth(squareSheet(13, 0.5, 0.4, [0, 0, 1]), (i) => i < 3, 480, {
      ...{ plain, bodies: [meshBall()], self: true, matter: { rigidity: 1e-4 } },
    });
    b.env.sail = { drag: 1, lift: 0.5, density: 1.2 };
    b.env.field = (out, x, y, z) => void (out[2] = 3 * Math.sin(5 * x + 3 * y + z));
    for (let k = 0; k < 240; k++) {
      b.env.fresh = k % 12 === 0;
      b.step();
    }
    return Float64Array.from(b.cloth.x);
  };
  const once = run(false);
  const differs = (other: Float64Array) => other.reduce((n, v, k) => n + Number(v !== once[k]), 0);
  return [
    atMost(21, 'cloth on a mesh in wind, run again: numbers that differ', differs(run(false)), 0),
    atMost(21, 'the same, compiled and not: numbers that differ', differs(run(true)), 0),
  ];
}

/** What is measured of the motion of cloth, beside its statics and its contacts. */
export const clothMotionRows = (quick: boolean): TruthRow[] => [
  ...lengths(),
  ...rates(),
  ...sizes(),
  ...carried(),
  ...thrown(),
  ...rests(),
  ...falls(),
  ...anything(quick),
  ...bits(),
];
