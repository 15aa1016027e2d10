import { describe, expect, it } from 'vitest';
import { makeWeightMap, putShares, readWeightMap, WeightMap } from '../model/index';
import { makeSheet } from '../sheets/index';
import { gradient, grown, inverted, mirrored, softened, Stroke, type Brush } from './brush';
import { makePaintMesh, partnersOf, reachFrom, toPoints, toVertices } from './mesh';
import { carryShares } from './nearest';

/** Two sheets of 11 × 11 points, 10 cm wide, 1 mm apart at the height of the second, which nothing joins. */
function layers() {
  const places: number[] = [];
  const indices: number[] = [];
  for (const y of [0, 0.001]) {
    const first = places.length / 3;
    for (let r = 0; r < 11; r++)
      for (let c = 0; c < 11; c++) {
        places.push((c - 5) / 100, y, r / 100);
        if (r === 0 || c === 0) continue;
        const p = first + 11 * r + c;
        indices.push(p - 12, p - 1, p, p - 12, p, p - 11);
      }
  }
  return makePaintMesh(makeSheet(Float64Array.from(places), indices));
}
const MESH = layers();
const MIDDLE = 60;
const brush = (more: Partial<Brush> = {}): Brush => ({
  ...{ kind: 'paint', value: 1, radius: 0.03, strength: 1, falloff: 0, partners: null },
  ...more,
});
const painted = (b: Brush, from: Float64Array, ...points: number[]): Float64Array => {
  const stroke = new Stroke(MESH, Float64Array.from(from), b);
  for (const p of points) stroke.dab(p);
  return stroke.values;
};
const NONE = new Float64Array(MESH.points);

describe('a brush', () => {
  it('reaches along the surface, the nearest first, and not through it', () => {
    const reached = reachFrom(MESH, MIDDLE, 0.02);
    expect(reached[0]).toBe(MIDDLE);
    const far = reached.map((p) => MESH.distance[p]!);
    expect(far).toEqual([...far].sort((a, b) => a - b));
    // 1 mm below there is another sheet, two centimetres away along the surface there is none.
    expect(reached.every((p) => p < 121)).toBe(true);
    expect(reached.length).toBeGreaterThan(8);
  });
  it('paints its value once however often it passes, weaker towards its edge', () => {
    const half = painted(brush({ strength: 0.5 }), NONE, MIDDLE, MIDDLE, MIDDLE);
    expect(half[MIDDLE]).toBe(0.5);
    const soft = painted(brush({ falloff: 1 }), NONE, MIDDLE);
    expect(soft[MIDDLE]).toBe(1);
    expect(soft[MIDDLE + 1]).toBeGreaterThan(soft[MIDDLE + 2]!);
    expect(soft[MIDDLE + 2]).toBeGreaterThan(0);
    expect(soft[MIDDLE + 4]).toBe(0);
  });
  it('erases to 0, levels to what it was put down on, and softens steps', () => {
    const ones = NONE.map(() => 1);
    expect(painted(brush({ kind: 'erase' }), ones, MIDDLE)[MIDDLE]).toBe(0);
    const steps = NONE.map((_, p) => (p % 11 < 5 ? 0.2 : 0.8));
    const level = painted(brush({ kind: 'level' }), steps, MIDDLE, MIDDLE - 1);
    expect(level[MIDDLE - 1]).toBeCloseTo(0.8, 12);
    const soft = painted(brush({ kind: 'soften' }), steps, MIDDLE, MIDDLE);
    expect(soft[MIDDLE]).toBeLessThan(0.8);
    expect(soft[MIDDLE - 1]).toBeGreaterThan(0.2);
  });
  it('paints the other side too, and says which points have none', () => {
    const partners = partnersOf(MESH, 0, 0.0005);
    expect(partners.every((p) => p >= 0)).toBe(true);
    const both = painted(brush({ radius: 0.005, partners }), NONE, MIDDLE + 3);
    expect([both[MIDDLE + 3], both[MIDDLE - 3], both[MIDDLE]]).toEqual([1, 1, 0]);
    expect(partnersOf(MESH, 0.02, 0.0005).filter((p) => p < 0).length).toBe(22 * 4);
    const left = NONE.map((_, p) => (p % 11) / 10);
    const copied = mirrored(MESH, left, partners, 0, true);
    expect([copied[0], copied[10]]).toEqual([1, 1]);
  });
  it('fills by growing, shrinking, turning round, softening, and along a gradient', () => {
    const one = NONE.map((_, p) => Number(p === MIDDLE));
    expect(grown(MESH, one, true).reduce((a, b) => a + b)).toBeGreaterThan(4);
    expect(grown(MESH, one, false).reduce((a, b) => a + b)).toBe(0);
    expect(inverted(one)[MIDDLE]).toBe(0);
    expect(softened(MESH, one)[MIDDLE]).toBe(0.5);
    expect([...gradient(Float64Array.of(-1, 0, 1, 2, 3), 0, 2)]).toEqual([0, 0, 0.5, 1, 1]);
  });
});

describe('a weight map', () => {
  it('keeps shares to 1/65535 in blocks, and only what was touched is written again', () => {
    const shares = Float64Array.from({ length: 1300 }, (_, v) => (v < 600 ? 1 : Math.abs(Math.sin(v))));
    const map = WeightMap.parse(makeWeightMap(shares));
    expect(map.blocks[0]).toBe('=65535');
    readWeightMap(map).forEach((s, v) => expect(Math.abs(s - shares[v]!)).toBeLessThan(0.51 / 65535));
    const before = [...map.blocks];
    shares[5] = 0.25;
    putShares(map, shares);
    expect(map.blocks.map((b, k) => b === before[k])).toEqual([false, true, true]);
    expect(readWeightMap(map)[5]).toBeCloseTo(0.25, 4);
  });
  it('refuses blocks that are missing or cannot be read', () => {
    const map = makeWeightMap(new Float64Array(600));
    expect(WeightMap.safeParse({ ...map, vertices: 2000 }).success).toBe(false);
    for (const block of ['??', 'AAAAA', 'A===', '='])
      expect(WeightMap.safeParse({ ...map, blocks: ['=0', block] }).success).toBe(false);
    // Too short a block is read as far as it goes.
    expect([...readWeightMap({ vertices: 2, blocks: ['AAA='] })]).toEqual([0, 1]);
  });
  it('has one share for the vertices of a seam', () => {
    const seam = makePaintMesh(
      makeSheet(Float64Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0), [0, 1, 2, 3, 5, 4]),
    );
    const points = toPoints(seam, Float64Array.of(1, 0.5, 1, 0.25, 1, 1));
    expect([...toVertices(seam, points)]).toEqual([1, 0.25, 1, 0.25, 1, 1]);
  });
});

it('a map goes over to a finer mesh of another size by nearest place', () => {
  const grid = (n: number, size: number) =>
    Float64Array.from({ length: 3 * n * n }, (_, k) => {
      const v = Math.floor(k / 3);
      return (size * [v % n, Math.floor(v / n), 0][k % 3]!) / (n - 1);
    });
  const [coarse, fine] = [grid(11, 1), grid(26, 40)];
  const shares = Float64Array.from({ length: 121 }, (_, v) => (v % 11) / 10);
  const carried = carryShares(shares, coarse, fine);
  carried.forEach((s, v) => expect(Math.abs(s - (v % 26) / 25)).toBeLessThan(0.06));
  // On the same places it is the same.
  carryShares(shares, coarse, coarse).forEach((s, v) => expect(s).toBeCloseTo(shares[v]!, 6));
});
