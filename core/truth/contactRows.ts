import { collideBodies, makeBody, predictBody, type Body } from '../src/solver/index';
import { stepsAFrame } from '../src/simulate/index';
import { atMost, judge, type TruthRow } from './row';

import { at, G, put, RAD, rates, slope, touchBench } from './touchBench';

/** 11: a free ball that strikes a hanging chain: what it loses about the root the chain gains. Two balls: likewise. */
export function momentum(quick: boolean): TruthRow[] {
  return rates(quick).flatMap((r) => {
    const rate = r[0] * stepsAFrame(r[0], r[1], true);
    const ball = put(
      makeBody({ kind: 'sphere', radius: 0.05 }, 0.3, 0.2, {
        mass: 0.03,
        velocity: [3, 0.4, 0],
        spin: [0, 0, 0],
      }),
      -0.3,
      -0.25,
      0.01,
    );
    const bench = touchBench(
      10,
      0.5,
      {},
      rate,
      [ball],
      { thickness: 0.01, friction: 0.3, bounce: 0.2 },
      undefined,
      [0, 0, 0],
    );
    bench.aim(0);
    bench.solver.reset(new Float64Array(33));
    const about = () => {
      const out = [0, 0, 0];
      const add = (m: number, x: ArrayLike<number>, v: ArrayLike<number>, o: number) => {
        for (let c = 0; c < 3; c++)
          out[c]! +=
            m *
            (x[o + ((c + 1) % 3)]! * v[o + ((c + 2) % 3)]! - x[o + ((c + 2) % 3)]! * v[o + ((c + 1) % 3)]!);
      };
      for (let i = 0; i < 10; i++) add(bench.solver.mass[i]!, bench.solver.x, bench.solver.v, 3 * i + 3);
      add(0.03, ball.now, ball.free!.velocity, 0);
      // Without friction's twist on the ball its own spin would stay 0.
      for (let c = 0; c < 3; c++) out[c]! += ball.free!.inertia[0]! * ball.free!.spin[c]!;
      return out;
    };
    const start = about();
    for (let k = 0; k < 0.25 * rate; k++) bench.step();
    const end = about();
    const off = Math.hypot(...end.map((x, c) => x - start[c]!)) / Math.hypot(...start);
    const struck = Math.abs(ball.free!.velocity[0]! - 3) > 0.1;
    const [a, b] = [0, 1].map((k) =>
      put(
        makeBody({ kind: 'sphere', radius: 0.1 }, 0.5, 0.6, {
          mass: 1 + k,
          velocity: [2 - 3 * k, 0, 0],
          spin: [0, 0, 4],
        }),
        k * 0.6,
        k * 0.07,
        0,
      ),
    ) as [Body, Body];
    const sum = () => [0, 1, 2].map((c) => a.free!.velocity[c]! + 2 * b.free!.velocity[c]!);
    const before = sum();
    for (let k = 0; k < rate; k++) {
      predictBody(a, 1 / rate, [0, 0, 0], 0);
      predictBody(b, 1 / rate, [0, 0, 0], 0);
      collideBodies([a, b], 1 / rate);
    }
    const drift = Math.hypot(...sum().map((x, c) => x - before[c]!)) / 4;
    return [
      atMost(
        11,
        `ball strikes a chain${struck ? '' : ' (missed!)'}, ${at(r)}: angular momentum about the root, change`,
        struck ? off : 1,
        0.001,
      ),
      atMost(
        11,
        `two balls strike, ${at(r)}: linear momentum, change`,
        a.free!.velocity[0]! < 1.5 ? drift : 1,
        0.001,
      ),
    ];
  });
}

/** 12: a box on an incline holds below atan μ and slides at g(sin θ − μ cos θ) above. */
export function incline(quick: boolean): TruthRow[] {
  const rows: TruthRow[] = [];
  for (const r of rates(quick)) {
    const rate = r[0] * r[1];
    const slide = (mu: number, angle: number) => {
      const ground = slope(angle, mu);
      const box = makeBody({ kind: 'box', half: [0.1, 0.05, 0.1] }, mu, 0, {
        mass: 2,
        velocity: [0, 0, 0],
        spin: [0, 0, 0],
      });
      box.now.set(ground.now);
      box.now[0] = 0.05 * Math.sin(angle);
      box.now[1] = 0.05 * Math.cos(angle);
      box.before.set(box.now);
      const way = () => box.now[0]! * Math.cos(angle) - box.now[1]! * Math.sin(angle);
      const start = way();
      for (let k = 0; k < rate; k++) {
        predictBody(box, 1 / rate, [0, -G, 0], 0);
        collideBodies([ground, box], 1 / rate);
      }
      return way() - start;
    };
    for (const mu of quick ? [0.4] : [0.2, 0.4, 0.8]) {
      const limit = Math.atan(mu);
      rows.push(
        atMost(
          12,
          `box, μ ${mu}, ${at(r)}: slides in 1 s 1° below atan μ, m`,
          Math.abs(slide(mu, limit - RAD)),
          1e-3,
        ),
      );
      const angle = limit + 8 * RAD;
      rows.push(
        judge(
          12,
          `box, μ ${mu}, 8° above, ${at(r)}: acceleration, m/s²`,
          G * (Math.sin(angle) - mu * Math.cos(angle)),
          2 * slide(mu, angle),
          0.02,
          true,
        ),
      );
    }
  }
  return rows;
}

/** 13: dropped from h it rises to e² h: a free ball on the ground, and a link that falls against a wall. */
export function bounce(quick: boolean): TruthRow[] {
  const rows: TruthRow[] = [];
  for (const r of rates(quick)) {
    const rate = r[0] * r[1];
    for (const e of quick ? [0.6] : [0.3, 0.6, 0.9]) {
      const drop = 0.5;
      const ball = put(
        makeBody({ kind: 'sphere', radius: 0.05 }, 0.3, e, {
          mass: 0.2,
          velocity: [0, 0, 0],
          spin: [0, 0, 0],
        }),
        0,
        0.05 + drop,
        0,
      );
      const ground = slope(0, 0.3, e);
      let top = 0;
      let struck = false;
      for (let k = 0; k < 1.2 * rate; k++) {
        predictBody(ball, 1 / rate, [0, -G, 0], 0);
        collideBodies([ground, ball], 1 / rate);
        struck ||= ball.free!.velocity[1]! > 0;
        if (struck && ball.free!.velocity[1]! < 0) break;
        if (struck) top = Math.max(top, ball.now[1]! - 0.05);
      }
      rows.push(judge(13, `ball, bounce ${e}, ${at(r)}: height, m`, e * e * drop, top, 0.03, true));
      // A link let go level swings down against a wall that meets it square when it hangs.
      const wall = slope(Math.PI / 2, 0, e);
      const bench = touchBench(1, 0.4, {}, rate, [wall], { thickness: 0.001, friction: 0, bounce: e });
      bench.aim(Math.PI / 2);
      bench.solver.reset(new Float64Array(6));
      bench.aim(0);
      let hit = false;
      let back = 0;
      for (let k = 0; k < 1.5 * rate; k++) {
        const was = bench.solver.v[3]!;
        bench.step();
        hit ||= was < 0 && bench.solver.v[3]! > 0;
        if (hit && bench.solver.v[3]! < 0 && back > 0.01 * e * e) break;
        if (hit) back = Math.max(back, bench.solver.x[4]! + 0.4);
      }
      rows.push(
        judge(13, `link against a wall, bounce ${e}, ${at(r)}: height, m`, e * e * 0.4, back, 0.03, true),
      );
    }
  }
  return rows;
}

/** 14: a small ball at 20 m/s into a hanging chain never comes through it. */
export function fastBall(quick: boolean): TruthRow[] {
  return rates(quick).map((r) => {
    const rate = r[0] * r[1];
    const radius = 0.02;
    const ball = put(makeBody({ kind: 'sphere', radius }, 0.2, 0, null), -0.6, -0.22, 0);
    const bench = touchBench(10, 0.5, { damping: 0.1 }, rate, [ball], {
      thickness: 0.005,
      friction: 0.2,
      bounce: 0,
    });
    bench.aim(0);
    bench.solver.reset(new Float64Array(33));
    let worst = 0;
    for (let k = 0; -0.6 + (20 * (k + 1)) / rate <= 0.26; k++) {
      bench.step(() => (ball.now[0] = -0.6 + (20 * (k + 1)) / rate));
      const { x } = bench.solver;
      // The chain at the ball's height, or its tip when it is carried higher, lies before the ball.
      let ahead = -Infinity;
      for (let i = 0; i < 10; i++) {
        const o = 3 * i;
        let dd = 0;
        let dot = 0;
        for (let c = 0; c < 3; c++) {
          const d = x[o + 3 + c]! - x[o + c]!;
          dd += d * d;
          dot += d * (ball.now[c]! - x[o + c]!);
        }
        const t = Math.min(1, Math.max(0, dot / dd));
        let sum = 0;
        for (let c = 0; c < 3; c++) sum += (x[o + c]! + t * (x[o + 3 + c]! - x[o + c]!) - ball.now[c]!) ** 2;
        const near = Math.sqrt(sum);
        worst = Math.max(worst, radius + 0.005 - near);
        ahead = Math.max(ahead, x[o]! + t * (x[o + 3]! - x[o]!) - ball.now[0]!);
      }
      if (ball.now[0]! > 0) worst = Math.max(worst, -ahead);
    }
    return atMost(14, `ball of 2 cm at 20 m/s through a chain, ${at(r)}: deepest inside, m`, worst, 1e-3);
  });
}
