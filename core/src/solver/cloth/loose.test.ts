import { expect, it } from 'vitest';
import { makeSheet } from '../../sheets/index';
import { makeCloth } from './cloth';
import { looseSheet } from './loose';

/** A grid of n × m points, 5 cm apart, from a place on. */
function grid(n: number, m: number, x0: number, from: number): { places: number[]; indices: number[] } {
  const places: number[] = [];
  const indices: number[] = [];
  for (let j = 0; j < m; j++)
    for (let i = 0; i < n; i++) places.push(x0 + 0.05 * i, -0.05 * j, 0.003 * i * j);
  for (let j = 0; j + 1 < m; j++)
    for (let i = 0; i + 1 < n; i++) {
      const a = from + j * n + i;
      indices.push(a, a + n, a + n + 1, a, a + n + 1, a + 1);
    }
  return { places, indices };
}
const matter = { weight: 0.3, stretch: 0, compression: 0, rigidity: 2e-5 };

/** Where the points of a sheet are after half a second of hanging by its first `held` points. */
function hangs(places: number[], indices: number[], held: Uint8Array): Float64Array {
  const at = Float64Array.from(places);
  const cloth = makeCloth({
    ...{ sheet: makeSheet(at, indices), held, matter, h: 1 / 240, bodies: [], arena: null },
    ...{ selfContact: false, skin: () => ({ thickness: 0.01, friction: 0.3 }) },
  });
  cloth.begin(at, new Float64Array(at.length));
  for (let k = 0; k < 120; k++)
    cloth.step({
      ...{ before: at, now: at, from: 0, to: 1, gravity: [0, -9.81, 2], field: null, fresh: k === 0 },
      sail: { drag: 1, lift: 0.5, density: 1.2 },
    });
  return Float64Array.from(cloth.x);
}

it('a piece of a mesh moves as it would alone, to the bit, and what is held beside it costs nothing', () => {
  const piece = grid(6, 8, 0, 0);
  const rest = grid(20, 20, 3, 48);
  const heldAlone = Uint8Array.from({ length: 48 }, (_, p) => Number(p < 6));
  const held = Uint8Array.from({ length: 448 }, (_, p) => Number(p < 6 || p >= 48));
  const [places, indices] = [
    [...piece.places, ...rest.places],
    [...piece.indices, ...rest.indices],
  ];
  const alone = hangs(piece.places, piece.indices, heldAlone);
  expect([...hangs(places, indices, held).subarray(0, 3 * 48)]).toEqual([...alone]);
  expect(Math.abs(alone[3 * 47 + 2]! - 0.105)).toBeGreaterThan(0.03);
  const sheet = makeSheet(Float64Array.from(places), indices);
  const loose = looseSheet(sheet, { ...matter, diagonal: sheet.length.map((_, e) => e) }, held);
  expect(loose.sheet.length.length).toBeLessThan(0.15 * sheet.length.length);
  expect(loose.sheet.triangles.length).toBe(piece.indices.length);
  // What stands by edge stays beside its edge.
  loose.matter.diagonal!.forEach((e, k) => expect(loose.sheet.length[k]).toBe(sheet.length[e]));
});

it('a sheet of which little is held is left as it is', () => {
  const { places, indices } = grid(6, 8, 0, 0);
  const sheet = makeSheet(Float64Array.from(places), indices);
  const held = Uint8Array.from({ length: 48 }, (_, p) => Number(p < 6));
  expect(looseSheet(sheet, matter, held).sheet).toBe(sheet);
});
