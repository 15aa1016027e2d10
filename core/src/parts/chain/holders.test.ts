import { describe, expect, it } from 'vitest';
import { lumpMasses, makeChainSolver, NO_FEEL } from '../../solver/index';
import { makePull } from './holders';

const g = 9.81;
const length = 0.5;
const strength = 6;

/**
 * How far a level rod sinks under gravity, m, when a hand holds its tip: in steps of an order, each in so many parts.
 */
function sag(order: 1 | 2, parts: number): number {
  const lengths = Float64Array.of(length);
  const h = 1 / 240;
  const solver = makeChainSolver({ lengths, masses: lumpMasses(lengths, Float64Array.of(0.4)) }, NO_FEEL, h);
  solver.tune({ ...NO_FEEL, gravity: [0, -g, 0] });
  solver.source.set([0, 0, 0, length, 0, 0]);
  solver.sourceTurn.set([0, 0, 0, 1]);
  solver.reset(new Float64Array(6));
  const pull = makePull({
    id: 'hand',
    link: 0,
    along: 1,
    first: 0,
    path: Array.from({ length: 100_000 }, () => [length, 0, 0] as [number, number, number]),
    strength,
    slip: 1e5,
  });
  pull.begin();
  solver.setStep(h / parts);
  solver.setOrder(order);
  solver.setAiry(true);
  // Air that holds firmly brings it to rest.
  solver.grip.fill(20);
  for (let k = 0; k < 4000 * parts; k++) {
    solver.setContacts(pull.write(solver, 0, 0));
    solver.step();
  }
  return -solver.x[4]!;
}

describe('a hand that pulls at 6 Hz', () => {
  // The tip, where the mass is, sinks by what a spring of that frequency gives way to its weight: g / ω².
  const asked = g / (2 * Math.PI * strength) ** 2;
  it.each([
    ['steps of second order', 2, 1],
    ['steps of first order', 1, 1],
    ['steps in four parts', 1, 4],
  ] as const)('is felt at 6 Hz in %s', (_, order, parts) => {
    expect(sag(order, parts) / asked).toBeCloseTo(1, 1);
  });
});
