import { describe, expect, it } from 'vitest';
import { benchCloth, centreOf, lengthened, seeded, squareSheet } from '../../../truth/clothBench';
import { makeBody } from '../index';
import { findPaths, makeSheet } from '../../sheets/index';

/** A cone frustum of rings with two closed rims, as a garment has. */
function skirt(): ReturnType<typeof makeSheet> {
  const places: number[] = [];
  const indices: number[] = [];
  for (let r = 0; r < 8; r++)
    for (let c = 0; c < 24; c++) {
      const a = (2 * Math.PI * (c + 0.5 * (r & 1))) / 24;
      const radius = 0.1 + 0.03 * r;
      places.push(radius * Math.cos(a), -0.04 * r, radius * Math.sin(a));
      if (r === 0) continue;
      const [p, q] = [24 * (r - 1) + c, 24 * (r - 1) + ((c + 1) % 24)];
      const [s, t] = [24 * r + c, 24 * r + ((c + 1) % 24)];
      indices.push(...(r & 1 ? [p, q, s, q, t, s] : [p, t, s, p, q, t]));
    }
  return makeSheet(Float64Array.from(places), indices);
}

describe('a sheet from a mesh', () => {
  it('welds seams, leaves out doubled corners and triangles without an area, and counts what is odd', () => {
    const places = Float64Array.from([
      ...[0, 0, 0, 1, 0, 0, 0, 1, 0],
      // A seam: two of these stand where two of the first triangle do.
      ...[1, 0, 0, 0, 1, 0, 1, 1, 0],
      // A vertex of nothing.
      ...[5, 5, 5],
    ]);
    const sheet = makeSheet(places, [0, 1, 2, 3, 5, 4, 0, 0, 1, 0, 1, 3, 0, 1, 5, 1, 0, 2]);
    expect(sheet.points).toBe(5);
    expect([...sheet.pointOf]).toEqual([0, 1, 2, 1, 2, 3, 4]);
    expect(sheet.loose).toBe(1);
    // Two edges of the first triangle have three triangles.
    expect(sheet.crowded).toBe(2);
    expect(sheet.triangles.length).toBe(12);
  });
  it('every edge is on one path, and closed rims are loops', () => {
    for (const sheet of [squareSheet(9, 1, 0), squareSheet(12, 1, 0.6), skirt()]) {
      const paths = findPaths(sheet);
      const edges = paths.flatMap((p) => [...p.edges]).sort((a, b) => a - b);
      expect(edges).toEqual(Array.from(sheet.length.keys()));
      for (const p of paths) {
        expect(p.points.length).toBe(p.edges.length + (p.closed ? 0 : 1));
        expect(new Set(p.points).size).toBe(p.points.length);
      }
    }
    // The corners of a square break its rim.
    expect(findPaths(squareSheet(9, 1, 0)).filter((p) => p.closed).length).toBe(0);
    expect(
      findPaths(skirt())
        .filter((p) => p.closed)
        .map((p) => p.points.length),
    ).toEqual([24, 24]);
  });
});

describe('a sheet in motion', () => {
  it('held points follow their animation to the bit, and a leash is never passed', () => {
    const sheet = squareSheet(9, 0.5, 0);
    const b = benchCloth(sheet, (i) => i < 9, 240);
    b.cloth.leash.fill(0.05);
    for (let k = 0; k < 240; k++) {
      b.env.before = b.env.now;
      b.env.now = sheet.rest.map((x, i) => x + (i % 3 === 2 ? 0.3 * Math.sin(0.05 * (k + 1)) : 0));
      b.step();
      for (let i = 0; i < 27; i++) expect(b.cloth.x[i]).toBe(b.env.now[i]);
      for (let i = 0; i < sheet.points; i++) {
        const d = [0, 1, 2].map((a) => b.cloth.x[3 * i + a]! - b.env.now[3 * i + a]!);
        expect(Math.hypot(...d)).toBeLessThanOrEqual(0.05 * (1 + 1e-12));
      }
    }
  });
  it('a firmer hold stays nearer to the animation', () => {
    const off = (hertz: number) => {
      const b = benchCloth(squareSheet(9, 0.5, 0, [0, 0, 1]), (i) => i < 9, 240);
      const omega = 2 * Math.PI * hertz;
      b.cloth.pull.fill(omega * omega);
      b.cloth.damp.fill(2 * omega);
      b.step(480);
      return -centreOf(b.cloth)[1];
    };
    const [none, soft, firm] = [off(0.01), off(2), off(6)];
    expect(soft).toBeLessThan(0.7 * none);
    expect(firm).toBeLessThan(0.2 * soft);
  });
  it('an inner leash keeps every point out of its animation, however it is blown', () => {
    const deepest = (inner: number) => {
      const b = benchCloth(squareSheet(9, 0.5, 0), (i) => i < 9, 240);
      for (let o = 2; o < b.cloth.outward.length; o += 3) b.cloth.outward[o] = 1;
      b.cloth.inner.fill(inner);
      b.env.sail = { drag: 1, lift: 0.5, density: 1.2 };
      b.env.field = (out) => void (out[2] = -8);
      b.step(240);
      return Math.min(...b.cloth.x.filter((_, k) => k % 3 === 2));
    };
    expect(deepest(Infinity)).toBeLessThan(-0.1);
    expect(deepest(0.03)).toBeCloseTo(-0.03, 12);
    expect(deepest(0)).toBeGreaterThan(-1e-12);
  });
  it('with less shear a sheet that hangs by a corner skews more, along its threads it gives no more', () => {
    const sheet = squareSheet(9, 0.5, 0);
    const diagonal = sheet.length.map((l) => Number(l > 0.07));
    const low = (shear: number, held: (i: number) => boolean) => {
      const matter = { stretch: 60, compression: 60, shear, diagonal };
      const b = benchCloth(sheet, held, 480, { matter });
      b.cloth.damp.fill(8);
      b.step(1440);
      return -Math.min(...b.cloth.x.filter((_, k) => k % 3 === 1));
    };
    const corner = (i: number) => i === 0;
    const edge = (i: number) => i < 9;
    expect(low(0.02, corner)).toBeGreaterThan(1.02 * low(1, corner));
    expect(low(0.02, edge) / low(1, edge)).toBeCloseTo(1, 1);
  });
  it('what bends back to flat unrolls, what bends back to its shape stays', () => {
    const flat = squareSheet(9, 0.5, 0);
    // A quarter of a tube of the same area.
    const radius = 0.5 / (Math.PI / 2);
    const rolled = flat.rest.slice();
    for (let o = 0; o < rolled.length; o += 3) {
      const angle = -flat.rest[o + 1]! / radius;
      rolled[o + 1] = -radius * Math.sin(angle);
      rolled[o + 2] = radius * (1 - Math.cos(angle));
    }
    const corners = Array.from(flat.triangles);
    const reach = (is: boolean) => {
      const b = benchCloth(makeSheet(rolled, corners), (i) => i < 9, 240, {
        matter: { rigidity: 3e-3, flat: is },
      });
      b.env.gravity = [0, 0, 0];
      b.cloth.damp.fill(4);
      b.step(1200);
      return Math.abs(b.cloth.x[3 * 80 + 1]!);
    };
    expect(reach(false)).toBeCloseTo(radius, 2);
    expect(reach(true)).toBeGreaterThan(0.4);
  });
  it('let go, its centre falls as a stone does', () => {
    const b = benchCloth(squareSheet(9, 0.5, 0.4), () => false, 480);
    const [, from] = centreOf(b.cloth);
    b.step(480);
    expect(from - centreOf(b.cloth)[1]).toBeCloseTo(9.81 / 2, 2);
  });
  it('a sheet across the wind comes to the speed of the wind’s weight', () => {
    const b = benchCloth(squareSheet(9, 0.5, 0, [0, 0, 1]), () => false, 480);
    b.env.sail = { drag: 1, lift: 0, density: 1.2 };
    b.step(480 * 4);
    // ½ ρ v² = w g for a sheet that falls flat.
    expect(-b.cloth.v[1]!).toBeCloseTo(Math.sqrt((2 * 0.3 * 9.81) / 1.2), 2);
  });
  it('a garment rests on its neck rim without a mean stretch of one per cent', () => {
    const sheet = skirt();
    const ball = makeBody({ kind: 'sphere', radius: 0.13 }, 0.6, 0, null);
    for (const p of [ball.before, ball.now]) p[1] = -0.1;
    ball.fixed = true;
    const b = benchCloth(sheet, () => false, 720, { bodies: [ball], friction: 0.6 });
    b.cloth.damp.fill(3);
    b.step(720 * 3);
    expect(lengthened(b.cloth).mean).toBeLessThan(0.01);
    // It hangs where it was put, and nothing is inside the ball.
    expect(Math.abs(centreOf(b.cloth)[1] - -0.14)).toBeLessThan(0.08);
    for (let i = 0; i < b.cloth.x.length; i += 3)
      expect(Math.hypot(b.cloth.x[i]!, b.cloth.x[i + 1]! + 0.1, b.cloth.x[i + 2]!)).toBeGreaterThan(0.1335);
  });
  it('what begins inside a body is let out slowly', () => {
    const ball = makeBody({ kind: 'sphere', radius: 0.2 }, 0.4, 0, null);
    ball.fixed = true;
    for (const p of [ball.before, ball.now]) p.set([0.25, -0.17, 0.25], 0);
    const b = benchCloth(squareSheet(9, 0.5, 0, [0, 0, 1]), () => false, 480, { bodies: [ball] });
    b.env.gravity = [0, 0, 0];
    let fastest = 0;
    for (let k = 0; k < 480; k++) {
      b.step();
      for (const v of b.cloth.v) fastest = Math.max(fastest, Math.abs(v));
    }
    expect(fastest).toBeLessThan(2);
    for (let i = 0; i < b.cloth.x.length; i += 3)
      expect(
        Math.hypot(b.cloth.x[i]! - 0.25, b.cloth.x[i + 1]! + 0.17, b.cloth.x[i + 2]! - 0.25),
      ).toBeGreaterThan(0.2);
  });
});

/** A jittered sheet in gusts that falls on a turning ball: everything at work. */
function gusty(plain: boolean) {
  const ball = makeBody({ kind: 'sphere', radius: 0.15 }, 0.6, 0, null);
  const b = benchCloth(squareSheet(11, 0.5, 0.4, [0, -0.2, 0.98]), (i) => i < 5, 240, {
    ...{ plain, bodies: [ball], matter: { rigidity: 3e-4 } },
  });
  for (const p of [ball.before, ball.now]) p.set([0.25, -0.25, 0.2, 0, 0, 0, 1]);
  b.env.sail = { drag: 1, lift: 0.5, density: 1.2 };
  b.cloth.damp.fill(0.2);
  b.cloth.leash.fill(0.3);
  let k = 0;
  b.env.field = (out, x) => {
    out[2] = 4 + 3 * Math.sin(9 * x + 0.1 * k);
  };
  const step = (): void => {
    k++;
    ball.before.set(ball.now);
    ball.now[2] = 0.2 + 0.1 * Math.sin(0.05 * k);
    b.step();
  };
  return { ...b, step, at: () => k, put: (to: number) => (k = to), ball };
}

it('the compiled kernel and the TypeScript it is made from give the same bits', () => {
  const [a, b] = [gusty(false), gusty(true)];
  for (let k = 0; k < 200; k++) {
    a.step();
    b.step();
  }
  expect([...a.cloth.x]).toEqual([...b.cloth.x]);
  expect([...a.cloth.v]).toEqual([...b.cloth.v]);
});

it('goes on to the same bits from what it remembers, also between two looks at the wind', () => {
  const a = gusty(false);
  for (let k = 0; k < 101; k++) a.step();
  const kept = [...a.cloth.moving, ...a.cloth.asides].map((m) => Float64Array.from(m));
  const [at, ball] = [a.at(), Float64Array.from(a.ball.now)];
  for (let k = 0; k < 60; k++) a.step();
  const after = Float64Array.from(a.cloth.x);
  [...a.cloth.moving, ...a.cloth.asides].forEach((m, i) => m.set(kept[i]!));
  a.put(at);
  a.ball.now.set(ball);
  for (let k = 0; k < 60; k++) a.step();
  expect([...a.cloth.x]).toEqual([...after]);
});

it('meshes of any triangles among bodies and wind stay finite', () => {
  const random = seeded(7);
  for (let round = 0; round < 60; round++) {
    const count = 1 + Math.floor(40 * random());
    const places = Float64Array.from({ length: 3 * count }, () => (random() < 0.1 ? 0 : random() - 0.5));
    const indices = Array.from({ length: 3 * Math.floor(60 * random()) }, () => Math.floor(count * random()));
    const sheet = makeSheet(places, indices);
    const body = makeBody({ kind: 'box', half: [0.2, 0.1, 0.3] }, random(), 0, null);
    const b = benchCloth(sheet, () => random() < 0.2, 120, {
      bodies: [body],
      matter: {
        rigidity: random() < 0.5 ? 0 : 10 ** (-6 + 4 * random()),
        stretch: random() < 0.5 ? 0 : 3000,
      },
    });
    b.env.sail = { drag: random(), lift: random(), density: 1.2 };
    b.env.field = (out) => void out.fill(20 * (random() - 0.5));
    for (let k = 0; k < 60; k++) {
      body.before.set(body.now);
      body.now[0]! += 0.02 * (random() - 0.5);
      b.step();
    }
    expect([...b.cloth.x, ...b.cloth.v].every(Number.isFinite)).toBe(true);
  }
});
