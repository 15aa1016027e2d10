import { expect, it } from 'vitest';
import { benchCloth, squareSheet } from '../../../truth/clothBench';
import { finishBody, makeBody, predictBody, type Body } from '../index';

const RATE = 480;
const FALL = 9.81 / RATE;
const ball = (mass: number, at: readonly number[], speed: readonly number[]): Body => {
  const body = makeBody({ kind: 'sphere', radius: 0.06 }, 0.4, 0, { mass, velocity: speed, spin: [0, 0, 0] });
  body.now.set([...at, 0, 0, 0, 1]);
  body.before.set(body.now);
  return body;
};

it('a ball thrown at a free sheet gives it the momentum that it loses', () => {
  const body = ball(0.05, [0.25, 0.1, 0.25], [0, -2, 0]);
  const b = benchCloth(squareSheet(17, 0.5, 0.3, [0, 0, 1]), () => false, RATE, { bodies: [body] });
  b.env.gravity = [0, 0, 0];
  const sheet = () => b.cloth.mass.reduce((sum, m, i) => sum + m * b.cloth.v[3 * i + 1]!, 0);
  const before = 0.05 * body.free!.velocity[1]!;
  for (let k = 0; k < 120; k++) {
    predictBody(body, 1 / RATE, [0, 0, 0], 0);
    b.env.fresh = k % 8 === 0;
    b.step();
    b.cloth.react(FALL);
    finishBody(body, 0);
  }
  expect(sheet()).toBeLessThan(-0.02);
  expect(Math.abs(sheet() + 0.05 * body.free!.velocity[1]! - before)).toBeLessThan(0.02 * Math.abs(before));
});

it('a sheet that is held by its rim catches a falling ball and carries it', () => {
  const n = 17;
  const body = ball(0.2, [0.25, 0.2, 0.25], [0, 0, 0]);
  const rim = (p: number) => p % n === 0 || p % n === n - 1 || p < n || p >= n * (n - 1);
  const b = benchCloth(squareSheet(n, 0.5, 0.3, [0, 0, 1]), rim, RATE, { bodies: [body] });
  b.cloth.damp.fill(12);
  let [low, late] = [Infinity, 0];
  for (let k = 0; k < 4 * RATE; k++) {
    predictBody(body, 1 / RATE, [0, -9.81, 0], 0);
    b.env.fresh = k % 8 === 0;
    b.step();
    b.cloth.react(FALL);
    finishBody(body, 0);
    low = Math.min(low, body.now[1]!);
    if (k === 3.5 * RATE) late = body.now[1]!;
  }
  expect(low).toBeGreaterThan(-0.15);
  expect(Math.abs(body.now[1]! - late)).toBeLessThan(0.01);
  expect(body.now[1]!).toBeLessThan(0.07);
});
