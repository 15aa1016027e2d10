import { describe, expect, it } from 'vitest';
import { ballSheet } from '../../../truth/balloonRows';
import { makeSheet, pocketsOf, type Sheet } from '../../sheets/index';
import { makeCloth } from './cloth';
import { Filling } from './filling';
import { tethersOf } from './tethers';

const [RADIUS, STRING, EDGES] = [0.12, 0.4, 10] as const;

/**
 * Balls on strings that end in the ball's lowest point; the anchors stand side by side. A string is a strip 4 mm wide,
 * or a row of lines.
 */
function balloons(roots: readonly number[], asLines = false): Sheet {
  const ball = ballSheet(8, RADIUS);
  const places: number[] = [];
  const triangles: number[] = [];
  const lines: number[] = [];
  for (const x of roots) {
    const base = places.length / 3;
    for (let o = 0; o < ball.rest.length; o += 3)
      places.push(ball.rest[o]! + x, ball.rest[o + 1]! + STRING + RADIUS, ball.rest[o + 2]!);
    triangles.push(...Array.from(ball.triangles, (p) => base + p));
    const neck = base + ball.points - 1;
    const first = places.length / 3;
    if (asLines) {
      for (let k = 0; k < EDGES; k++) places.push(x, (STRING * k) / EDGES, 0);
      for (let k = 0; k < EDGES; k++) lines.push(first + k, k + 1 < EDGES ? first + k + 1 : neck);
      continue;
    }
    for (let k = 0; k < EDGES; k++)
      for (const side of [-0.002, 0.002]) places.push(x + side, (STRING * k) / EDGES, 0);
    for (let k = 0; k + 1 < EDGES; k++) {
      const a = first + 2 * k;
      triangles.push(a, a + 1, a + 3, a, a + 3, a + 2);
    }
    const last = first + 2 * (EDGES - 1);
    triangles.push(last, last + 1, neck);
  }
  return makeSheet(Float64Array.from(places), triangles, lines);
}

const heldOf = (sheet: Sheet) =>
  Uint8Array.from({ length: sheet.points }, (_, p) => Number(sheet.rest[3 * p + 1] === 0));

/** Balloons whose anchors are moved along x, after a while of standing; visits each step. */
function fly(
  roots: readonly number[],
  seconds: number,
  visit: (x: Float64Array) => void,
  fps = 60,
  sheet = balloons(roots),
): Float64Array {
  const rate = 360;
  const cloth = makeCloth({
    ...{ sheet, h: 1 / rate, bodies: [], held: heldOf(sheet), selfContact: false, arena: null },
    matter: { weight: 0.05, stretch: 0, compression: 0, rigidity: 1e-6 },
    skin: () => ({ thickness: 0, friction: 0 }),
  });
  // As the preset damps its swing.
  cloth.damp.fill(1);
  cloth.begin(sheet.rest, new Float64Array(sheet.rest.length));
  const at = (t: number) =>
    sheet.rest.map((x, o) => (o % 3 === 0 ? x + 0.2 * Math.sin(2 * Math.min(t, 3)) : x));
  const each = rate / fps;
  for (let k = 0; k < seconds * rate; k++) {
    cloth.step({
      ...{ before: at((k - (k % each)) / rate), now: at((k - (k % each) + each) / rate) },
      ...{ from: (k % each) / each, to: ((k % each) + 1) / each, fresh: k % each === 0 },
      gravity: [0, -9.81, 0],
      sail: { drag: 1, lift: 0, density: 1.2 },
      field: null,
      fill: { filling: 1.02, pressure: 2000, float: 3 },
    });
    visit(cloth.x);
  }
  return Float64Array.from(cloth.x);
}

describe('closed pieces of a sheet', () => {
  const sheet = balloons([0, 0.1]);
  const pockets = pocketsOf(sheet);

  it('are found beside strings that end in them, with what they enclose', () => {
    expect(pockets.length).toBe(2);
    // Of a ball of 8 rings.
    for (const p of pockets) expect(p.volume / ((4 / 3) * Math.PI * RADIUS ** 3)).toBeCloseTo(0.93, 1);
    const open = makeSheet(Float64Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0]), [0, 1, 2]);
    expect(pocketsOf(open)).toEqual([]);
  });

  it('hang on strings from what is held, as long as these are along their edges', () => {
    const found = tethersOf(sheet, pockets, heldOf(sheet));
    expect(found.map((t) => t.pocket)).toEqual(pockets);
    for (const t of found) {
      expect(t.length).toBeCloseTo(STRING, 4);
      expect(sheet.rest[3 * t.neck + 1]).toBeCloseTo(STRING, 9);
      expect(t.points.length).toBe(2 * (EDGES - 1));
    }
    expect(tethersOf(sheet, pockets, new Uint8Array(sheet.points))).toEqual([]);
    // One of them is held at its top.
    const top = heldOf(sheet);
    top[pockets[0]!.points[0]!] = 1;
    expect(tethersOf(sheet, pockets, top).map((t) => t.pocket)).toEqual([pockets[1]]);
  });

  it('come to the volume they are filled to from any shape, and move nothing else', () => {
    const w = new Float64Array(sheet.points).fill(1000);
    const filling = new Filling(
      sheet,
      w,
      w.map((x) => 1 / x),
      new Float64Array(sheet.points),
    );
    const x = sheet.rest.map((p, o) => (o % 3 === 1 ? 0.7 * p : p));
    const before = Float64Array.from(x);
    for (let k = 0; k < 20; k++) filling.keep(x, { filling: 1.2, pressure: 1e9, float: 0 }, 1);
    for (const v of filling.volumes(x)) expect(v).toBeCloseTo(1.2, 4);
    const inside = new Set(pockets.flatMap((p) => [...p.points]));
    for (let p = 0; p < sheet.points; p++)
      if (!inside.has(p))
        expect([...x.subarray(3 * p, 3 * p + 3)]).toEqual([...before.subarray(3 * p, 3 * p + 3)]);
  });
});

describe('balloons on strings', () => {
  const roots = [0, 0.03, 0.06];
  const sheet = balloons(roots);
  const found = tethersOf(sheet, pocketsOf(sheet), heldOf(sheet));
  const stretch = (x: Float64Array) =>
    Math.max(
      ...found.map((t) => {
        const rail = [t.anchor, ...[...t.points].filter((p) => (p - t.anchor) % 2 === 0), t.neck];
        const long = rail
          .slice(1)
          .reduce(
            (s, p, k) => s + Math.hypot(...[0, 1, 2].map((a) => x[3 * p + a]! - x[3 * rail[k]! + a]!)),
            0,
          );
        return long / STRING - 1;
      }),
    );
  const middles = (x: Float64Array) =>
    found.map(({ pocket: { points } }) =>
      [0, 1, 2].map((a) => points.reduce((s, p) => s + x[3 * p + a]! / points.length, 0)),
    );

  it('float, follow what they hang on, do not overlap, and their strings keep their length', () => {
    let [longest, nearest, n] = [0, Infinity, 0];
    const last = fly(roots, 4, (x) => {
      // The first second they part.
      if (n++ < 360) return;
      longest = Math.max(longest, stretch(x));
      const m = middles(x);
      m.forEach((p, i) =>
        m
          .slice(0, i)
          .forEach((q) => (nearest = Math.min(nearest, Math.hypot(...p.map((y, a) => y - q[a]!))))),
      );
    });
    expect(longest).toBeLessThan(0.005);
    expect(nearest).toBeGreaterThan(1.8 * RADIUS);
    for (const [x, y] of middles(last)) {
      expect(y!).toBeGreaterThan(0.8 * STRING);
      expect(Math.abs(x! - 0.2 * Math.sin(6))).toBeLessThan(0.4);
    }
  });

  it('hang on lines as on strips', () => {
    const lined = balloons([0], true);
    const [string, ...more] = tethersOf(lined, pocketsOf(lined), heldOf(lined));
    expect(more).toEqual([]);
    expect(string!.length).toBeCloseTo(STRING, 9);
    const row = [string!.anchor, ...string!.points, string!.neck];
    expect(row.length).toBe(EDGES + 1);
    let longest = 0;
    const last = fly(
      [0],
      4,
      (x) => {
        const parts = row
          .slice(1)
          .map((p, k) => Math.hypot(...[0, 1, 2].map((a) => x[3 * p + a]! - x[3 * row[k]! + a]!)));
        longest = Math.max(longest, parts.reduce((s, l) => s + l, 0) / STRING - 1);
      },
      60,
      lined,
    );
    expect(longest).toBeLessThan(0.005);
    expect(last[3 * string!.neck + 1]!).toBeGreaterThan(0.8 * STRING);
    expect([...last].every(Number.isFinite)).toBe(true);
  });

  it('go the same way at 24 and at 60 frames a second', () => {
    const [a, b] = [24, 60].map((fps) => middles(fly([0], 3, () => undefined, fps))[0]!);
    expect(Math.hypot(...a!.map((x, k) => x - b![k]!))).toBeLessThan(0.01 * STRING);
  });
});
