import { collideBodies, CONTACT, CONTACT_ROW, makeBody, predictBody } from '../src/solver/index';
import { atMost, judge, type TruthRow } from './row';

import { at, G, put, rates, slope, touchBench } from './touchBench';

/** 15: a rope drawn over a capsule: the tensions at its ends are as e^(μφ). */
export function capstan(quick: boolean): TruthRow[] {
  return (quick ? [0.3] : [0.2, 0.3, 0.4]).map((mu) => {
    const rate = 240;
    const radius = 0.1;
    const thickness = 0.005;
    const links = 60;
    const length = 1.2;
    const bar = makeBody({ kind: 'capsule', radius, half: 0.5 }, mu, 0, null);
    bar.now.set([0, 0, 0, Math.SQRT1_2, 0, 0, Math.SQRT1_2]);
    bar.before.set(bar.now);
    const masses = new Float64Array(links).fill(0.001);
    const weight = 0.5;
    masses[links - 1] = weight;
    const bench = touchBench(
      links,
      length,
      { damping: 0.2 },
      rate,
      [bar],
      { thickness, friction: mu, bounce: 0 },
      masses,
    );
    // The rope lies over the bar: up on the right, a half circle, down on the left to the weight.
    const r = radius + thickness;
    const rise = 0.35;
    const along = (s: number): [number, number, number] => {
      if (s < rise) return [r, -rise + s, 0];
      const a = (s - rise) / r;
      if (a < Math.PI) return [r * Math.cos(a), r * Math.sin(a), 0];
      return [-r, -(s - rise - Math.PI * r), 0];
    };
    const lay = (down: number) => {
      for (let i = 0; i <= links; i++) {
        const p = along((i * length) / links);
        bench.solver.source.set([p[0], p[1] - down, p[2]], 3 * i);
      }
      for (let i = 0; i < links; i++) bench.solver.sourceTurn.set([0, 0, 0, 1], 4 * i);
    };
    lay(0);
    bench.solver.reset(new Float64Array(3 * links + 3));
    const tension = () => {
      const s = bench.solver;
      let sum = 0;
      for (let i = 0; i < links; i++)
        sum += s.mass[i]! * ((s.v[3 * i + 4]! - s.vOld[3 * i + 4]!) / bench.h + G);
      for (let k = 0; k < bench.report().rows; k++) {
        const row = k * CONTACT_ROW;
        if (s.contact[row + CONTACT.load]! > 0)
          sum -= s.contact[row + CONTACT.force + 1]! * bench.report().newtons;
      }
      return -sum;
    };
    let mean = 0;
    let n = 0;
    for (let k = 0; k < 3 * rate; k++) {
      const down = 0.05 * (k / rate);
      lay(down);
      bench.step();
      if (k > 1.5 * rate) {
        mean += tension();
        n++;
      }
    }
    return judge(
      15,
      `rope over a bar, μ ${mu}, half a turn, drawn slowly: tension ratio`,
      Math.exp(mu * Math.PI),
      mean / n / (weight * G),
      0.25,
      true,
    );
  });
}

/** 16: what lies on something stays: a chain on the ground, and a box. */
export function atRest(quick: boolean): TruthRow[] {
  const rows: TruthRow[] = [];
  for (const r of rates(quick)) {
    const rate = r[0] * r[1];
    const ground = slope(0, 0.5);
    const bench = touchBench(10, 0.5, { damping: 0.3, bend: 1 }, rate, [ground], {
      thickness: 0.01,
      friction: 0.5,
      bounce: 0,
    });
    bench.aim(Math.PI / 2, [0, 0.1, 0]);
    bench.solver.reset(new Float64Array(33));
    const frame = () => {
      for (let k = 0; k < r[1]; k++) bench.step();
    };
    for (let k = 0; k < 4 * r[0]; k++) frame();
    let worst = 0;
    for (let k = 0; k < r[0]; k++) {
      const before = Float64Array.from(bench.solver.x);
      frame();
      bench.solver.x.forEach((x, i) => (worst = Math.max(worst, Math.abs(x - before[i]!))));
    }
    rows.push(
      atMost(
        16,
        `chain let down on the ground, ${at(r)}: moves in a frame after 4 s, mm`,
        worst * 1000,
        0.01,
      ),
    );
    const box = put(
      makeBody({ kind: 'box', half: [0.1, 0.05, 0.1] }, 0.5, 0, {
        mass: 1,
        velocity: [0, 0, 0],
        spin: [0, 0, 0],
      }),
      0,
      0.06,
      0,
    );
    let moved = 0;
    for (let k = 0; k < 3 * rate; k++) {
      const y = box.now[1]!;
      predictBody(box, 1 / rate, [0, -G, 0], 0);
      collideBodies([ground, box], 1 / rate);
      if (k > 2 * rate) moved = Math.max(moved, Math.abs(box.now[1]! - y));
    }
    rows.push(
      atMost(16, `box on the ground, ${at(r)}: moves in a frame after 2 s, mm`, moved * 1000 * r[1], 0.01),
    );
  }
  return rows;
}
