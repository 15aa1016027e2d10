import { expect, it } from 'vitest';
import { brindle } from '../../test/bakes';
import { readGltf } from '../formats/gltf/index';
import { sheetOf } from '../sheets/index';
import { fromJoint, fromMaterial, fromPoint, inLasso, makePaintMesh, sourcesOf } from './index';

const character = readGltf(brindle!.bytes, 'brindle.glb');
const node = character.nodes.findIndex((n) => n.mesh >= 0 && /poncho/.test(n.name));
const mesh = makePaintMesh(sheetOf(character, node));

it('a joint fills a map with what it weighs, and all joints together with 1', () => {
  const { joints } = sourcesOf(character, node);
  expect(joints.map((j) => j.name)).toContain('chest');
  const sum = new Float64Array(mesh.points);
  for (const j of joints) fromJoint(character, node, mesh, j.node).forEach((s, p) => (sum[p]! += s));
  for (const s of sum) expect(s).toBeCloseTo(1, 4);
  expect(fromJoint(character, node, mesh, 99999).every((s) => s === 0)).toBe(true);
});

it('a material fills the points of its primitive, and no other', () => {
  const { primitives } = character.meshes[character.nodes[node]!.mesh]!;
  const sum = primitives.reduce(
    (n, _, k) => n + fromMaterial(character, node, mesh, k).reduce((a, b) => a + b, 0),
    0,
  );
  expect(sum).toBeGreaterThanOrEqual(mesh.points);
  expect(fromMaterial(character, node, mesh, primitives.length).every((s) => s === 0)).toBe(true);
});

it('a point fills a map by the way along the surface: 0 there, 1 farthest from it', () => {
  const far = fromPoint(mesh, 17);
  expect(far[17]).toBe(0);
  expect(Math.max(...far)).toBe(1);
  for (let k = mesh.from[17]!; k < mesh.from[18]!; k++) expect(far[mesh.beside[k]!]!).toBeLessThan(0.2);
});

it('a lasso takes what is inside it and faces the eye, not what lies behind', () => {
  // Seen from the front: x to the right, y down the page.
  const { rest } = mesh.sheet;
  const page = new Float64Array(2 * mesh.vertices);
  mesh.pointOf.forEach((p, v) => page.set([1000 * rest[3 * p]!, -1000 * rest[3 * p + 1]!], 2 * v));
  const whole = [
    [-5000, -5000],
    [5000, -5000],
    [5000, 5000],
    [-5000, 5000],
  ] as const;
  const chosen = inLasso(mesh, page, whole);
  const mean = (on: number) => {
    const list = [...chosen.keys()].filter((p) => chosen[p] === on);
    return list.reduce((s, p) => s + rest[3 * p + 2]!, 0) / list.length;
  };
  expect(chosen.reduce((a, b) => a + b, 0)).toBeGreaterThan(0.25 * mesh.points);
  expect(mean(1)).toBeGreaterThan(mean(0) + 0.05);
  const left = inLasso(mesh, page, [whole[0], [0, -5000], [0, 5000], whole[3]]);
  left.forEach((on, p) => on && expect(rest[3 * p]!).toBeLessThanOrEqual(1e-9));
  expect(left.includes(1)).toBe(true);
});
