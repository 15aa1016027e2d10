import { describe, expect, it } from 'vitest';
import { mulberry32 } from '../math/index';
import { makeAir, type Field } from './air';
import { chainNumbers, makeArena, type Arena } from './arena';
import { lumpMasses, NO_FEEL } from './calibrate';
import { makeChainSolver } from './chain';

const random = mulberry32(12);
const around = (size: number) => size * (2 * random() - 1);

/** Air that swells along x, and a pull toward y. */
const swell: Field = (out, x, y, z) => out.set([3 * x + 1, y * z, -2 * z, 0, 0.5 - y, 0]);

function made(links: number, arena: Arena | null) {
  const lengths = new Float64Array(links).fill(0.6 / links);
  const solver = makeChainSolver({ lengths, masses: lumpMasses(lengths, 0.1) }, NO_FEEL, 1 / 120, arena);
  return { solver, air: makeAir(solver, arena) };
}

describe('air on a chain', () => {
  it('gives the bits of the reference when it is compiled, in wind and in still air', () => {
    let blown = 0;
    for (let n = 0; n < 60; n++) {
      const links = 1 + Math.floor(random() * 12);
      const [a, b] = [made(links, null), made(links, makeArena(chainNumbers(links)))];
      const each = (size: number) => Float64Array.from({ length: links }, () => size * random());
      const sail = { thickness: each(0.03), drag: each(2), lift: each(n % 3), catches: true };
      for (let k = 0; k < 4; k++) {
        for (let i = 0; i < 3 * links + 3; i++) {
          a.solver.x[i] = b.solver.x[i] = around(0.5);
          a.solver.v[i] = b.solver.v[i] = around(5);
        }
        for (const { solver, air } of [a, b]) {
          solver.fall.fill(-9.81);
          air.blow(sail, 1.2, n % 2 ? swell : null);
        }
        expect(b.solver.fall).toEqual(a.solver.fall);
        expect(b.solver.grip).toEqual(a.solver.grip);
        blown += a.solver.fall.filter((f) => Math.abs(f + 9.81) > 1e-3).length;
      }
    }
    expect(blown).toBeGreaterThan(1000);
  });

  it('carries along what is at rest in it, and holds back what moves through it', () => {
    const { solver, air } = made(4, null);
    for (let p = 0; p <= 4; p++) solver.x.set([0, -0.15 * p, 0], 3 * p);
    const sail = {
      thickness: new Float64Array(4).fill(0.01),
      drag: new Float64Array(4).fill(1),
      lift: new Float64Array(4),
      catches: true,
    };
    air.blow(sail, 1.2, (out) => out.set([2, 0, 0, 0, 0, 0]));
    expect(Math.min(...[0, 1, 2, 3].map((p) => solver.fall[3 * p]!))).toBeGreaterThan(0.01);
    expect(Math.min(...solver.grip)).toBeGreaterThan(0);
    solver.fall.fill(0);
    air.blow(sail, 1.2, (out) => out.fill(0));
    expect(Math.max(...solver.fall.map(Math.abs))).toBe(0);
    expect(Math.max(...solver.grip)).toBe(0);
  });
});
