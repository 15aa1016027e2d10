import { expect, it } from 'vitest';
import { cellAt, fillCells } from './cells';

/** A box from one corner to another, with its triangles seen from outside counter-clockwise. */
function box(lo: readonly number[], hi: readonly number[]): { places: number[]; triangles: number[] } {
  const places = Array.from({ length: 8 }, (_, c) =>
    [0, 1, 2].map((a) => (c & (1 << a) ? hi : lo)[a]!),
  ).flat();
  const faces = [
    [0, 2, 3, 1],
    [4, 5, 7, 6],
    [0, 1, 5, 4],
    [2, 6, 7, 3],
    [0, 4, 6, 2],
    [1, 3, 7, 5],
  ];
  return { places, triangles: faces.flatMap(([a, b, c, d]) => [a!, b!, c!, a!, c!, d!]) };
}

it('fills a box, and its cells by as much as is inside', () => {
  const { places, triangles } = box([0, 0, 0], [1, 0.5, 0.25]);
  const cells = fillCells(Float64Array.from(places), triangles, 0.2);
  expect(cells.counts).toEqual([5, 3, 2]);
  expect(cells.volume / 0.125).toBeCloseTo(1, 1);
  expect(cells.fill.reduce((s, f) => s + f * 0.008, 0)).toBeCloseTo(cells.volume, 6);
  expect(cellAt(cells, 0, 0, 0)).toBe(0);
  expect(cellAt(cells, 9, 9, 9)).toBe(cells.fill.length - 1);
});

it('counts pieces that lie in or across each other once, and a mesh that is there twice', () => {
  const [one, other] = [box([0, 0, 0], [1, 1, 1]), box([0.5, 0.2, 0.2], [1.5, 0.8, 0.8])];
  const both = (a: typeof one, b: typeof one) =>
    fillCells(
      Float64Array.from([...a.places, ...b.places]),
      [...a.triangles, ...b.triangles.map((t) => t + 8)],
      0.1,
    ).volume;
  expect(both(one, other)).toBeCloseTo(1 + 0.5 * 0.36, 2);
  expect(both(one, one)).toBeCloseTo(1, 4);
});

it('fills what is open between its sides, and what is flat to a little', () => {
  const { places, triangles } = box([0, 0, 0], [1, 1, 1]);
  // One side is missing, whichever.
  for (let side = 0; side < 36; side += 6) {
    const some = triangles.filter((_, k) => k < side || k >= side + 6);
    expect(fillCells(Float64Array.from(places), some, 0.25).volume).toBeCloseTo(1, 6);
  }
  const flat = box([0, 0, 0], [1, 0, 1]);
  const cells = fillCells(Float64Array.from(flat.places), flat.triangles, 0.25);
  expect(cells.volume).toBe(0);
  expect(cells.fill.every((f) => f === 0 || f === 0.1)).toBe(true);
});
