import { expect, it } from 'vitest';
import { character, MESH, sheet } from '../../test/poncho';
import { meshTriangles, restWorld, skinVertices } from '../character/index';
import { Collider, type MeshRegion } from '../model/index';
import { clearances } from '../simulate/clearance';
import { trianglesOf } from '../simulate/meshShape';
import { likelyHolds } from './holds';
import { regionsOf, verticesIn } from './regions';

const body = character.nodes.findIndex((n) => n.mesh >= 0 && /body/i.test(n.name));
const count = (node: number, region: MeshRegion) =>
  verticesIn(character, node, region).reduce((a, b) => a + b, 0);

it('lists the pieces of a mesh, the largest first, and what each joint mostly weighs, as many as they hold', () => {
  const regions = regionsOf(character, body);
  const pieces = regions.filter((r) => r.region.by === 'piece');
  expect(pieces.length).toBeGreaterThan(3);
  pieces.slice(1).forEach((p, k) => expect(p.vertices).toBeLessThanOrEqual(pieces[k]!.vertices));
  for (const r of regions) expect(count(body, r.region)).toBe(r.vertices);
  const { vertices } = meshTriangles(character, body);
  expect(pieces.reduce((n, p) => n + p.vertices, 0)).toBeLessThanOrEqual(vertices);
  expect(regions.some((r) => r.region.by === 'joint' && r.name === 'head')).toBe(true);
  // A mesh of one piece lists none.
  expect(regionsOf(character, MESH).some((r) => r.region.by === 'piece')).toBe(false);
});

it('what goes on into the rest of its mesh is held by the rest; a piece of its own by its rim', () => {
  const half = Uint8Array.from({ length: sheet.points }, (_, p) => Number(sheet.rest[3 * p + 1]! < 0.5));
  expect(likelyHolds(character, MESH, half)).toEqual([]);
  expect(likelyHolds(character, MESH, new Uint8Array(sheet.points).fill(1))).toEqual(
    likelyHolds(character, MESH),
  );
});

it('a collider takes only a part of a mesh, or all but it; an empty part is refused with its place', () => {
  const { region } = regionsOf(character, body).find((r) => r.name === 'head')!;
  const of = (part: { region: MeshRegion; only: boolean } | null) => {
    const shape = {
      kind: 'mesh' as const,
      node: body,
      name: character.nodes[body]!.name,
      part,
      simplified: 0,
    };
    return { id: 'c' as Collider['id'], name: 'Body', shape };
  };
  const triangles = (part: Parameters<typeof of>[0]) => trianglesOf(character, of(part), 1).length;
  // Each has lids over the cut; together they are more than the whole, but not by many.
  const both = triangles({ region, only: true }) + triangles({ region, only: false });
  expect(both).toBeGreaterThan(triangles(null));
  expect(both).toBeLessThan(1.1 * triangles(null));
  expect(triangles({ region, only: true })).toBeGreaterThan(300);
  const none = { region: { by: 'piece' as const, piece: 9999 }, only: true };
  expect(() => trianglesOf(character, of(none), 1)).toThrow(/the part of body mesh that it takes has no/);
  // Each is closed: places well within the head are inside the one and outside the other.
  const world = restWorld(character);
  const within = verticesIn(character, body, region);
  const skin = new Float64Array(3 * within.length);
  skinVertices(skin, character, body, world);
  const top = within.reduce((best, w, v) => (w && skin[3 * v + 1]! > skin[3 * best + 1]! ? v : best), 0);
  const place = [skin[3 * top]!, skin[3 * top + 1]! - 0.05, skin[3 * top + 2]!];
  const clear = (part: Parameters<typeof of>[0]) =>
    clearances(
      character,
      [{ collider: Collider.parse({ ...of(part), name: 'Body' }), placed: [] }],
      world,
      1,
      place,
    )[0]!;
  expect(clear({ region, only: true })).toBeLessThan(-0.01);
  expect(clear({ region, only: false })).toBeGreaterThan(0.01);
});
