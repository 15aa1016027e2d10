import { CONTACT, makeAir, makeBody, predictBody } from '../src/solver/index';
import type { Frames } from '../src/frames/index';
import { simulateAll } from '../src/simulate/index';
import { makeBench, record, upcrossings } from './drive';
import { makeRow, rowShot } from './rig';
import { atMost, judge, type TruthRow } from './row';

const G = 9.81;
const RAD = Math.PI / 180;

/** 3: the first mode of a hanging chain, 1.2024 √(g/L) rad/s (the first zero of the Bessel function J₀, halved). */
export function hangingChain(): TruthRow[] {
  const length = 1;
  const bench = makeBench(40, length, { gravity: [0, -G, 0], damping: 0.004 }, 240);
  bench.aim(2 * RAD);
  bench.solver.reset(new Float64Array(123));
  bench.aim(0);
  const cross = upcrossings(record(bench, 40), bench.h);
  const hz = (cross.length - 1) / (cross.at(-1)! - cross[0]!);
  return [
    judge(
      3,
      '40 links hanging, small swing: first mode, rad/s',
      1.2024 * Math.sqrt(G / length),
      2 * Math.PI * hz,
      0.01,
      true,
    ),
  ];
}

/** 4: a strand held at both ends hangs as a catenary. */
export function catenary(): TruthRow[] {
  const links = 40;
  const length = 1;
  const rows: TruthRow[] = [];
  for (const span of [0.6, 0.9]) {
    const bench = makeBench(links, length, { gravity: [0, -G, 0], damping: 1 }, 240);
    bench.aim(Math.PI / 2);
    bench.solver.reset(new Float64Array(3 * links + 3));
    const { contact } = bench.solver;
    for (let k = 0; k < 2400; k++) {
      // The far end is drawn in over a second and held.
      contact[CONTACT.link] = links - 1;
      contact[CONTACT.along] = 1;
      contact[CONTACT.stiffness] = bench.solver.hardness() * 1e-3;
      contact.set([Math.max(span, length - (length - span) * (k / 240)), 0, 0], CONTACT.anchor);
      contact[CONTACT.kind] = 1;
      bench.solver.setContacts(1);
      bench.solver.step();
    }
    // length = 2a sinh(span / 2a)
    let lo = 0.01;
    let hi = 100;
    for (let k = 0; k < 200; k++) {
      const a = (lo + hi) / 2;
      if (2 * a * Math.sinh(span / (2 * a)) > length) lo = a;
      else hi = a;
    }
    const sag = lo * (Math.cosh(span / (2 * lo)) - 1);
    let low = 0;
    for (let i = 0; i <= links; i++) low = Math.min(low, bench.solver.x[3 * i + 1]!);
    rows.push(judge(4, `40 links held ${span} m apart: sag, m`, sag, -low, 0.01, true));
  }
  return rows;
}

/** 8: centimetres or metres, and ten times the size in √10 slower time, give the same shape. */
export function sizes(): TruthRow[] {
  const move = (t: number) => ({
    place: [0.2 * Math.sin(4 * t), 0, 0] as const,
    turn: 0.8 * Math.sin(5 * t),
  });
  const feel = { hold: 1.2, bend: 2, damping: 0.2 };
  const metre = makeRow(10, 0.5, 3, move);
  const a = simulateAll(metre, rowShot(metre, feel));
  const centi = makeRow(10, 0.5, 3, move, { metresPerUnit: 0.01 });
  const b = simulateAll(centi, rowShot(centi, feel, { metresPerUnit: 0.01 }));
  const s = Math.sqrt(10);
  const giant = makeRow(10, 5, 3 * s, (t) => {
    const m = move(t / s);
    return { place: [10 * m.place[0], 0, 0], turn: m.turn };
  });
  const c = simulateAll(
    giant,
    rowShot(giant, { hold: feel.hold / s, bend: feel.bend / s, damping: 0.2 }, { fps: 30 / s }),
  );
  const differ = (x: Frames, y: Frames, scale: number) => {
    let worst = 0;
    for (let k = 0; k < Math.min(x.tips.length, y.tips.length); k++)
      worst = Math.max(worst, Math.abs(x.tips[k]! - y.tips[k]! / scale) / 0.5);
    return worst;
  };
  return [
    atMost(8, 'in centimetres: tip path off, share of length', differ(a, b, 1), 1e-4),
    atMost(8, 'ten times the size, √10 slower: tip path off, share of length', differ(a, c, 10), 0.01),
  ];
}

/** 10: a body that spins steadily throws a hanging link out to tan θ = ω² r / g. */
export function spin(quick: boolean): TruthRow[] {
  return (quick ? [4] : [2, 4, 7]).map((omega) => {
    const bench = makeBench(1, 0.3, { gravity: [0, -G, 0], damping: 0.3 }, 240);
    const arm = 0.1;
    const turn = (t: number) => {
      const a = omega * t;
      const { source, sourceTurn } = bench.solver;
      source.set([arm * Math.cos(a), 0, -arm * Math.sin(a), arm * Math.cos(a), -0.3, -arm * Math.sin(a)]);
      sourceTurn.set([0, Math.sin(a / 2), 0, Math.cos(a / 2)]);
    };
    turn(0);
    bench.solver.reset(Float64Array.of(0, 0, -omega * arm, 0, 0, -omega * arm));
    let mean = 0;
    for (let k = 1; k <= 4800; k++) {
      turn(k / 240);
      bench.solver.step();
      const { x } = bench.solver;
      if (k > 3600) mean += Math.acos(-(x[4]! - x[1]!) / 0.3) / 1200;
    }
    let angle = 0.1;
    for (let k = 0; k < 500; k++)
      angle += 0.2 * (Math.atan((omega * omega * (arm + 0.3 * Math.sin(angle))) / G) - angle);
    return judge(10, `spin at ${omega} rad/s: angle, °`, angle / RAD, mean / RAD, 0.01, true);
  });
}

/** 17: terminal velocity in still air: a ball, and a level thread let down by its root. */
export function fallInAir(): TruthRow[] {
  const density = 1.2;
  const ball = makeBody({ kind: 'sphere', radius: 0.05 }, 0, 0, {
    mass: 0.02,
    velocity: [0, 0, 0],
    spin: [0, 0, 0],
  });
  for (let k = 0; k < 2400; k++) predictBody(ball, 1 / 240, [0, -G, 0], density);
  const expected = Math.sqrt((2 * 0.02 * G) / (density * 0.47 * Math.PI * 0.05 ** 2));
  // The thread falls with its root: level only at the one speed at which air carries all its weight.
  const links = 10;
  const thickness = 0.01;
  const levels = (speed: number) => {
    const bench = makeBench(links, 0.5, { gravity: [0, -G, 0], damping: 1 }, 240);
    bench.aim(Math.PI / 2);
    const v = new Float64Array(3 * links + 3);
    for (let i = 1; i < v.length; i += 3) v[i] = -speed;
    bench.solver.reset(v);
    bench.solver.setAiry(true);
    const air = makeAir(bench.solver, null);
    const sail = {
      thickness: new Float64Array(links).fill(thickness),
      drag: new Float64Array(links).fill(1),
      lift: new Float64Array(links),
      catches: true,
    };
    for (let k = 1; k <= 120; k++) {
      bench.aim(Math.PI / 2, [0, (-speed * k) / 240, 0]);
      for (let p = 0; p < links; p++) bench.solver.fall.set([0, -G, 0], 3 * p);
      air.blow(sail, density, null);
      bench.solver.step();
    }
    return bench.solver.x[3 * links + 1]! - bench.solver.x[1]!;
  };
  let lo = 0.1;
  let hi = 60;
  for (let k = 0; k < 18; k++) {
    const mid = (lo + hi) / 2;
    if (levels(mid) < 0) lo = mid;
    else hi = mid;
  }
  // ½ ρ C (2 r) v² = w g for each metre, w = 0.1 kg/m.
  const level = Math.sqrt((0.1 * G) / (density * 1.1 * thickness));
  return [
    judge(
      17,
      'ball of 5 cm and 20 g: terminal velocity, m/s',
      expected,
      -ball.free!.velocity[1]!,
      0.02,
      true,
    ),
    judge(17, 'level thread of 1 cm and 0.1 kg/m: terminal velocity, m/s', level, lo, 0.02, true),
  ];
}
