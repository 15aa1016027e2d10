import type { Feel } from '@oscillum/core/measure';
import { describe, expect, it } from 'vitest';
import { commonReadout, HEIGHT, MARGIN, responseChart, roughly, WIDTH, type Readout } from './responseChart';

/** A part that passes the pose by a fifth on frame 6 and comes to rest. */
const feel = (more: Partial<Feel> = {}): Feel => ({
  ...{ lag: 2.5, overshoot: 20, settle: 12 },
  curve: Float64Array.of(0, 0.05, 0.3, 0.7, 1, 1.15, 1.2, 1.1, 1, 0.97, 1),
  ...more,
});
/** The numbers of a path, two by two. */
const placesOf = (path: string): [number, number][] =>
  [...path.matchAll(/(-?[\d.]+) (-?[\d.]+)(?=[A-Z]|$)/g)].map((m) => [Number(m[1]), Number(m[2])]);

describe('the drawn answer to a quick turn', () => {
  it('shows three times the turn at least, the settling and some more, and never more than 240 frames', () => {
    expect(responseChart([], 30).span).toBe(31.25);
    expect(responseChart([feel({ settle: 0 })], 30).span).toBe(15);
    expect(responseChart([feel({ settle: 12 })], 30).span).toBe(1.25 * 17);
    expect(responseChart([feel({ settle: 5000 })], 30).span).toBe(240);
    expect(responseChart([feel({ settle: Infinity })], 30).span).toBe(31.25);
  });

  it('begins at the lower left and keeps inside its margins, however far an answer goes', () => {
    for (const overshoot of [0, 20, 90, 400]) {
      const curve = Float64Array.of(0, 0.2, 1 + overshoot / 100, 0.6, -0.3, 1);
      const chart = responseChart([feel({ overshoot, curve })], 24);
      const places = placesOf(chart.path(feel({ overshoot, curve })));
      expect(places[0]![0]).toBe(MARGIN);
      for (const [x, y] of places) {
        expect(x).toBeGreaterThanOrEqual(MARGIN - 0.1);
        expect(x).toBeLessThanOrEqual(WIDTH - MARGIN + 0.1);
        expect(y).toBeGreaterThanOrEqual(MARGIN - 0.1);
        expect(y).toBeLessThanOrEqual(HEIGHT - MARGIN + 0.1);
      }
    }
  });

  it('has no handles before anything is measured', () => {
    expect(responseChart([], 30).places).toBeNull();
    expect(responseChart([], 30).path(feel({ curve: new Float64Array(0) }))).toBe('');
  });

  it('reads at the place of a handle what the handle stands for', () => {
    const known = feel();
    const chart = responseChart([known], 30);
    for (const key of ['lag', 'overshoot', 'settle'] as const) {
      const [x, y] = chart.places![key];
      expect(chart.reading(key, x, y), key).toBeCloseTo(known[key], 1);
    }
  });

  it('asks for no lag, settling or overshoot that there cannot be', () => {
    const chart = responseChart([feel()], 30);
    expect(chart.reading('lag', 0, 0)).toBe(0.2);
    expect(chart.reading('settle', 0, 0)).toBe(0.2);
    expect(chart.reading('overshoot', 0, HEIGHT)).toBe(0);
  });

  it('stands the handle of the overshoot on the highest place of the first answer', () => {
    const chart = responseChart([feel(), feel({ overshoot: 60 })], 30);
    const [x] = chart.places!.overshoot;
    expect(x).toBeCloseTo(MARGIN + (6 / chart.span) * (WIDTH - 2 * MARGIN), 6);
  });
});

describe('a rough answer while a handle is dragged', () => {
  it('is as much faster as lag or settling shall be shorter, and leaves the damping', () => {
    expect(roughly('lag', 5, feel({ lag: 2.5 }))).toEqual({ faster: 0.5, damped: 1 });
    expect(roughly('settle', 6, feel({ settle: 12 }))).toEqual({ faster: 2, damped: 1 });
    expect(roughly('lag', 0, feel({ lag: 1 })).faster).toBe(20);
  });
  it('is more damped for less overshoot, less for more, and finite for none or all of it', () => {
    const damped = (wanted: number, overshoot: number) =>
      roughly('overshoot', wanted, feel({ overshoot })).damped;
    expect(damped(20, 20)).toBe(1);
    expect(damped(5, 20)).toBeGreaterThan(1);
    expect(damped(60, 20)).toBeLessThan(1);
    for (const wanted of [0, 100, 500]) expect(Number.isFinite(damped(wanted, 0))).toBe(true);
    expect(roughly('overshoot', 5, feel()).faster).toBe(1);
  });
});

describe('what several parts have in common', () => {
  const common = (key: Readout, ...values: number[]) =>
    commonReadout(
      values.map((v) => feel({ [key]: v })),
      key,
    );
  it('is their mean where they are alike within 5 %', () => {
    expect(common('lag', 4, 4.1)).toBeCloseTo(4.05, 9);
    expect(common('overshoot', 0, 0.04)).toBeCloseTo(0.02, 9);
  });
  it('is nothing where they differ, or where nobody settles', () => {
    expect(common('lag', 4, 5)).toBeNull();
    expect(common('settle', Infinity, Infinity)).toBeNull();
    expect(commonReadout([], 'lag')).toBeNull();
  });
  it('is that of the others where one never settles', () => {
    expect(common('settle', 12, Infinity)).toBe(12);
  });
});
