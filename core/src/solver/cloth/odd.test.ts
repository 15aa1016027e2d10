import { describe, expect, it } from 'vitest';
import { benchCloth, squareSheet } from '../../../truth/clothBench';
import { makeSheet, type Sheet } from '../../sheets/index';
import { makeBody, makeSurface, type Body } from '../index';

/** A grid of n × n places 1/(n − 1) apart, level, with its triangles. */
function grid(n: number): { places: number[]; indices: number[] } {
  const places: number[] = [];
  const indices: number[] = [];
  for (let r = 0; r < n; r++)
    for (let c = 0; c < n; c++) {
      places.push(c / (n - 1), 0, r / (n - 1));
      const p = r * n + c;
      if (r < n - 1 && c < n - 1) indices.push(p, p + n, p + 1, p + 1, p + n, p + n + 1);
    }
  return { places, indices };
}
const made = (change: (g: ReturnType<typeof grid>) => void): Sheet => {
  const g = grid(5);
  change(g);
  return makeSheet(Float64Array.from(g.places), g.indices);
};

/** A level square of so many m at a height. */
function plate(size: number, height: number): Body {
  const at = [-size, height, -size, size, height, -size, size, height, size, -size, height, size];
  const surface = makeSurface(Float64Array.from(at), Uint32Array.of(0, 2, 1, 0, 3, 2));
  return makeBody({ kind: 'mesh', surface }, 0.4, 0, null);
}

/** Steps a sheet, its first row held, over a plate; returns whether all numbers are some, and held points stayed. */
function runs(sheet: Sheet, bodies: readonly Body[], move: (k: number) => void = () => undefined): void {
  const held = (p: number) => sheet.rest[3 * p + 2]! < 1e-9;
  const b = benchCloth(sheet, held, 360, { bodies, self: true });
  b.env.sail = { drag: 1, lift: 0.5, density: 1.2 };
  for (let k = 0; k < 240; k++) {
    b.env.fresh = k % 12 === 0;
    move(k);
    b.step();
  }
  expect([...b.cloth.x, ...b.cloth.v].every(Number.isFinite)).toBe(true);
  expect(Math.max(...b.cloth.x.map(Math.abs))).toBeLessThan(20);
  for (let p = 0; p < sheet.points; p++)
    if (held(p))
      expect([...b.cloth.x.subarray(3 * p, 3 * p + 3)]).toEqual([...sheet.rest.subarray(3 * p, 3 * p + 3)]);
}

describe('odd sheets move without a number that is none', () => {
  const cases: Record<string, (g: ReturnType<typeof grid>) => void> = {
    'faces twice over': (g) => void g.indices.push(...g.indices),
    'an edge with three faces': (g) => {
      g.places.push(0.5, 0.3, 0.5);
      g.indices.push(12, 13, 25);
    },
    'a corner on the middle of an edge': (g) => {
      g.places.push(0.125, 0, 0, 0.1, 0.2, -0.1);
      g.indices.push(25, 26, 0);
    },
    'pieces turned over': (g) => {
      for (let t = 0; t < g.indices.length; t += 6)
        [g.indices[t], g.indices[t + 1]] = [g.indices[t + 1]!, g.indices[t]!];
    },
    'faces without an area': (g) => void g.indices.push(0, 1, 2, 3, 3, 4),
    'a point of no face': (g) => void g.places.push(0.4, 0.1, 0.4),
    'a piece by itself': (g) => {
      g.places.push(2, 0, 1, 2.1, 0, 1, 2, 0, 1.1);
      g.indices.push(25, 26, 27);
    },
  };
  for (const [name, change] of Object.entries(cases)) it(name, () => runs(made(change), [plate(3, -0.4)]));
  it('one triangle', () =>
    runs(makeSheet(Float64Array.of(0, 0, 0, 1, 0, 0, 0, 0, 1), [0, 2, 1]), [plate(3, -0.4)]));
});

describe('bodies that change out of all measure leave a sheet whole', () => {
  const shapes: Record<string, (k: number, rest: Float64Array, v: Float64Array) => void> = {
    'turned inside out': (k, rest, v) => rest.forEach((x, i) => (v[i] = i % 3 === 0 && k > 60 ? -x : x)),
    'shrunk to a point and back': (k, rest, v) => rest.forEach((x, i) => (v[i] = k > 60 && k < 120 ? 0 : x)),
    'thrown about': (k, rest, v) =>
      rest.forEach((x, i) => (v[i] = x + (i % 3 === 1 ? 0.4 * Math.sin(k) : 0))),
  };
  for (const [name, shape] of Object.entries(shapes))
    it(name, () => {
      const body = plate(1.5, -0.2);
      const { surface } = body.shape as Extract<Body['shape'], { kind: 'mesh' }>;
      const rest = Float64Array.from(surface.vertices);
      runs(squareSheet(9, 1, 0.3, [0, 0, 1]), [body], (k) => {
        surface.earlier.set(surface.vertices);
        shape(k, rest, surface.vertices);
        surface.refit();
        body.bound = surface.bound();
      });
    });
});
