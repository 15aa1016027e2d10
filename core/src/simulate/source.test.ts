import { asChain } from '../parts/chain/shared';
import { describe, expect, it } from 'vitest';
import { makeRow, rowShot } from '../../truth/rig';
import { bakeClip, defaultBake } from '../bake/index';
import { makePose, samplePose } from '../character/index';
import { quatAngle, quatFromAxis, quatMultiply } from '../math/index';
import { AddedMotion } from '../model/index';
import type { Shot } from '../shot/index';
import { makeSource, simulateAll } from './index';

/** A row that hangs from a body that does nothing but travel. */
const character = makeRow(4, 0.5, 2, (t) => ({ place: [0.5 * t, 0.1 * Math.sin(3 * t), 0], turn: 0 }));
const plain = rowShot(character, { hold: 2 });
const body = character.nodes[asChain(plain.parts.p).joints[0]!.node]!.parent;
const turned = (turn: Partial<AddedMotion>, shot: Shot = plain): Shot => ({
  ...shot,
  addedMotions: {
    a: AddedMotion.parse({
      id: 'turn-one',
      name: 'Turn',
      joint: { node: body, name: character.nodes[body]!.name },
      axis: [0, 0, 2],
      ...turn,
    }),
  },
});
const clip = character.clips[0]!;
const degrees = (shot: Shot, frame: number): number => {
  const [own, added] = [makePose(character), makePose(character)];
  samplePose(character, clip, frame / shot.fps, own);
  makeSource(character, shot).at(frame, added);
  return (quatAngle(own.r, 4 * body, added.r, 4 * body) * 180) / Math.PI;
};

describe('turns added to the source', () => {
  const { first, last } = plain.range;
  const middle = (first + last) / 2;
  it('go steadily, swing, circle, or follow keys, with their count and phase', () => {
    expect(degrees(turned({ kind: 'turn', amount: 40, count: 2 }), middle)).toBeCloseTo(40, 6);
    const swing = turned({ kind: 'swing', amount: 30, count: 1, phase: 0.25 });
    expect(degrees(swing, first)).toBeCloseTo(30, 6);
    expect(degrees(swing, middle)).toBeCloseTo(30, 6);
    expect(degrees(swing, first + (last - first) / 4)).toBeCloseTo(0, 6);
    for (const f of [first, middle, last])
      expect(degrees(turned({ kind: 'circle', amount: 12 }), f)).toBeCloseTo(12, 6);
    const keys = [
      { frame: 0, value: 0, kind: 'linear' as const },
      { frame: 10, value: 20, kind: 'linear' as const },
      { frame: 20, value: 0, kind: 'linear' as const },
    ];
    expect(degrees(turned({ kind: 'keys', keys, cycles: true }), 25)).toBeCloseTo(10, 6);
    expect(degrees(turned({ kind: 'keys', keys, cycles: false }), 25)).toBeCloseTo(0, 6);
    expect(degrees(turned({ kind: 'swing', muted: true }), 7)).toBe(0);
  });

  it('turn the joint about an axis of its own space', () => {
    const shot = turned({ kind: 'turn', amount: 90, count: 1 });
    const pose = makePose(character);
    makeSource(character, shot).at(last, pose);
    const own = makePose(character);
    samplePose(character, clip, last / shot.fps, own);
    const asked = new Float64Array(4);
    quatFromAxis(asked, 0, 0, 0, 1, Math.PI / 2);
    quatMultiply(asked, 0, own.r, 4 * body, asked, 0);
    expect(quatAngle(asked, 0, pose.r, 4 * body)).toBeLessThan(1e-6);
  });

  it('give a chain something to follow, and are written with it when it is baked', () => {
    const still = simulateAll(character, plain);
    const shot = turned({ kind: 'swing', amount: 40, count: 2 });
    const frames = simulateAll(character, shot);
    expect(Math.max(...frames.offSource)).toBeGreaterThan(2 * Math.max(...still.offSource));
    const baked = bakeClip(character, shot, frames, defaultBake(shot)).clip;
    const written = baked.channels.find((c) => c.node === body && c.path === 'rotation')!;
    const pose = makePose(character);
    const source = makeSource(character, shot);
    for (let k = 0; k < written.times.length; k++) {
      source.at(written.times[k]! * shot.fps, pose);
      expect(quatAngle(written.values, 4 * k, pose.r, 4 * body)).toBeLessThan(1e-6);
    }
    expect(
      bakeClip(character, plain, still, defaultBake(plain)).clip.channels.some((c) => c.node === body),
    ).toBe(false);
  });

  it('a whole count closes a loop, a broken one does not', () => {
    const standing = { ...plain, clip: null, loop: true };
    const closed = simulateAll(character, turned({ kind: 'swing', count: 2 }, standing));
    expect(closed.start.loop).toMatchObject({ found: true });
    const open = simulateAll(character, turned({ kind: 'swing', count: 1.4 }, standing));
    expect(open.start.loop).toMatchObject({ found: false, why: 'clip' });
  });
});

describe('moves added to the source', () => {
  const placeAt = (shot: Shot, frame: number): number[] => {
    const pose = makePose(character);
    makeSource(character, shot).at(frame, pose);
    return Array.from(pose.t.subarray(3 * body, 3 * body + 3));
  };
  const { first, last } = plain.range;
  it('go along an axis of the world, m, by a helper or by keys, and are baked', () => {
    const moved = turned({ path: 'translation', axis: [0, 3, 0], amount: 0.2, count: 1, phase: 0.25 });
    expect(placeAt(moved, first)[1]! - placeAt(plain, first)[1]!).toBeCloseTo(0.2, 9);
    expect(placeAt(moved, (first + last) / 2)[1]! - placeAt(plain, (first + last) / 2)[1]!).toBeCloseTo(
      -0.2,
      9,
    );
    const keys = [
      { frame: 0, value: 0, kind: 'linear' as const },
      { frame: 10, value: 0.5, kind: 'linear' as const },
    ];
    const keyed = turned({ path: 'translation', axis: [1, 0, 0], kind: 'keys', keys, cycles: false });
    expect(placeAt(keyed, 5)[0]! - placeAt(plain, 5)[0]!).toBeCloseTo(0.25, 9);
    const { clip: baked } = bakeClip(character, moved, simulateAll(character, moved), defaultBake(moved));
    const places = baked.channels.find((c) => c.node === body && c.path === 'translation')!;
    expect(places.values[1]! - placeAt(plain, first)[1]!).toBeCloseTo(0.2, 6);
  });
  it('are metres, whatever the unit and the up axis of the file', () => {
    const inches = {
      ...plain,
      character: { ...plain.character, metresPerUnit: 0.0254, upAxis: 'Z' as const },
    };
    const up = turned({ path: 'translation', axis: [0, 1, 0], amount: 0.254, phase: 0.25 }, inches);
    // Up in the world is z in this file, and 0.254 m are ten units.
    expect(placeAt(up, first)[2]! - placeAt(inches, first)[2]!).toBeCloseTo(10, 6);
  });
  it('go on while the clip stands in a pose', () => {
    const still = { ...turned({ path: 'translation', amount: 0.1, count: 1 }), stillAt: 12 };
    const makes = (frame: number) => placeAt(still, frame)[0]!;
    expect(makes(first)).toBeCloseTo(placeAt(plain, 12)[0]!, 9);
    expect(makes(20)).toBeCloseTo(makes(first), 9);
    expect(placeAt(still, 20)).not.toEqual(placeAt(still, first));
  });
});

describe('in place', () => {
  it('takes out how the clip travels over the ground, keeps how it rises, and is baked', () => {
    const shot: Shot = { ...plain, inPlace: true };
    const pose = makePose(character);
    const own = makePose(character);
    const source = makeSource(character, shot);
    const place = (frame: number) => {
      source.at(frame, pose);
      samplePose(character, clip, frame / shot.fps, own);
      return { x: pose.t[3 * body]!, lift: pose.t[3 * body + 1]! - own.t[3 * body + 1]! };
    };
    const { first, last } = shot.range;
    for (const f of [first, 13, last]) {
      expect(place(f).x).toBeCloseTo(place(first).x, 9);
      expect(place(f).lift).toBeCloseTo(0, 9);
    }
    const baked = bakeClip(character, shot, simulateAll(character, shot), defaultBake(shot)).clip;
    const written = baked.channels.find((c) => c.node === body && c.path === 'translation')!;
    expect(written.values[3 * (written.times.length - 1)]).toBeCloseTo(written.values[0]!, 6);
  });
});

describe('frames to settle in', () => {
  const { first, last } = plain.range;
  const waiting: Shot = { ...plain, settleFrames: 90, range: { first, last: last + 90 } };

  it('hold the last pose, in which the chain comes to rest; nothing before changes', () => {
    const [own, held] = [makePose(character), makePose(character)];
    samplePose(character, clip, last / plain.fps, own);
    makeSource(character, waiting).at(last + 40, held);
    expect(held.t).toEqual(own.t);
    const [before, after] = [simulateAll(character, plain), simulateAll(character, waiting)];
    const rows = 4 * before.joints.length * (last - first);
    expect(after.rotations.subarray(0, rows)).toEqual(before.rotations.subarray(0, rows));
    const way = (f: number) => Math.abs(after.offSource[f]! - after.offSource[f - 1]!);
    expect(way(last - first + 2)).toBeGreaterThan(0.1);
    expect(way(after.count - 1)).toBeLessThan(1e-3);
  });

  it('are not baked unless asked, and count for no motion that is added over the range', () => {
    expect(defaultBake(waiting).last).toBe(last);
    const frames = simulateAll(character, waiting);
    const lasts = (to: number) => {
      const { clip } = bakeClip(character, waiting, frames, { ...defaultBake(waiting), last: to });
      return Math.max(...clip.channels.map((c) => c.times.at(-1)!));
    };
    expect(lasts(last + 90) - lasts(last)).toBeCloseTo(90 / plain.fps, 5);
    const swing = { kind: 'turn', amount: 40, count: 2 } as const;
    const middle = (first + last) / 2;
    expect(degrees(turned(swing, waiting), middle)).toBeCloseTo(degrees(turned(swing), middle), 9);
    expect(defaultBake({ ...waiting, loop: true }).last).toBe(last + 90);
  });
});
