import { expect, it } from 'vitest';
import { character, MESH, shot, VERTICES, waving } from '../../test/waving';
import { bakeClip, DEFAULT_JOINTS, defaultBake } from '../bake/index';
import type { BakedCurves } from '../formats/gltf/index';
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

it('strands are curves as USD text and rows of a table, with their widths and colours', () => {
  const hair: BakedCurves = {
    ...{ node: 0, part: 'fringe', name: 'Fringe', counts: [2, 3], widths: [0.004, 0.001] },
    colours: [
      [1, 0, 0],
      [0, 0, 1],
    ],
    times: Float64Array.of(0, 1 / 30),
    values: Float64Array.from({ length: 30 }, (_, k) => k / 10),
  };
  const bare = { ...clip, channels: [], curves: [hair] };
  const { text, notes } = writePoints(character, bare, 'points.usda', { ...o, unit: 0.01, up: 'Z' })!;
  expect(notes[0]).toMatch(/Fringe/);
  const curves = parseUsda(text, 'points.usda').prims[0]!.children[0]!;
  expect(curves.type).toBe('BasisCurves');
  expect(curves.properties.get('curveVertexCounts')).toEqual([2, 3]);
  expect(curves.properties.get('type')).toBe('linear');
  const widths = curves.properties.get('widths') as number[];
  [0.4, 0.1, 0.4, 0.25, 0.1].forEach((w, k) => expect(widths[k]).toBeCloseTo(w, 6));
  const colours = curves.properties.get('primvars:displayColor') as number[][];
  expect(colours[3]).toEqual([0.5, 0, 0.5]);
  const samples = curves.properties.get('points.timeSamples') as Map<string, UsdValue>;
  expect([...samples.keys()]).toEqual(['0', '1']);
  const row = samples.get('1') as number[][];
  row.forEach((p, v) =>
    [0, 2, 1].forEach((from, a) => {
      const x = 100 * hair.values[15 + 3 * v + from]! * (a === 1 ? -1 : 1);
      expect(p[a]).toBeCloseTo(x, 3);
    }),
  );
  const lines = writePoints(character, bare, 'points.csv', o)!.text.trimEnd().split('\r\n');
  expect(lines.length).toBe(1 + 2 * 5);
  expect(lines[1 + 5]!.split(',').slice(2)).toEqual(['Fringe', '0', '1.5', '1.6', '1.7']);
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
