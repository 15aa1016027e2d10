import { int } from '../numbers';
import { BodyStep } from './bodyFields';
import { pullBody } from './elastic';
import { pressAll, pressed, pushGuess, stiffenTouches } from './press';
import { stiffen } from './stiffen';
import type { Floats, Index } from '../numbers';

/** Halvings of a step that does not better the whole. */
const HALVINGS: number = 6;

/**
 * Solves the implicit step of a body: places x at which inertia, hold, elasticity and damping are in balance. Newton
 * with conjugate gradients without a matrix, and a search along each way: Gast et al. 2015, Optimization integrator for
 * large time steps.
 */
export function solveBody(step: BodyStep): void {
  const nodes = int(step.nodes);
  const n = 3 * nodes;
  const { inert, speed, beta, x, f, dx, r, p, q, free, mass, hold, goal, shown, diagonal } = step;
  step.rounds = 0;
  if (step.touches > 0) pushGuess(step);
  weighNodes(step);
  const limit = limitOf(step);
  for (let o = 0; o < n; o++) f[o] = 0;
  let energy = pullBody(step);
  for (let round: number = 0; round < step.newton; round++) {
    if (beta > 0) flowNow(step, n);
    if (step.touches > 0) pressNodes(step);
    let rz: number = 0;
    for (let i = 0; i < nodes; i++) {
      const m = mass[i]!;
      for (let o = 3 * i; o < 3 * i + 3; o++) {
        r[o] = free[i]! * (f[o]! - m * inert * (x[o]! - goal[o]!) + m * hold[i]! * (shown[o]! - x[o]!));
        p[o] = r[o]! * diagonal[i]!;
        dx[o] = 0;
        rz += r[o]! * p[o]!;
      }
    }
    if (rz <= 1e-30 || (round > 0 && rz < 4 * limit)) return;
    for (let k: number = 0; k < step.most; k++) {
      for (let o = 0; o < n; o++) q[o] = 0;
      stiffen(step, p, q, 1, beta * speed);
      if (step.touches > 0) stiffenTouches(step, p, q);
      let pq: number = 0;
      for (let i = 0; i < nodes; i++)
        for (let o = 3 * i; o < 3 * i + 3; o++) {
          q[o] = free[i]! * (q[o]! + mass[i]! * (inert + hold[i]!) * p[o]!);
          pq += p[o]! * q[o]!;
        }
      if (!(pq > 0)) break;
      const along = rz / pq;
      let next: number = 0;
      for (let i = 0; i < nodes; i++)
        for (let o = 3 * i; o < 3 * i + 3; o++) {
          dx[o] = dx[o]! + along * p[o]!;
          r[o] = r[o]! - along * q[o]!;
          next += r[o]! * r[o]! * diagonal[i]!;
        }
      step.rounds += 1;
      if (next < limit && (k + 1 >= step.least || round > 0)) break;
      const on = next / rz;
      rz = next;
      for (let i = 0; i < nodes; i++)
        for (let o = 3 * i; o < 3 * i + 3; o++) p[o] = r[o]! * diagonal[i]! + on * p[o]!;
    }
    energy = search(step, n, energy);
  }
}

/** The inverse of the diagonal of the system, a number a node. */
function weighNodes(step: BodyStep): void {
  const { size, mu, lambda, young, poisson, beta, speed, inert, corners, fill, stiff } = step;
  const { mass, free, hold, own, diagonal } = step;
  const per = 1 / (4 * size);
  const hour = 4 / (3 * size * size);
  const plate = young / (1 - poisson * poisson);
  const each =
    size *
    size *
    size *
    (1 + beta * speed) *
    ((4 * mu + lambda) * per * per + (hour / 64) * (2 * mu + 2 * plate + young / 3));
  for (let i = 0; i < int(step.nodes); i++) own[i] = 0;
  for (let cell = 0; cell < int(step.cells); cell++)
    for (let c = 8 * cell; c < 8 * cell + 8; c++)
      own[corners[c]!] = own[corners[c]!]! + each * fill[cell]! * stiff[cell]!;
  for (let i = 0; i < int(step.nodes); i++) {
    own[i] = own[i]! + mass[i]! * (inert + hold[i]!);
    diagonal[i] = free[i]! > 0 && own[i]! > 0 ? 1 / own[i]! : 0;
  }
}

/** The forces of touches, and what they add to the diagonal. */
function pressNodes(step: BodyStep): void {
  const { free, own, diagonal, pressing } = step;
  pressAll(step);
  for (let i = 0; i < int(step.nodes); i++) {
    const d = own[i]! + pressing[i]!;
    diagonal[i] = free[i]! > 0 && d > 0 ? 1 / d : 0;
  }
}

/** What may be left of the residual: a share of what the weight of each node is. */
function limitOf(step: BodyStep): number {
  const { mass, diagonal, enough } = step;
  let sum: number = 0;
  for (let i = 0; i < int(step.nodes); i++) {
    const w = 9.81 * mass[i]!;
    sum += w * w * diagonal[i]!;
  }
  return enough * enough * sum;
}

/** The forces of damping at the speed of x, which are taken from the others. */
function flowNow(step: BodyStep, n: Index): void {
  const { beta, speed, x, drift, f, damped, q } = step;
  for (let o = 0; o < n; o++) {
    q[o] = speed * x[o]! + drift[o]!;
    damped[o] = 0;
  }
  stiffen(step, q, damped, 0, beta);
  for (let o = 0; o < n; o++) f[o] = f[o]! - damped[o]!;
}

/** What inertia and hold are at x, J. */
function inertia(step: BodyStep): number {
  const { inert, x, goal, shown, mass, hold, free } = step;
  let sum: number = 0;
  for (let i = 0; i < int(step.nodes); i++) {
    let goes: number = 0,
      held: number = 0;
    for (let o = 3 * i; o < 3 * i + 3; o++) {
      goes += (x[o]! - goal[o]!) * (x[o]! - goal[o]!);
      held += (x[o]! - shown[o]!) * (x[o]! - shown[o]!);
    }
    sum += 0.5 * free[i]! * mass[i]! * (inert * goes + hold[i]! * held);
  }
  return sum;
}

function dot(a: Floats, b: Floats, n: Index): number {
  let sum: number = 0;
  for (let o = 0; o < n; o++) sum += a[o]! * b[o]!;
  return sum;
}

/**
 * Goes along dx as far as the whole energy, damping included, gets no larger. Returns what is elastic there, J; its
 * forces are in f.
 */
function search(step: BodyStep, n: Index, elastic: number): number {
  const { beta, speed, x, f, dx, q, damped } = step;
  let slope: number = 0,
    curve: number = 0;
  if (beta > 0) {
    for (let o = 0; o < n; o++) q[o] = 0;
    stiffen(step, dx, q, 0, beta * speed);
    curve = dot(dx, q, n);
    slope = dot(dx, damped, n);
  }
  const touches = step.touches > 0;
  const before = inertia(step) + elastic + (touches ? pressed(step) : 0);
  let went: number = 0,
    goes: number = 1,
    now: number = elastic;
  for (let k: number = 0; k < HALVINGS; k++) {
    for (let o = 0; o < n; o++) {
      x[o] = x[o]! + (goes - went) * dx[o]!;
      f[o] = 0;
    }
    went = goes;
    now = pullBody(step);
    const after =
      goes * slope + 0.5 * goes * goes * curve + inertia(step) + now + (touches ? pressed(step) : 0);
    if (after <= before + 1e-4 * Math.abs(before)) return now;
    goes *= 0.5;
  }
  return now;
}
