import { makeBody } from '../src/solver/index';
import { benchCloth, centreOf, lengthened, squareSheet } from './clothBench';
import { atMost, judge, type TruthRow } from './row';

const RAD = Math.PI / 180;
const G = 9.81;

const distance = (p: readonly number[], q: readonly number[]): number =>
  Math.sqrt(p.reduce((s, v, i) => s + (v - q[i]!) ** 2, 0));

/** A square metre hung by its edge with full stretch stiffness: its own length, the same at two resolutions. */
function hung(): TruthRow[] {
  const height = (n: number): number => {
    const b = benchCloth(squareSheet(n, 1, 0), (i) => i < n, 480, { matter: { stretch: 0, compression: 0 } });
    b.cloth.damp.fill(4);
    b.step(480 * 3);
    let low = 0;
    for (let i = 1; i < b.cloth.x.length; i += 3) low = Math.min(low, b.cloth.x[i]!);
    return -low;
  };
  const [coarse, fine] = [height(17), height(33)];
  return [
    judge(18, 'cloth hung by an edge, full stretch stiffness: its length, m', 1, fine, 0.005, true),
    judge(18, 'the same at twice the resolution, m', coarse, fine, 0.02, true),
  ];
}

/** A sheet let go from the side: the first mode of a heavy string, 2.4048 √(g / 4L) rad/s, and how it lasts. */
function swung(quick: boolean): TruthRow[] {
  const n = 32;
  // A heavy chain of the sheet's height, at an amplitude of 0.35 rad (measured on a fine one).
  const period = 1.6831;
  const run = (jitter: number): [number, number, number] => {
    const b = benchCloth(squareSheet(n, 1, jitter, [0, -Math.cos(0.35), Math.sin(0.35)]), (i) => i < n, 480);
    const z = [centreOf(b.cloth)[2]];
    for (let f = 0; f < 600; f++) {
      b.step(8);
      z.push(centreOf(b.cloth)[2]);
    }
    const crossings: number[] = [];
    for (let f = 1; f < z.length; f++)
      if (z[f - 1]! * z[f]! < 0) crossings.push((f - 1 + z[f - 1]! / (z[f - 1]! - z[f]!)) / 60);
    const found = (2 * (crossings.at(-1)! - crossings[0]!)) / (crossings.length - 1);
    const w = Math.round(found * 60);
    const energy = (from: number) => z.slice(from, from + w).reduce((s, v) => s + v * v, 0);
    return [found, Math.sqrt(energy(z.length - w) / energy(0)), lengthened(b.cloth).mean];
  };
  const kinds = quick
    ? ([['a grid', 0, 0.99]] as const)
    : ([
        ['a grid', 0, 0.99],
        ['an irregular mesh', 0.6, 0.97],
      ] as const);
  return kinds.flatMap(([name, jitter, least]) => {
    const [found, kept, longer] = run(jitter);
    return [
      judge(25, `cloth let go from the side, ${name}: period over 10 s, s`, period, found, 0.01, true),
      atMost(25, `${name}: amplitude lost in 10 s, share`, 1 - kept, 1 - least),
      atMost(25, `${name}: edges longer than at rest, mean share`, longer, 0.01),
    ];
  });
}

/** A strip clamped at one end that reaches out by twice its bending length comes to rest 41.5° below level. */
function drooped(quick: boolean): TruthRow[] {
  const length = 0.1;
  const angle = (n: number, jitter: number): number => {
    const columns = Math.round((n - 1) / 4) + 1;
    const spacing = (2 * length) / (n - 2);
    const sheet = squareSheet(n, spacing * (n - 1), jitter, [0, 0, 1], columns);
    const b = benchCloth(sheet, (i) => i < 2 * columns, 960, {
      matter: { rigidity: 0.3 * G * length ** 3, stretch: 0, compression: 0 },
    });
    b.cloth.damp.fill(3);
    b.step(960 * 10);
    const at = (row: number, a: number) => b.cloth.x[3 * (row * columns + (columns >> 1)) + a]!;
    return Math.atan2(at(1, 1) - at(n - 1, 1), at(n - 1, 2) - at(1, 2)) / RAD;
  };
  // The bending length that droops by an angle over a reach (Peirce 1930).
  const bendingLength = (theta: number) =>
    2 * length * Math.cbrt(Math.cos((theta * RAD) / 2) / (8 * Math.tan(theta * RAD)));
  return (quick ? [17] : [17, 33, 65]).map((n) =>
    judge(
      26,
      `cloth strip of ${n} rows, clamped at one end: bending length, m`,
      length,
      bendingLength(angle(n, 0)),
      0.05,
      true,
    ),
  );
}

/** A sheet on a slope of friction 0.5 (26.57°): holds below, slides above as a block would. */
function sloped(): TruthRow[] {
  const slide = (degrees: number): [number, number] => {
    const a = degrees * RAD;
    const slope = makeBody({ kind: 'ground' }, 0.5, 0, null);
    slope.fixed = true;
    const place = [0, -0.004 * Math.cos(a), -0.004 * Math.sin(a), Math.sin(a / 2), 0, 0, Math.cos(a / 2)];
    slope.before.set(place);
    slope.now.set(place);
    const sheet = squareSheet(17, 0.5, 0.3, [0, -Math.sin(a), Math.cos(a)]);
    const b = benchCloth(sheet, () => false, 480, { bodies: [slope], friction: 0.5 });
    const places = [centreOf(b.cloth)];
    for (let s = 0; s < 3; s++) {
      b.step(480);
      places.push(centreOf(b.cloth));
    }
    const went = places.slice(1).map((p, i) => distance(p, places[i]!));
    return [went[2]!, went[2]! - went[1]!];
  };
  return [
    atMost(12, 'cloth on a slope of 26.3° with μ 0.5: creeps in a second, m', slide(26.3)[0], 1e-9),
    judge(
      12,
      'cloth on a slope of 27.8° with μ 0.5: acceleration, m/s²',
      G * (Math.sin(27.8 * RAD) - 0.5 * Math.cos(27.8 * RAD)),
      slide(27.8)[1],
      0.01,
      true,
    ),
  ];
}

/** A sheet dropped flat on the ground stays there at its thickness: no bounce, no sinking. */
function dropped(): TruthRow[] {
  const ground = makeBody({ kind: 'ground' }, 0.5, 0, null);
  ground.fixed = true;
  for (const p of [ground.before, ground.now]) p[1] = -0.3;
  const b = benchCloth(squareSheet(17, 0.5, 0, [0, 0, 1]), () => false, 480, { bodies: [ground] });
  let off = 0;
  for (let k = 0; k < 960; k++) {
    b.step();
    if (k > 200)
      for (let i = 1; i < b.cloth.x.length; i += 3) off = Math.max(off, Math.abs(b.cloth.x[i]! + 0.296));
  }
  return [atMost(13, 'cloth dropped flat: off its thickness above the ground, m', off, 1e-9)];
}

/** A ball and a thin rod at 20 m/s through a hanging sheet: no point is left behind inside the way of either. */
function shot(): TruthRow[] {
  return (
    [
      ['ball', { kind: 'sphere', radius: 0.1 }, 0.09, 0.09],
      ['rod 4 cm thick', { kind: 'capsule', radius: 0.02, half: 0.2 }, 0.15, 0.015],
    ] as const
  ).map(([name, shape, wide, high]) => {
    const body = makeBody(shape, 0.3, 0, null);
    const n = 33;
    const b = benchCloth(squareSheet(n, 1, 0.3), (i) => i < n, 960, { bodies: [body] });
    let z = -1;
    const stand = (p: Float64Array) => p.set([0.5, -0.5, z, 0, 0, Math.SQRT1_2, Math.SQRT1_2]);
    stand(body.before);
    stand(body.now);
    for (let k = 0; k < 140; k++) {
      body.before.set(body.now);
      z += 20 / 960;
      stand(body.now);
      b.step();
    }
    let through = 0;
    for (let i = 0; i < b.cloth.x.length; i += 3) {
      const [dx, dy, dz] = [b.cloth.x[i]! - 0.5, b.cloth.x[i + 1]! + 0.5, b.cloth.x[i + 2]! - z];
      if (Math.abs(dx) < wide && Math.abs(dy) < high && dz < 0) through++;
    }
    return atMost(14, `${name} at 20 m/s through a hanging cloth: points it passed`, through, 0);
  });
}

/** Everything that is measured of the solver of cloth by itself. */
export const clothRows = (quick: boolean): TruthRow[] => [
  ...hung(),
  ...swung(quick),
  ...drooped(quick),
  ...sloped(),
  ...dropped(),
  ...shot(),
];
