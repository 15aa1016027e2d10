import { expect, it } from 'vitest';
import { character, sheet } from '../../test/poncho';
import { makePose, meshTriangles, rootMatrix, skinVertices, worldMatrices } from '../character/index';
import { Collider } from '../model/index';
import { makeSurface } from '../solver/index';
import { layerGaps } from '../solver/cloth/layers';
import { airPush } from './airPush';
import { clearances } from './clearance';

const world = new Float64Array(16 * character.nodes.length);
worldMatrices(character, makePose(character), rootMatrix(1, 'Y'), world);

it('tells how far places are from the nearest collider, below 0 inside, and from a mesh as posed', () => {
  const ball = Collider.parse({ id: 'b', name: 'Ball', shape: { kind: 'sphere', radius: 0.5 } });
  const box = Collider.parse({ id: 'c', name: 'Box', shape: { kind: 'box', size: [2, 2, 2] } });
  const at = (x: number) => [x, 0, 0, 0, 0, 0, 1];
  const places = [2, 0, 0, 0.25, 0, 0];
  const far = (...of: Parameters<typeof clearances>[1][number][]) => [
    ...clearances(character, of, world, 1, places),
  ];
  expect(far()).toEqual([Infinity, Infinity]);
  expect(far({ collider: ball, placed: at(0) })).toEqual([1.5, -0.25]);
  far({ collider: ball, placed: at(0) }, { collider: box, placed: at(2.5) }).forEach((d, k) =>
    expect(d).toBeCloseTo([-0.5, -0.25][k]!, 9),
  );
  const body = character.nodes.findIndex((n) => n.mesh >= 0 && /body/i.test(n.name));
  const shape = { kind: 'mesh', node: body, name: character.nodes[body]!.name, simplified: 0 };
  const mesh = Collider.parse({ id: 'm', name: 'Body', shape });
  const { vertices } = meshTriangles(character, body);
  const skin = new Float64Array(3 * vertices);
  skinVertices(skin, character, body, world);
  // As the contact has it, at places a little off some of her vertices.
  const near = Array.from({ length: 60 }, (_, k) => skin[3 * 50 * Math.floor(k / 3) + (k % 3)]! + 0.004);
  const surface = makeSurface(Float64Array.from(skin), meshTriangles(character, body).indices);
  const found = new Float64Array(4);
  const got = clearances(character, [{ collider: mesh, placed: [] }], world, 1, near);
  got.forEach((d, p) => {
    surface.nearest(found, near[3 * p]!, near[3 * p + 1]!, near[3 * p + 2]!);
    expect(d).toBeCloseTo(found[0]!, 9);
  });
  expect(Math.min(...got)).toBeLessThan(0);
  expect(Math.max(...got)).toBeGreaterThan(0);
});

it('tells which layers of a sheet are in each other, and none where it lies flat', () => {
  expect(Math.min(...layerGaps(sheet, Float64Array.from(sheet.rest)))).toBeGreaterThan(0.9);
  // Pressed flat from front to back, its two sides meet.
  const pressed = sheet.rest.map((x, k) => (k % 3 === 2 ? 0.001 * x : x));
  const gaps = layerGaps(sheet, Float64Array.from(pressed));
  expect(gaps.filter((g) => g < 1).length).toBeGreaterThan(0.5 * sheet.points);
});

it('air pushes a sheet that stands across it with ½ ρ v² for each square metre', () => {
  const square = Float64Array.of(0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0);
  const past = Float64Array.from({ length: 12 }, (_, k) => (k % 3 === 2 ? 4 : 0));
  const push = airPush(square, past, [0, 1, 2, 0, 2, 3], { density: 1.2, drag: 1, lift: 0 });
  const sum = [0, 1, 2].map((a) => [0, 1, 2, 3].reduce((s, p) => s + push[3 * p + a]!, 0));
  expect(sum[0]).toBeCloseTo(0, 9);
  expect(sum[2]).toBeCloseTo(0.5 * 1.2 * 16, 6);
});
