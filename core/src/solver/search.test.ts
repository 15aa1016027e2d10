import { describe, expect, it } from 'vitest';
import { mulberry32, quatNormalise } from '../math/index';
import { makeBody, type Body } from './bodies';
import { lumpMasses, NO_FEEL } from './calibrate';
import { chainNumbers, makeArena, type Arena } from './arena';
import { makeChainSolver } from './chain';
import { CONTACT, CONTACT_ROW } from './contactRow';
import { FOUND, FOUND_ROW, makeSearch, OUT, searchNumbers } from './search';
import type { Shape } from './shapes';
import { makeSurface } from './surface';
import { CAME, makeTouches } from './touches';

const random = mulberry32(77);
const around = (size: number) => size * (2 * random() - 1);

/** A tetrahedron. */
function surface(): Shape {
  const made = makeSurface(
    Float64Array.of(0.2, 0.2, 0.2, -0.2, -0.2, 0.2, -0.2, 0.2, -0.2, 0.2, -0.2, -0.2),
    Uint32Array.of(0, 1, 3, 0, 2, 1, 0, 3, 2, 1, 2, 3),
  );
  made.refit();
  return { kind: 'mesh', surface: made };
}
const shapes = (): Shape[] => [
  { kind: 'ground' },
  { kind: 'sphere', radius: 0.05 + 0.1 * random() },
  { kind: 'capsule', radius: 0.05, half: 0.2 * random() },
  { kind: 'box', half: [0.1 * random() + 0.01, 0.1, 0.2 * random() + 0.01] },
  surface(),
];

/** Puts a body somewhere, on its way somewhere near. */
function scatter(body: Body): void {
  for (const placed of [body.before, body.now]) {
    for (let c = 0; c < 7; c++) placed[c] = around(c < 3 ? 0.4 : 1);
    quatNormalise(placed, 3);
  }
  for (let c = 0; c < 7; c++) body.now[c] = body.before[c]! + 0.05 * (body.now[c]! - body.before[c]!);
  quatNormalise(body.now, 3);
}

describe('the search for what a chain may touch', () => {
  it('gives the bits of the reference when it is compiled, whatever the shapes', () => {
    let found = 0;
    let pressing = 0;
    for (let n = 0; n < 80; n++) {
      const links = 1 + Math.floor(random() * 12);
      const lengths = new Float64Array(links).fill(0.6 / links);
      const thickness = Float64Array.from(lengths, () => 0.02 * random());
      const bodies = shapes().map((s, i) =>
        makeBody(s, 0.5, 0, i === 1 ? { mass: 1, velocity: [0, 0, 0], spin: [0, 0, 0] } : null),
      );
      const made = (memory: Arena | null) => {
        const matter = { lengths, masses: lumpMasses(lengths, 0.1) };
        const solver = makeChainSolver(matter, NO_FEEL, 1 / 120, memory);
        const search = makeSearch(solver, bodies, 0.6, memory);
        return { solver, search, touches: makeTouches(solver, search, bodies.length, 0.6, memory) };
      };
      const a = made(null);
      const b = made(makeArena(chainNumbers(links) + searchNumbers(links, bodies.length)));
      for (let k = 0; k < 12; k++) {
        bodies.forEach(scatter);
        for (let i = 0; i < 3 * links + 3; i++) {
          a.solver.x[i] = i < 3 ? around(0.2) : a.solver.x[i - 3]! + around(0.5 / links);
          a.solver.v[i] = around(6);
        }
        for (let c = 0; c < 3; c++) a.solver.source[c] = a.solver.x[c]! + around(0.01);
        a.search.pressed.forEach((_, i, all) => (all[i] = Math.floor(random() * 3)));
        b.solver.x.set(a.solver.x);
        b.solver.v.set(a.solver.v);
        b.solver.source.set(a.solver.source);
        b.search.pressed.set(a.search.pressed);
        const [rows, same] = [a, b].map(({ search }) => search.run(thickness, 1 / 120));
        expect(same).toBe(rows);
        found += rows!;
        const all = ({ search }: typeof a) => [
          ...search.found.subarray(0, rows! * FOUND_ROW),
          ...[search.pressed, search.minded, search.out].flatMap((x) => [...x]),
        ];
        expect(all(b), `trial ${n}, step ${k}`).toEqual(all(a));
        // The rows made of it, and what is read from them when some press after a step.
        for (const { solver, search, touches } of [a, b]) {
          for (let i = 0; i < search.loads.length; i++) search.loads[i] = (i * 7) % 5;
          touches.write(rows!, k % 2 ? 1 : 2, 1 / 120, thickness, k % 3 === 0);
          for (let r = 0; r < rows!; r++) solver.contact[r * CONTACT_ROW + CONTACT.load] = (r + k) % 3;
          solver.x.forEach((x, i, list) => (list[i] = x + 0.01 * Math.sin(i)));
          touches.read();
        }
        const written = ({ solver, search, touches }: typeof a) =>
          [solver.contact, touches.side, touches.came, touches.depths, search.touched].map((x) => [...x]);
        expect(written(b), `rows of trial ${n}, step ${k}`).toEqual(written(a));
        pressing += a.touches.came[CAME.touching]!;
      }
    }
    expect(found).toBeGreaterThan(1000);
    expect(pressing).toBeGreaterThan(500);
  });

  it('finds the same whether it knows how far things were before or looks for the first time', () => {
    let found = 0;
    let passed = 0;
    for (let n = 0; n < 30; n++) {
      const links = 2 + Math.floor(random() * 10);
      const lengths = new Float64Array(links).fill(0.6 / links);
      const thickness = Float64Array.from(lengths, () => 0.01 + 0.02 * random());
      const bodies = shapes().map((s) => makeBody(s, 0.5, 0, null));
      bodies.forEach((body, b) => {
        scatter(body);
        if (b % 2) body.now.set(body.before);
        body.fixed = b % 2 === 1;
      });
      const matter = { lengths, masses: lumpMasses(lengths, 0.1) };
      const solver = makeChainSolver(matter, NO_FEEL, 1 / 120);
      const knowing = makeSearch(solver, bodies, 0.6, null);
      for (let i = 0; i < 3 * links + 3; i++) {
        solver.x[i] = i < 3 ? around(0.2) : solver.x[i - 3]! + around(0.5 / links);
        solver.v[i] = around(2);
      }
      for (let k = 0; k < 40; k++) {
        solver.source.set(solver.x.subarray(0, 3));
        const fresh = makeSearch(solver, bodies, 0.6, null);
        fresh.pressed.set(knowing.pressed);
        const rows = fresh.run(thickness, 1 / 120);
        expect(knowing.run(thickness, 1 / 120)).toBe(rows);
        const all = ({ found, pressed, out }: typeof fresh) =>
          [found.subarray(0, rows * FOUND_ROW), pressed, out].map((x) => [...x]);
        expect(all(knowing), `trial ${n}, step ${k}`).toEqual(all(fresh));
        found += rows;
        passed += links * bodies.length - rows;
        // Everything goes on a little, the chain in turning ways.
        for (let i = 0; i < 3 * links + 3; i++) {
          solver.x[i] = solver.x[i]! + solver.v[i]! / 120;
          solver.v[i] = 0.95 * solver.v[i]! + around(0.5);
        }
        for (const body of bodies) {
          if (body.fixed) continue;
          const step = Float64Array.from(body.now, (x, c) => x - body.before[c]!);
          body.before.set(body.now);
          for (let c = 0; c < 7; c++) body.now[c] = body.now[c]! + 0.9 * step[c]! + around(0.002);
          quatNormalise(body.now, 3);
        }
      }
    }
    expect(found).toBeGreaterThan(1000);
    expect(passed).toBeGreaterThan(10000);
  });

  it('finds what a link flies through within the step, and where it first touches', () => {
    const lengths = Float64Array.of(0.1);
    const solver = makeChainSolver({ lengths, masses: Float64Array.of(0.1) }, NO_FEEL, 1 / 100);
    const ball = makeBody({ kind: 'sphere', radius: 0.02 }, 0, 0, null);
    const search = makeSearch(solver, [ball], 0.1, null);
    // A link along x, 0.3 m above the ball, that comes down by 0.6 m: half of the way it is in it.
    solver.x.set([-0.05, 0.3, 0, 0.05, 0.3, 0]);
    solver.v.set([0, -60, 0, 0, -60, 0]);
    solver.source.set([-0.05, -0.3, 0]);
    expect(search.run(Float64Array.of(0.005), 1 / 100)).toBe(1);
    expect(search.found[FOUND.first]).toBeCloseTo((0.3 - 0.025) / 0.6, 2);
    expect([...search.found.subarray(FOUND.near + 2, FOUND.near + 5)].map((x) => Math.round(x))).toEqual([
      0, 1, 0,
    ]);
    expect(search.out[OUT.hurry]).toBeGreaterThan(5);
    // The same far away finds nothing.
    ball.before[2] = ball.now[2] = 2;
    expect(search.run(Float64Array.of(0.005), 1 / 100)).toBe(0);
  });
});
