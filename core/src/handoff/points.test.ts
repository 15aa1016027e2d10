import { expect, it } from 'vitest';
import { character, MESH, shot, VERTICES, waving } from '../../test/waving';
import { bakeClip, DEFAULT_JOINTS, defaultBake } from '../bake/index';
import { parseUsda, type UsdValue } from '../formats/usda/parse';
import { weighFits, writePoints } from './index';

const frames = waving();
const { clip } = bakeClip(character, shot, frames, { ...defaultBake(shot), thin: null });
const o = { fps: shot.fps, metresPerUnit: 1, upAxis: 'Y', unit: 1, up: 'Y' } as const;

it('points as USD text are read back on every frame, with normals, triangles and texture places', () => {
  // The demo's meshes have no texture places, so this one is given some.
  const textured = {
    ...character,
    meshes: character.meshes.map((m) => ({
      ...m,
      primitives: m.primitives.map((p) => ({
        ...p,
        uvs: Float32Array.from({ length: (2 * p.positions.length) / 3 }, (_, k) => (k % 7) / 8),
      })),
    })),
  };
  const { text } = writePoints(textured, clip, 'points.usda', o)!;
  const layer = parseUsda(text, 'points.usda');
  const mesh = layer.prims[0]!.children[0]!;
  expect(mesh.type).toBe('Mesh');
  const samples = mesh.properties.get('points.timeSamples') as Map<string, UsdValue>;
  expect(samples.size).toBe(frames.count);
  const row = samples.get('10') as number[][];
  expect(row.length).toBe(VERTICES);
  const at = 3 * VERTICES * (10 - frames.first);
  row.forEach((p, v) =>
    p.forEach((x, a) => expect(Math.abs(x - frames.points[at + 3 * v + a]!)).toBeLessThan(1e-6)),
  );
  const normals = (mesh.properties.get('normals.timeSamples') as Map<string, UsdValue>).get(
    '10',
  ) as number[][];
  for (const n of normals) expect(Math.hypot(...n)).toBeCloseTo(1, 4);
  const corners = mesh.properties.get('faceVertexIndices') as number[];
  const { primitives } = character.meshes[character.nodes[MESH]!.mesh]!;
  expect(corners.length).toBe(primitives.reduce((n, p) => n + p.indices.length, 0));
  const st = mesh.properties.get('primvars:st') as number[][];
  expect(st.flat()).toEqual(Array.from({ length: 2 * VERTICES }, (_, k) => (k % 7) / 8));
});

it('points as CSV have a line each, in the unit and with the axis up that are asked', () => {
  const { text } = writePoints(character, clip, 'points.csv', { ...o, unit: 0.01, up: 'Z' })!;
  const lines = text.trimEnd().split('\r\n');
  expect(lines.length).toBe(1 + frames.count * VERTICES);
  const [frame, , mesh, vertex, x, y, z] = lines[1 + VERTICES]!.split(',');
  expect([Number(frame), mesh, Number(vertex)]).toEqual([frames.first + 1, 'poncho mesh', 0]);
  const p = [0, 1, 2].map((a) => frames.points[3 * VERTICES + a]!);
  expect(Number(x)).toBeCloseTo(100 * p[0]!, 4);
  expect(Number(y)).toBeCloseTo(-100 * p[2]!, 4);
  expect(Number(z)).toBeCloseTo(100 * p[1]!, 4);
});

it('a clip that moves no points has no file of points', () => {
  const bare = { ...clip, channels: clip.channels.filter((c) => c.path !== 'points') };
  expect(writePoints(character, bare, 'points.csv', o)).toBeNull();
});

it('several ways to fit are weighed against each other: more cost more and leave less', () => {
  const walk = { ...shot, range: { first: 0, last: 8 } };
  const run = weighFits(character, walk, { ...defaultBake(walk), thin: null }, [
    { to: 'morphs', most: 2, millimetres: 0 },
    DEFAULT_JOINTS,
  ]);
  const shares: number[] = [];
  let step = run.next();
  for (; !step.done; step = run.next()) shares.push(step.value);
  expect(shares).toEqual([...shares].sort((a, b) => a - b));
  // Chains alone move here: there is nothing to fit.
  expect(step.value.fits.map((f) => f.reports)).toEqual([[], []]);
  expect(step.value.points).toEqual({ 'points.usda': 0, 'points.csv': 0 });
});
