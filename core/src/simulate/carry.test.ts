import { describe, expect, it } from 'vitest';
import type { Character, CharacterNode } from '../character/index';
import { Collider, AddedMotion } from '../model/index';
import { asChain, makeChainPart } from '../parts/chain/shared';
import { makeShot, parseShot } from '../shot/index';
import { carryTo } from './carry';

/** A character of a row of joints by name, each hanging from the one before. */
const rig = (names: string[], clips: string[]): Character => ({
  name: 'rig',
  nodes: names.map((name, i): CharacterNode => ({
    name,
    parent: i - 1,
    children: i + 1 < names.length ? [i + 1] : [],
    t: new Float64Array(3),
    r: Float64Array.of(0, 0, 0, 1),
    s: Float64Array.of(1, 1, 1),
    mesh: -1,
    skin: -1,
  })),
  order: Int32Array.from(names.keys()),
  joints: Int32Array.from(names.keys()),
  skins: [],
  meshes: [],
  materials: [],
  images: [],
  clips: clips.map((name, i) => ({ name, duration: i + 1, channels: [], over: null })),
  notes: [],
});
const hash = 'a'.repeat(64);
const bird = rig(['hips', 'tail 1', 'tail 2', 'tail 3'], ['Stride', 'Leap']);
const base = makeShot({
  name: 'Bird, Stride',
  hash,
  fileName: 'bird.glb',
  clip: { index: 0, name: 'Stride', duration: 1 },
});
const joint = (node: number) => ({ node, name: bird.nodes[node]!.name });
const shot = parseShot({
  ...base,
  parts: {
    'tail-one': makeChainPart({
      id: 'tail-one',
      name: 'Tail',
      joints: [joint(1), joint(2), joint(3)],
      settings: { hold: 2.5 },
      anchors: [{ frame: 4 }],
      collidesWith: { colliders: ['ball-one'] },
    }),
  },
  colliders: {
    'ball-one': Collider.parse({
      id: 'ball-one',
      name: 'Ball',
      shape: { kind: 'sphere', radius: 1 },
      attachedTo: joint(0),
    }),
  },
  addedMotions: { 'turn-one': AddedMotion.parse({ id: 'turn-one', name: 'hips', joint: joint(0) }) },
});

describe('the same parts elsewhere', () => {
  it('on another clip: everything, over the range of that clip', () => {
    const { shot: leap, missed } = carryTo(shot, bird, { hash, fileName: 'bird.glb' }, 1);
    expect(missed).toEqual([]);
    expect(leap).toMatchObject({
      name: 'Bird, Leap',
      clip: { index: 1, name: 'Leap' },
      range: { first: 0, last: 60 },
    });
    expect(leap.parts).toEqual(shot.parts);
  });
  it('on another character: by the names of joints, wherever they stand', () => {
    const other = rig(['root', 'hips', 'tail 1', 'tail 2', 'tail 3'], ['Walk']);
    const { shot: carried, missed } = carryTo(
      shot,
      other,
      { hash: 'b'.repeat(64), fileName: 'other.glb' },
      0,
    );
    expect(missed).toEqual([]);
    const part = asChain(carried.parts['tail-one']);
    expect(part.joints.map((j) => j.node)).toEqual([2, 3, 4]);
    expect(part.settings.hold).toBe(2.5);
    expect(part.anchors).toEqual([]);
    expect(carried.colliders['ball-one']!.attachedTo).toEqual({ node: 1, name: 'hips' });
    expect(carried.addedMotions['turn-one']!.joint.node).toBe(1);
  });
  it('what does not match is left out and listed', () => {
    const other = rig(['tail 1', 'tail 3', 'tail 2'], []);
    const { shot: carried, missed } = carryTo(
      shot,
      other,
      { hash: 'b'.repeat(64), fileName: 'other.glb' },
      0,
    );
    expect(carried.parts).toEqual({});
    expect(carried.clip).toBeNull();
    expect(missed.join('; ')).toMatch(
      /Tail: its joints do not hang in a row.*Ball: no joint named hips.*no joint named hips to turn/,
    );
    const short = carryTo(shot, rig(['hips', 'tail 1'], []), { hash: 'b'.repeat(64), fileName: 'x.glb' }, 0);
    expect(short.missed).toEqual(['Tail: no joint named tail 2, tail 3']);
    expect(short.shot.colliders['ball-one']).toBeDefined();
  });
});
