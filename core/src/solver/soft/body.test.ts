import { describe, expect, it } from 'vitest';
import { block } from '../../../truth/bodyRows';
import { makeLattice } from './lattice';

describe('a lattice', () => {
  it('numbers the corners of its cells, and leaves empty ones out', () => {
    // Two cells in a row, the first empty, and one above it.
    const l = makeLattice([2, 2, 1], 0.5, [1, 0, 0], [0, 1, 0.25, 0]);
    expect([l.cells, l.nodes]).toEqual([2, 14]);
    expect([...l.fill]).toEqual([1, 0.25]);
    expect(l.at(0, 0, 0)).toBe(-1);
    const corner = (cell: number, c: number) =>
      [...l.rest.subarray(3 * l.corners[8 * cell + c]!)].slice(0, 3);
    expect(corner(0, 0)).toEqual([1.5, 0, 0]);
    expect(corner(0, 1)).toEqual([2, 0, 0]);
    expect(corner(0, 2)).toEqual([1.5, 0.5, 0]);
    expect(corner(1, 0)).toEqual([1, 0.5, 0]);
    expect(corner(1, 7)).toEqual([1.5, 1, 0.5]);
    // They share one edge: two nodes.
    expect(new Set(l.corners).size).toBe(14);
  });
});

describe('a soft body', () => {
  it('weighs what its filled cells do, and stays where it rests without gravity', () => {
    const { lattice, body } = block([3, 2, 2], 0.1, {}, 120);
    expect(body.mass.reduce((s, m) => s + m, 0)).toBeCloseTo(1000 * 0.001 * lattice.cells, 9);
    for (let k = 0; k < 10; k++) body.step([0, 0, 0]);
    lattice.rest.forEach((x, o) => expect(body.x[o]).toBeCloseTo(x, 12));
  });

  it('has room for any shape of its lattice, a long row of cells too', () => {
    const { body } = block([200, 1, 1], 0.1, {}, 120);
    body.step([0, -9.81, 0]);
    expect(body.x.every(Number.isFinite)).toBe(true);
  });

  it('falls as a whole at g, and turns without strain', () => {
    const { lattice, body } = block([2, 2, 2], 0.1, { damping: 0.1, first: 20 }, 240);
    for (let k = 0; k < 120; k++) body.step([0, -9.81, 0]);
    const fell = body.x.reduce((s, x, o) => s + (o % 3 === 1 ? x - lattice.rest[o]! : 0), 0) / lattice.nodes;
    expect(fell / (-9.81 / 8)).toBeCloseTo(1, 2);
    expect(Math.max(...body.ratio.map((r) => Math.abs(r - 1)))).toBeLessThan(1e-6);
  });

  it('follows its animation where it is held, and goes with nodes that are moved', () => {
    const held = block([2, 2, 2], 0.1, { damping: 0.5, first: 20 }, 120);
    held.body.pull.fill((2 * Math.PI * 6) ** 2);
    held.body.shown.set(held.lattice.rest.map((x, o) => (o % 3 === 0 ? x + 0.3 : x)));
    // It swings about its animation.
    const sums = new Float64Array(held.body.x.length);
    for (let k = 0; k < 480; k++) {
      held.body.step([0, 0, 0]);
      held.body.x.forEach((x, o) => (sums[o]! += x / 480));
    }
    sums.forEach((x, o) => expect(Math.abs(x - held.body.shown[o]!)).toBeLessThan(0.02));
    const led = block([3, 1, 1], 0.1, { damping: 1, first: 10 }, 120, (x) => x < 1e-9);
    for (let k = 1; k <= 240; k++) {
      led.body.shown.set(led.lattice.rest.map((y, o) => (o % 3 === 1 ? y + Math.min(0.2, k / 300) : y)));
      led.body.step([0, 0, 0]);
    }
    led.body.x.forEach((x, o) =>
      expect(Math.abs(x - led.lattice.rest[o]! - (o % 3 === 1 ? 0.2 : 0))).toBeLessThan(0.002),
    );
  });

  it('comes back from being flattened and turned inside out', () => {
    const { lattice, body } = block([3, 3, 3], 0.1, { young: 1e5, damping: 0.5, first: 5 }, 120);
    body.begin(
      lattice.rest.map((x, o) => (o % 3 === 1 ? -0.3 * x : x)),
      new Float64Array(lattice.rest.length),
    );
    for (let k = 0; k < 360; k++) body.step([0, 0, 0]);
    expect(Math.min(...body.ratio)).toBeGreaterThan(0.97);
    expect(Math.max(...body.ratio)).toBeLessThan(1.03);
  });
});
