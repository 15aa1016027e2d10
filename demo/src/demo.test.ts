import { describe, expect, it } from 'vitest';
import { validateBytes } from 'gltf-validator';
import { makePose, rootMatrix, samplePose, worldMatrices } from '@oscillum/core/character';
import { readGltf } from '@oscillum/core/gltf';
import { diagnose } from '@oscillum/core/measure';
import { Collider } from '@oscillum/core/model';
import { asChain, makeChainPart, type ChainSettings } from '@oscillum/core/chain';
import { editShot, makeShot, type Shot } from '@oscillum/core/shot';
import { fitColliders } from '@oscillum/core/parts';
import { simulateAll, type TrackCache } from '@oscillum/core/simulate';
import { demoFiles } from './index';

const [brindle, lantern] = await demoFiles();
const c = readGltf(brindle!.bytes, 'brindle.glb');
const clip = (name: string) => c.clips.find((k) => k.name === name)!;
const node = (name: string) => c.nodes.findIndex((n) => n.name === name);

/** World place of a joint at a frame. */
function place(clipName: string, frame: number, joint: string): number[] {
  const pose = makePose(c);
  const world = new Float64Array(16 * c.nodes.length);
  samplePose(c, clip(clipName), frame / 30, pose);
  worldMatrices(c, pose, rootMatrix(1, 'Y'), world);
  return [12, 13, 14].map((k) => world[16 * node(joint) + k]!);
}
const distance = (a: number[], b: number[]) => Math.hypot(...a.map((x, i) => x - b[i]!));

describe('the demo characters', () => {
  it('give the validator nothing to say, not even a hint', async () => {
    expect((await validateBytes(brindle!.bytes)).issues.messages).toEqual([]);
    expect(
      (await validateBytes(lantern!.bytes)).issues.numErrors +
        (await validateBytes(lantern!.bytes)).issues.numWarnings,
    ).toBe(0);
  });
  it('are the same bytes every time', async () => {
    expect(Buffer.from((await demoFiles())[0]!.bytes).equals(Buffer.from(brindle!.bytes))).toBe(true);
  });
  it('Brindle has 60 to 90 joints, 6 to 15 thousand vertices, each part a mesh of its own', () => {
    expect(c.joints.length).toBeGreaterThanOrEqual(60);
    expect(c.joints.length).toBeLessThanOrEqual(90);
    const vertices = c.meshes.reduce((n, m) => n + m.primitives[0]!.positions.length / 3, 0);
    expect(vertices).toBeGreaterThan(6000);
    expect(vertices).toBeLessThan(15000);
    expect(c.meshes.map((m) => m.name)).toEqual([
      'body',
      'plumes',
      'crest',
      'lappets',
      'poncho',
      'fringe scalp',
      'wattle',
      'mailbag',
      'bell',
    ]);
    expect(c.notes).toEqual([]);
  });
  it('Stride loops to the bit', () => {
    for (const k of clip('Stride').channels) {
      const size = k.values.length / k.times.length;
      expect([...k.values.slice(-size)]).toEqual([...k.values.slice(0, size)]);
    }
  });
  it('planted feet slide less than 5 mm a frame in Stride away, and there is always one planted', () => {
    for (let f = 0; f < 96; f++) {
      const steps = ['foot left', 'foot right'].map((j) => ({
        y: place('Stride away', f, j)[1]!,
        next: place('Stride away', f + 1, j)[1]!,
        moved: distance(place('Stride away', f, j), place('Stride away', f + 1, j)),
      }));
      const planted = steps.filter((s) => s.y < 0.0505 && s.next < 0.0505);
      expect(planted.length, `frame ${f}`).toBeGreaterThan(0);
      expect(Math.min(...planted.map((s) => s.moved)), `frame ${f}`).toBeLessThan(0.005);
    }
    expect(place('Stride away', 96, 'root')[2]).toBeGreaterThan(1.2);
  });
  it('Leap leaves the ground, lands and is still for its last second; Lookout turns and stops', () => {
    expect(Math.max(...Array.from({ length: 97 }, (_, f) => place('Leap', f, 'hips')[1]!))).toBeGreaterThan(
      0.7,
    );
    for (let f = 66; f < 96; f++)
      expect(distance(place('Leap', f, 'head'), place('Leap', f + 1, 'head'))).toBeLessThan(1e-5);
    expect(
      distance(place('Lookout', 14, 'crest front 4'), place('Lookout', 19, 'crest front 4')),
    ).toBeGreaterThan(0.02);
    for (let f = 22; f < 33; f++)
      expect(distance(place('Lookout', f, 'head'), place('Lookout', f + 1, 'head'))).toBeLessThan(1e-6);
  });
  it('secondary parts are stiff: no clip keys them', () => {
    const keyed = new Set(c.clips.flatMap((k) => k.channels.map((x) => c.nodes[x.node]!.name)));
    for (const n of c.nodes)
      if (/plume|crest|lappet|poncho|strap|mailbag|bell|wattle/.test(n.name))
        expect(keyed.has(n.name)).toBe(false);
  });
});

describe('Brindle with everything that hangs on her moving, among colliders fitted to her body', () => {
  const row = (name: string, count: number) => Array.from({ length: count }, (_, i) => `${name} ${i + 1}`);
  const chains: [string, string[], Partial<ChainSettings>][] = [
    ['Plume, middle', row('plume middle', 7), { hold: 0.7, bend: 0.9, damping: 0.18, gravity: 0.2 }],
    ['Plume, left', row('plume left', 7), { hold: 0.8, bend: 1, damping: 0.18, gravity: 0.2 }],
    ['Plume, right', row('plume right', 7), { hold: 0.8, bend: 1, damping: 0.18, gravity: 0.2 }],
    ['Crest', row('crest front', 4), { hold: 2, bend: 3, damping: 0.2, gravity: 0.2 }],
    ['Lappet, left', row('lappet left', 4), { hold: 0.4, bend: 1.2, damping: 0.2 }],
    ['Lappet, right', row('lappet right', 4), { hold: 0.4, bend: 1.2, damping: 0.2 }],
    ['Strap and bell', [...row('strap', 3), 'mailbag', 'bell'], { hold: 0.8, bend: 1, damping: 0.3 }],
  ];
  const shotOf = (name: string): Shot => {
    const index = c.clips.findIndex((k) => k.name === name);
    const base = makeShot({
      name,
      hash: '0'.repeat(64),
      fileName: 'brindle.glb',
      clip: { index, name, duration: c.clips[index]!.duration },
    });
    return editShot(base, 'demo-test', 'Make chains', (d) => {
      chains.forEach(([part, joints, settings], order) => {
        d.parts[`p${order}`] = makeChainPart({
          id: `p${order}`,
          name: part,
          order,
          joints: joints.map((j) => ({ node: node(j), name: j })),
          settings: { thickness: 0.006, ...settings },
        });
      });
      const moved = new Set(Object.values(d.parts).flatMap((p) => asChain(p).joints.map((j) => j.node)));
      for (const collider of fitColliders(c, 1, 'Y', moved)) d.colliders[collider.id] = collider;
    }).shot;
  };
  it.each(['Stride', 'Stride away', 'Leap', 'Lookout'])('%s: nothing passes through', (name) => {
    const shot = shotOf(name);
    const cache: TrackCache = {};
    const frames = simulateAll(c, shot, cache);
    const found = diagnose(c, shot, frames, cache.entry!.track);
    expect(found.filter((d) => d.cause === 'passes through').map((d) => d.sentence)).toEqual([]);
    expect(Math.max(...frames.contacts)).toBeGreaterThan(0);
    expect(Math.max(...frames.stretch)).toBeLessThan(1e-4);
  });
  it('the lappets lie on the mesh of her body itself, skinned as it moves', () => {
    const body = c.nodes.findIndex((n) => n.mesh >= 0 && /body/i.test(n.name));
    const shot = editShot(shotOf('Lookout'), 'demo-test', 'Touch the body', (d) => {
      d.range = { first: 0, last: 40 };
      for (const id of Object.keys(d.parts)) if (!/Lappet/.test(d.parts[id]!.name)) delete d.parts[id];
      d.colliders = {
        body: Collider.parse({
          id: 'body',
          name: 'Body',
          shape: { kind: 'mesh', node: body, name: c.nodes[body]!.name },
        }),
      };
    }).shot;
    const frames = simulateAll(c, shot);
    expect(Math.max(...frames.contacts)).toBeGreaterThan(0);
    expect(Math.max(...frames.depth.slice(4))).toBeLessThan(0.02);
    expect(frames.rotations.every(Number.isFinite)).toBe(true);
  });
  it('the fitted capsules are on both sides alike and lie inside her silhouette', () => {
    const colliders = fitColliders(c, 1, 'Y', new Set());
    const by = (name: string) => colliders.find((x) => x.attachedTo!.name === name)!;
    expect(by('head').shape).toMatchObject({ kind: 'capsule' });
    expect(by('thigh left').shape).toEqual(by('thigh right').shape);
    for (const { shape } of colliders)
      expect(shape.kind === 'capsule' && shape.radius > 0.01 && shape.radius < 0.25).toBe(true);
  });
});
