import { describe, expect, it } from 'vitest';
import { makeArena } from '../arena';
import { bodyNumbers } from '../cloth/contact';
import { wholeStep } from '../cloth/stepBody';
import { finishBody, makeBody, predictBody, type Body, type Shape } from '../index';
import { StrandContacts, touchedNumbers } from './contact';
import { makeStrands, strandNumbers, type StrandFeel, type StrandShape } from './index';

const LIMP: StrandFeel = {
  ...{ hold: 0, bend: 0.5, damping: 0.4, weight: 0.01, gravity: [0, -9.81, 0], keeps: 0 },
};
/** Links along x from a root. */
const aside = (n: number, long: number): StrandShape => ({
  lengths: new Float64Array(n).fill(long / n),
  directions: Float64Array.from({ length: 3 * n }, (_, k) => (k % 3 === 0 ? 1 : 0)),
});
const stands = (
  shape: Shape,
  at: readonly number[],
  move: { mass: number; speed: readonly number[] } | null = null,
) => {
  const body = makeBody(
    shape,
    0.5,
    0,
    move && { mass: move.mass, velocity: [...move.speed], spin: [0, 0, 0] },
  );
  body.now.set([...at, 0, 0, 0, 1]);
  body.before.set(body.now);
  return body;
};

function rig(
  shapes: readonly StrandShape[],
  feel: StrandFeel,
  body: Body,
  h: number,
  compiled = false,
  friction = 0.4,
) {
  const links = shapes.reduce((n, s) => n + s.lengths.length, 0);
  const arena = compiled
    ? makeArena(
        strandNumbers(shapes.length, links) + touchedNumbers(links) + bodyNumbers(links, wholeStep(body)),
      )
    : null;
  const strands = makeStrands(shapes, h, arena);
  shapes.forEach((_, k) => strands.tune(k, feel));
  const skin = { thickness: 0.004, friction };
  const contacts = new StrandContacts(strands, [body], h, () => skin, arena);
  const roots = Float64Array.from(shapes.flatMap((_, k) => [0, 0, 0.05 * k, 0, 0, 0, 1]));
  strands.begin(roots, roots);
  contacts.begin();
  let count = 0;
  const step = (gravity: readonly number[] = feel.gravity) => {
    contacts.ready();
    strands.predict(roots, gravity, 1, 1);
    contacts.find(count++ % 8 === 0);
    strands.solve(friction);
    return contacts.done();
  };
  return { strands, step };
}

describe('strands on bodies', () => {
  it('lie on a ball without sinking in, come to rest there, and go the same way compiled', () => {
    const run = (compiled: boolean) => {
      const ball = stands({ kind: 'sphere', radius: 0.1 }, [0.15, -0.12, 0]);
      const { strands, step } = rig([aside(16, 0.35), aside(12, 0.3)], LIMP, ball, 1 / 240, compiled);
      let deepest = 0;
      for (let k = 0; k < 960; k++) deepest = Math.max(deepest, step().depth);
      const before = Float64Array.from(strands.x);
      for (let k = 0; k < 8; k++) step();
      const creep = Math.max(...before.map((p, o) => Math.abs(p - strands.x[o]!)));
      return { x: [...strands.x], deepest, creep, pressing: step().pressing };
    };
    const plain = run(false);
    expect(plain.pressing).toBeGreaterThan(1);
    expect(plain.deepest).toBeLessThan(0.001);
    expect(plain.creep).toBeLessThan(1e-5);
    for (let o = 0; o < plain.x.length / 2; o += 3) {
      const far = Math.hypot(plain.x[o]! - 0.15, plain.x[o + 1]! + 0.12, plain.x[o + 2]!);
      expect(far).toBeGreaterThan(0.1035);
    }
    expect(run(true)).toEqual(plain);
  });

  it('a ball that hits the end of a strand gives it what it loses, about its root', () => {
    const mass = 0.002;
    const ball = stands({ kind: 'sphere', radius: 0.05 }, [0.2, 0.08, 0], { mass, speed: [0, -1.5, 0] });
    const free = { ...LIMP, bend: 0, damping: 0, gravity: [0, 0, 0] as const };
    const { strands, step } = rig([aside(1, 0.2)], free, ball, 1 / 960, false, 0);
    const before = mass * ball.free!.velocity[1]! * 0.2;
    for (let k = 0; k < 60; k++) {
      predictBody(ball, 1 / 960, [0, 0, 0], 0);
      step([0, 0, 0]);
      finishBody(ball, 0);
    }
    const { w } = strands.fields;
    const [x, y] = [strands.x[0]!, strands.x[1]!];
    const turning = strands.masses[0]! * 960 * (x * w[1]! - y * w[0]!);
    const at = ball.now;
    const left = mass * (at[0]! * ball.free!.velocity[1]! - at[1]! * ball.free!.velocity[0]!);
    console.log(turning, left, before);
    expect(turning).toBeLessThan(0.1 * before);
    expect(Math.abs(turning + left - before)).toBeLessThan(0.01 * Math.abs(before));
  });
});
