import { asChain, type ChainPart } from '@oscillum/core/chain';
import { createHash } from 'node:crypto';
import { readFileSync, writeFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { bakeClip, defaultBake } from '@oscillum/core/bake';
import { readGltf } from '@oscillum/core/gltf';
import { Collider, Force } from '@oscillum/core/model';
import { editShot, type Shot } from '@oscillum/core/shot';
import { fitColliders } from '@oscillum/core/parts';
import { simulateAll } from '@oscillum/core/simulate';
import { demoFiles } from './index';

/**
 * The demo's bakes, kept as hashes: a change of the code that is not meant to change motion changes none of them. One
 * that does says so in its commit and writes them anew: OSCILLUM_WRITE_HASHES=1 npx vitest run demo/src/bakes.test.ts
 */
const FILE = new URL('./bakes.json', import.meta.url);
const known = JSON.parse(readFileSync(FILE, 'utf8')) as Record<string, string>;

const [file] = await demoFiles();
const character = readGltf(file!.bytes, file!.fileName, {}, { skeletonOnly: true });
const [away, lookout] = file!.shots as [Shot, Shot];

const clipNamed = (shot: Shot, name: string): Shot => {
  const index = character.clips.findIndex((c) => c.name === name);
  const last = Math.floor(character.clips[index]!.duration * shot.fps + 1e-3);
  return { ...shot, clip: { index, name }, range: { first: 0, last } };
};
const fitted = (shot: Shot) => {
  const parts = new Set(Object.values(shot.parts).flatMap((p) => asChain(p).joints.map((j) => j.node)));
  const colliders = fitColliders(character, 1, 'Y', parts);
  return { ...shot, colliders: Object.fromEntries(colliders.map((c) => [c.id, c])) };
};
const edited = (shot: Shot, recipe: (d: Shot) => void) =>
  editShot(shot, 'a-known-bake', 'Change', (d) => recipe(d as Shot)).shot;

/** Shots that between them use everything a chain has, but for what is keyed in wind and pulled by hand. */
const shots: Record<string, Shot> = {
  'Stride away': away,
  Lookout: lookout,
  'Stride, in a loop': { ...clipNamed(away, 'Stride'), loop: true },
  'Leap, among fitted colliders': fitted(clipNamed(away, 'Leap')),
  'Lookout, settled, in a wind': edited(lookout, (d) => {
    d.start = 'settled';
    d.forces.wind = Force.parse({ id: 'wind', name: 'Wind', kind: 'wind', speed: 3 });
    d.forces.burst = Force.parse({ id: 'burst', name: 'Burst', kind: 'burst', frame: 20, t: [0, 1, 0] });
  }),
  'Leap, with all that can be set': edited(fitted(clipNamed(away, 'Leap')), (d) => {
    const [a, b, c, e] = Object.values(d.parts) as [ChainPart, ChainPart, ChainPart, ChainPart];
    Object.assign(a.settings, { stretch: 20, rootSlide: 0.02, travel: 50, turn: 140, delayPerJoint: 1 });
    a.profiles.hold = [
      [0, 2],
      [1, 0.3],
    ];
    a.collidesWith.parts = 'all';
    b.keys.hold = [
      { frame: 0, value: 1, kind: 'smooth' },
      { frame: 20, value: 4, kind: 'smooth' },
    ];
    b.anchors = [{ frame: 12, easeIn: 6, easeOut: 6, hold: 0, turns: null }];
    Object.assign(c.settings, { amount: 60, angleLimit: 25 });
    c.staysInPlane = 'x';
    e.settings.lift = 1;
    d.start = 'run up';
    d.gravityKeys = [
      { frame: 0, value: 1, kind: 'linear' },
      { frame: 20, value: 0.2, kind: 'linear' },
    ];
    d.colliders.ball = Collider.parse({
      id: 'ball',
      name: 'Ball',
      shape: { kind: 'sphere', radius: 0.12 },
      t: [0, 1.4, -0.6],
      free: { mass: 0.2, velocity: [0, 1, 1] },
    });
    e.tipPin = { to: { collider: d.colliders.ball.id }, t: [0, 0, 0], breakAt: 0.5 };
  }),
};

function hashOf(shot: Shot): string {
  const frames = simulateAll(character, shot);
  const hash = createHash('sha256');
  const add = (a: ArrayBufferView) => hash.update(new Uint8Array(a.buffer, a.byteOffset, a.byteLength));
  const { clip } = bakeClip(character, shot, frames, { ...defaultBake(shot), thin: null });
  for (const c of clip.channels) {
    hash.update(`${c.node} ${c.path} `);
    add(c.times as Float64Array);
    add(c.values as Float64Array);
  }
  for (const column of [
    'offSource',
    'tipOffSource',
    'tips',
    'contacts',
    'depth',
    'deepIn',
    'slip',
    'stretch',
  ] as const)
    add(frames[column]);
  add(frames.energy);
  add(frames.placements);
  return hash.digest('hex').slice(0, 24);
}

describe("the demo's bakes are the same to the bit", () => {
  for (const [name, shot] of Object.entries(shots))
    it(name, () => {
      const hash = hashOf(shot);
      if (process.env.OSCILLUM_WRITE_HASHES) {
        known[name] = hash;
        writeFileSync(FILE, `${JSON.stringify(known, null, 2)}\n`);
      }
      expect(hash).toBe(known[name]);
    });
});
