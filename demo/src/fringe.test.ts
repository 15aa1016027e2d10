import { validateBytes } from 'gltf-validator';
import { describe, expect, it } from 'vitest';
import {
  alongPath,
  findStrands,
  makePose,
  meshAtRest,
  rootMatrix,
  skinVertices,
  strandWeights,
  worldMatrices,
  type Character,
} from '@oscillum/core/character';
import { addJoints, openContainer, readContainer, readGltf, type JointPlan } from '@oscillum/core/gltf';
import { quatFromAxis } from '@oscillum/core/math';
import { OscillumError, PartId } from '@oscillum/core/model';
import { chainSettingsFor, makeChainPart } from '@oscillum/core/chain';
import { editShot, makeShot } from '@oscillum/core/shot';
import { simulateAll } from '@oscillum/core/simulate';
import { demoFiles } from './index';

const [brindle] = await demoFiles();
const container = openContainer(brindle!.bytes, 'brindle.glb');
const bird = readContainer(container, {});
const nodeOf = (c: Character, name: string) => c.nodes.findIndex((n) => n.name === name);
const meshOf = (c: Character, name: string) => c.nodes.findIndex((n) => c.meshes[n.mesh]?.name === name);
const fringe = meshOf(bird, 'fringe scalp');
const head = nodeOf(bird, 'head');
const mesh = meshAtRest(bird, fringe, 1, 'Y');
const hold = (() => {
  const world = new Float64Array(16 * bird.nodes.length);
  worldMatrices(bird, makePose(bird), rootMatrix(1, 'Y'), world);
  return world.slice(16 * head + 12, 16 * head + 15);
})();
const plan: JointPlan = {
  mesh: fringe,
  parent: head,
  name: 'down',
  joints: 3,
  rows: findStrands(mesh, hold, 8),
  smoothing: 2,
  reach: null,
};

const placesOf = (c: Character, turn?: { node: number; angle: number }): Float64Array => {
  const pose = makePose(c);
  if (turn) quatFromAxis(pose.r, 4 * turn.node, 1, 0, 0, turn.angle);
  const world = new Float64Array(16 * c.nodes.length);
  worldMatrices(c, pose, rootMatrix(1, 'Y'), world);
  const node = fringe;
  const out = new Float64Array(mesh.places.length);
  skinVertices(out, c, node, world);
  return out;
};

describe('joints added to the fringe, which has none of its own', () => {
  it('rows are found from the head outward, spread round the ring', () => {
    expect(mesh.pieces).toBe(1);
    expect(plan.rows).toHaveLength(8);
    for (const row of plan.rows) expect(row.at(-1)![1]).toBeLessThan(row[0]![1]);
    const angles = plan.rows.map((r) => Math.atan2(r.at(-1)![0], r.at(-1)![2])).sort((a, b) => a - b);
    for (let i = 1; i < angles.length; i++) expect(angles[i]! - angles[i - 1]!).toBeGreaterThan(0.3);
  });

  it('weights sum to 1, keep what was at the roots, and follow the row toward its tip', () => {
    const rows = plan.rows.map((r) => alongPath(r, 3));
    const weights = strandWeights(mesh, rows, 0, Infinity);
    for (const w of weights) expect(w.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 9);
    const at = (p: ArrayLike<number>) => {
      let best = 0;
      for (let v = 0; v < weights.length; v++) {
        const d = (k: number) => Math.hypot(...[0, 1, 2].map((a) => mesh.places[3 * k + a]! - p[a]!));
        if (d(v) < d(best)) best = v;
      }
      return weights[best]!;
    };
    rows.forEach((row, r) => {
      expect(at(row[0]!)[0]).toBeGreaterThan(0.8);
      expect(at(row[3]!)[1 + 3 * r + 2]).toBeGreaterThan(0.9);
    });
    // Within reach only.
    const near = strandWeights(mesh, rows.slice(0, 1), 0, 0.05);
    expect(near.some((w) => w[0]! < 0.5)).toBe(true);
    expect(near.filter((w) => w[0] === 1).length).toBeGreaterThan(near.length / 2);
  });

  it('the copy is valid, looks the same at rest, and moves where a new joint turns', async () => {
    const { bytes, rows } = addJoints(container, bird, plan, 1, 'Y');
    expect((await validateBytes(bytes)).issues.numErrors).toBe(0);
    const copy = readGltf(bytes, 'copy.glb');
    expect(copy.nodes.slice(0, bird.nodes.length).map((n) => n.name)).toEqual(bird.nodes.map((n) => n.name));
    expect(copy.clips.length).toBe(bird.clips.length);
    const rest = placesOf(copy);
    rest.forEach((x, i) => expect(Math.abs(x - mesh.places[i]!)).toBeLessThan(1e-5));
    const moved = placesOf(copy, { node: rows[0]![1]!.node, angle: 0.5 });
    const way = (v: number) => Math.hypot(...[0, 1, 2].map((a) => moved[3 * v + a]! - rest[3 * v + a]!));
    const ways = Array.from({ length: rest.length / 3 }, (_, v) => way(v));
    expect(Math.max(...ways)).toBeGreaterThan(0.005);
    expect(ways.filter((w) => w < 1e-6).length).toBeGreaterThan(ways.length / 2);
    // The body's own mesh is what it was.
    expect(copy.meshes[copy.nodes[meshOf(copy, 'body')]!.mesh]).toEqual(
      bird.meshes[bird.nodes[meshOf(bird, 'body')]!.mesh],
    );
  });

  it('the new rows become chains that swing', () => {
    const { bytes, rows } = addJoints(container, bird, plan, 1, 'Y');
    const copy = readGltf(bytes, 'copy.glb');
    const clip = copy.clips.findIndex((k) => k.name === 'Lookout');
    const bare = makeShot({
      name: 'Fringe',
      hash: '0'.repeat(64),
      fileName: 'copy.glb',
      clip: { index: clip, name: 'Lookout', duration: copy.clips[clip]!.duration },
    });
    const { shot } = editShot(bare, 'test-0001', 'Make chains', (d) => {
      rows.forEach((joints, r) => {
        const id = PartId.parse(`row${r}`);
        d.parts[id] = makeChainPart({ id, name: id, order: r, joints, settings: chainSettingsFor(0.08) });
      });
    });
    const frames = simulateAll(copy, shot);
    for (let c = 0; c < 8; c++)
      expect(Math.max(...frames.offSource.filter((_, i) => i % 8 === c))).toBeGreaterThan(3);
  });

  it('what cannot be done is said', () => {
    const asked = (change: Partial<JointPlan>) => () =>
      addJoints(container, bird, { ...plan, ...change }, 1, 'Y');
    for (const change of [
      { mesh: head },
      { parent: 9999 },
      { joints: 0 },
      { joints: 1.5 },
      { rows: [] },
      { rows: [[[0, 0, 0]]] as never },
    ])
      expect(asked(change)).toThrow(OscillumError);
  });
});
