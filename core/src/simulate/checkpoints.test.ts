import { describe, expect, it } from 'vitest';
import { makeRow, rowShot } from '../../truth/rig';
import { Collider, Force } from '../model/index';
import type { ChainPart } from '../parts/chain/shared';
import { editShot, type Shot } from '../shot/index';
import { sameUntil } from '../model/alike';
import { alikeUntil } from './checkpoints';
import { COLUMN_NAMES, type Frames } from '../frames/index';
import { simulate, simulateAll, type TrackCache } from './index';

const key = (frame: number, value: number) => ({ frame, value, kind: 'smooth' as const });
const change = (shot: Shot, recipe: (part: ChainPart, shot: Shot) => void): Shot =>
  editShot(shot, 'test-0001', 'Change', (d) => recipe(d.parts.p as ChainPart, d as Shot)).shot;

/** A swinging row among a free ball, a rod that attachedTo, and wind, tied and pulled: all that has a memory. */
const character = makeRow(
  8,
  0.5,
  4,
  (t) => ({ place: [0.2 * Math.sin(3 * t), 0, 0], turn: 0.9 * Math.sin(4 * t) }),
  { direction: [0.6, -0.8, 0] },
);
const shot = change(
  rowShot(
    character,
    { hold: 0.8, thickness: 0.02, friction: 0.6, bounce: 0.4, rootSlide: 0.02 },
    { preRoll: 6 },
  ),
  (part, d) => {
    d.colliders.ball = Collider.parse({
      id: 'ball',
      name: 'Ball',
      shape: { kind: 'sphere', radius: 0.08 },
      t: [0.3, -0.7, 0],
      free: { mass: 0.05, velocity: [0, 0.5, 0] },
    });
    d.colliders.rod = Collider.parse({
      id: 'rod',
      name: 'Rod',
      shape: { kind: 'capsule', radius: 0.05, length: 0.4 },
      t: [0.1, -0.35, 0],
      keys: [
        { frame: 0, t: [0.1, -0.35, 0], r: [0, 0, 0, 1] },
        { frame: 80, t: [0.2, -0.35, 0], r: [0, 0, 0, 1] },
      ],
    });
    d.forces.wind = Force.parse({
      id: 'wind',
      name: 'Wind',
      kind: 'wind',
      speedKeys: [key(0, 3), key(90, 6)],
    });
    part.keys.hold = [key(0, 0.8), key(40, 2), key(70, 1), key(95, 1.5)];
    part.pulls = [
      {
        id: 'one',
        first: 20,
        link: 6,
        along: 0.5,
        strength: 3,
        slip: 0.1,
        path: [
          [0.2, -0.2, 0],
          [0.9, 0.5, 0],
        ],
      },
    ];
  },
);

/** Simulates and counts the frames that were stepped, not taken from a checkpoint. */
function run(next: Shot, cache: TrackCache): { frames: Frames; stepped: number } {
  const steps = simulate(character, next, cache);
  let yields = 0;
  for (;;) {
    const step = steps.next();
    if (step.done) return { frames: step.value, stepped: yields };
    yields++;
  }
}

const differences = (a: Frames, b: Frames): string[] =>
  COLUMN_NAMES.filter((k) => a[k].some((x, i) => !Object.is(x, b[k][i])));

describe('a change late in the range', () => {
  const late: [string, (part: ChainPart, d: Shot) => void][] = [
    ['a key', (p) => void (p.keys.hold![3] = key(95, 4))],
    ['a new key', (p) => void p.keys.hold!.push(key(110, 3))],
    [
      'an anchor pose',
      (p) => void (p.anchors = [{ frame: 118, easeIn: 10, easeOut: 4, hold: 0, turns: null }]),
    ],
    ['a pull', (p) => void p.pulls.push({ ...p.pulls[0]!, id: 'two', first: 100 })],
    ['a key of a collider', (_, d) => void (d.colliders.rod!.keys[1]!.frame = 110)],
    [
      'a burst',
      (_, d) =>
        void (d.forces.b = Force.parse({
          id: 'b',
          name: 'B',
          kind: 'burst',
          frame: 100,
          t: [0.3, -0.3, 0.2],
        })),
    ],
  ];
  it.each(late)(
    '%s: goes on from a checkpoint, and gives every bit of a run from the start',
    (what, recipe) => {
      const cache: TrackCache = {};
      const first = run(shot, cache);
      const next = change(shot, recipe);
      const again = run(next, cache);
      expect(differences(again.frames, simulateAll(character, next))).toEqual([]);
      expect(again.frames.startsIn).toEqual(first.frames.startsIn);
      if (what !== 'a key of a collider') expect(again.stepped).toBeLessThan(0.75 * first.stepped);
      // And back: what was kept of the second run holds for the first as far as they are alike.
      expect(differences(run(shot, cache).frames, first.frames)).toEqual([]);
    },
  );
  it('a run that was stopped half way leaves what it had', () => {
    const cache: TrackCache = {};
    const steps = simulate(character, shot, cache);
    for (let k = 0; k < 60; k++) steps.next();
    const next = change(shot, (p) => void (p.keys.hold![3] = key(95, 4)));
    expect(differences(run(next, cache).frames, simulateAll(character, next))).toEqual([]);
  });
  it('frames that are written over, those of the run before the last, get every bit too, and the last ones keep theirs', () => {
    const cache: TrackCache = { reuse: true };
    const shots = [95, 60, 0, 95].map((frame, k) =>
      change(shot, (p) => void (p.keys.hold![frame > 0 ? 3 : 0] = key(frame, 2 + k))),
    );
    const alone = shots.map((s) => simulateAll(character, s));
    const arrays = shots.map((next, k) => {
      const before = cache.last?.frames;
      const { frames } = run(next, cache);
      expect(differences(frames, alone[k]!)).toEqual([]);
      if (before) expect(differences(before, alone[k - 1]!)).toEqual([]);
      return frames.rotations;
    });
    expect(arrays[2]).toBe(arrays[0]);
    expect(arrays[3]).toBe(arrays[1]);
    expect(arrays[1]).not.toBe(arrays[0]);
  });
  it('what holds for the whole range begins at the start', () => {
    for (const recipe of [
      (p: ChainPart) => void (p.settings.bend = 3),
      (p: ChainPart) => void (p.muted = true),
      (p: ChainPart) => void (p.keys.bend = [key(100, 3)]),
      (_: ChainPart, d: Shot) => void (d.forces.wind!.muted = true),
      (_: ChainPart, d: Shot) => void (d.gravity = [0, -3, 0]),
    ])
      expect(alikeUntil(shot, change(shot, recipe))).toBe(-Infinity);
    expect(
      alikeUntil(
        shot,
        change(shot, (p) => void (p.name = 'Tail')),
      ),
    ).toBe(Infinity);
  });
});

describe('keys', () => {
  it('give the same curve up to two keys before the first that differs', () => {
    const keys = [key(0, 1), key(10, 2), key(20, 3), key(30, 4)];
    expect(sameUntil(keys, [...keys].reverse())).toBe(Infinity);
    expect(sameUntil(keys, [...keys.slice(0, 3), key(30, 9)])).toBe(10);
    expect(sameUntil(keys, [...keys, key(40, 1)])).toBe(20);
    expect(sameUntil(keys, keys.slice(1))).toBe(-Infinity);
    expect(sameUntil([], [key(50, 1)])).toBe(-Infinity);
  });
});
