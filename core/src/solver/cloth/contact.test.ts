import { describe, expect, it } from 'vitest';
import { benchCloth, squareSheet } from '../../../truth/clothBench';
import { makeBody, makeSurface, type Body } from '../index';

/** A ball of triangles about a place, rings of 24. */
function ballMesh(radius: number, rings: number, about: readonly [number, number, number]) {
  const places: number[] = [];
  const indices: number[] = [];
  const around = 24;
  for (let r = 0; r <= rings; r++)
    for (let c = 0; c < around; c++) {
      const [polar, turn] = [(Math.PI * r) / rings, (2 * Math.PI * c) / around];
      places.push(
        about[0] + radius * Math.sin(polar) * Math.sin(turn),
        about[1] + radius * Math.cos(polar),
        about[2] + radius * Math.sin(polar) * Math.cos(turn),
      );
      if (r === 0) continue;
      const [p, q] = [around * (r - 1) + c, around * (r - 1) + ((c + 1) % around)];
      if (r > 1) indices.push(p, p + around, q);
      if (r < rings) indices.push(q, p + around, q + around);
    }
  return { places, indices };
}

/** One body of several balls. */
function meshBody(...balls: readonly ReturnType<typeof ballMesh>[]): Body {
  const places: number[] = [];
  const indices: number[] = [];
  for (const b of balls) {
    indices.push(...b.indices.map((i) => i + places.length / 3));
    places.push(...b.places);
  }
  return makeBody(
    { kind: 'mesh', surface: makeSurface(Float64Array.from(places), Uint32Array.from(indices)) },
    0.6,
    0,
    null,
  );
}

/** How far the nearest point of a sheet is from places, m. */
const nearest = (x: Float64Array, to: readonly number[]): number => {
  let least = Infinity;
  for (let o = 0; o < x.length; o += 3)
    least = Math.min(least, Math.hypot(x[o]! - to[0]!, x[o + 1]! - to[1]!, x[o + 2]! - to[2]!));
  return least;
};

describe('a sheet and a mesh', () => {
  it('comes to rest its thickness away from it', () => {
    const body = meshBody(ballMesh(0.15, 16, [0.25, -0.16, 0.25]));
    const b = benchCloth(squareSheet(17, 0.5, 0.3, [0, 0, 1]), () => false, 480, {
      ...{ bodies: [body], thickness: 0.004 },
    });
    b.cloth.damp.fill(6);
    let least = Infinity;
    for (let k = 0; k < 480 * 2; k++) {
      b.step();
      least = Math.min(least, nearest(b.cloth.x, [0.25, -0.16, 0.25]));
    }
    // Its faces stand inside the ball they make by as much as 2 mm.
    expect(least).toBeGreaterThan(0.15 - 0.0021 + 0.0039);
    expect(nearest(b.cloth.x, [0.25, -0.16, 0.25])).toBeLessThan(0.156);
    expect(b.cloth.v.reduce((m, v) => Math.max(m, Math.abs(v)), 0)).toBeLessThan(0.3);
  });
  it('a fast one does not pass through it', () => {
    const body = meshBody(ballMesh(0.03, 12, [0.25, -0.3, 0.25]));
    const sheet = squareSheet(25, 0.5, 0.3, [0, 0, 1]);
    const b = benchCloth(sheet, () => false, 960, { bodies: [body] });
    b.cloth.begin(
      sheet.rest,
      Float64Array.from(sheet.rest, (_, k) => (k % 3 === 1 ? -15 : 0)),
    );
    let least = Infinity;
    for (let k = 0; k < 96; k++) {
      b.step();
      least = Math.min(least, nearest(b.cloth.x, [0.25, -0.3, 0.25]));
    }
    expect(least).toBeGreaterThan(0.028);
    expect(least).toBeLessThan(0.05);
  });
  it('finds another part of it that comes near', () => {
    const apart = [0.1, -0.11, 0.25] as const;
    const body = meshBody(ballMesh(0.1, 12, apart), ballMesh(0.1, 12, [0.42, -0.35, 0.25]));
    const b = benchCloth(squareSheet(17, 0.5, 0, [0, 0, 1]), () => false, 480, { bodies: [body] });
    b.cloth.damp.fill(3);
    const { surface } = body.shape as Extract<Body['shape'], { kind: 'mesh' }>;
    let least = Infinity;
    let touched = false;
    for (let k = 0; k < 480; k++) {
      b.env.fresh = k % 12 === 0;
      surface.earlier.set(surface.vertices);
      // The second ball rises against the sheet that hangs from the first.
      if (k < 240)
        for (let v = surface.vertices.length / 2 + 1; v < surface.vertices.length; v += 3)
          surface.vertices[v]! += 0.25 / 240;
      surface.refit();
      b.step();
      const up = -0.35 + (0.25 * Math.min(240, k + 1)) / 240;
      const second = nearest(b.cloth.x, [0.42, up, 0.25]);
      touched ||= second < 0.106;
      least = Math.min(least, nearest(b.cloth.x, apart), second);
    }
    expect(least).toBeGreaterThan(0.1);
    expect(touched).toBe(true);
  });
});

it('compiled contact with a mesh, a box and itself gives the bits of the TypeScript it is made from', () => {
  const run = (plain: boolean) => {
    const ball = meshBody(ballMesh(0.15, 12, [0.25, -0.16, 0.25]));
    const box = makeBody({ kind: 'box', half: [0.05, 0.05, 0.05] }, 0.5, 0, null);
    const b = benchCloth(squareSheet(15, 0.5, 0.3, [0, 0, 1]), (i) => i < 2, 480, {
      ...{ bodies: [ball, box], plain, self: true },
    });
    let pressed = 0;
    for (let k = 0; k < 300; k++) {
      b.env.fresh = k % 8 === 0;
      for (const body of [ball, box]) body.before.set(body.now);
      ball.now[0] = 0.05 * Math.sin(0.03 * k);
      box.now.set([0.1, -0.2 + 0.0008 * k, 0.4]);
      pressed += b.cloth.step(b.env).pressing;
    }
    return { x: [...b.cloth.x], pressed };
  };
  const [plain, compiled] = [run(true), run(false)];
  expect(compiled.x).toEqual(plain.x);
  expect(compiled.pressed).toBe(plain.pressed);
  expect(plain.pressed).toBeGreaterThan(1000);
});

it('layers of a sheet keep apart where it minds itself, and pass where it does not', () => {
  const n = 21;
  /** Least distance of points of one half from points of the other, away from the middle row that is held. */
  const closest = (self: boolean): number => {
    const b = benchCloth(squareSheet(n, 0.5, 0.2, [0, 0, 1]), (i) => Math.floor(i / n) === 10, 480, { self });
    b.cloth.damp.fill(1);
    let least = Infinity;
    for (let k = 0; k < 480; k++) {
      b.env.fresh = k % 16 === 0;
      b.step();
      for (let i = 0; i < 7 * n; i++)
        least = Math.min(
          least,
          nearest(b.cloth.x.subarray(3 * 14 * n), [...b.cloth.x.subarray(3 * i, 3 * i + 3)]),
        );
    }
    return least;
  };
  const edge = 0.025;
  expect(closest(false)).toBeLessThan(0.3 * edge);
  expect(closest(true)).toBeGreaterThan(0.6 * edge);
});
