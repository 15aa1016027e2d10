import { describe, expect, it } from 'vitest';
import { far, hairFrames, hangingHair, LONG, tips } from '../../../test/hangingHair';
import type { Way } from '../../../test/parcel';
import { sizesOf, type Frames } from '../../frames/index';
import { Collider } from '../../model/index';
import { editShot, type Shot } from '../../shot/index';
import { simulateAll, type TrackCache } from '../../simulate/index';
import { makeGroom, readGroom, type StrandsPart } from './shared';

/** It begins to turn at once, a fifth of a second later it stops. */
const turns: Way = (t) => [0, 0, 0, 1.2 * Math.min(1, t / 0.2)];
/** Goes to the side and back. */
const sways: Way = (t) => [0.15 * Math.sin(9 * t), 0, 0];
const readout = (frames: Frames, name: string, f: number) =>
  frames.readouts[f * frames.readoutNames.length + frames.readoutNames.indexOf(name)]!;
describe('delay', () => {
  /** Hair that stands out to the side, so that it sweeps round: frames of how far its first tip is turned, rad. */
  const swept = (settings: Partial<StrandsPart['settings']>) => {
    const { character, shot } = hangingHair(
      { hold: 20, bend: 0, damping: 1, root: 1, gravity: 0, ...settings },
      {},
      turns,
    );
    const hair = shot.parts.hair as StrandsPart;
    const level = readGroom(hair.groom).map((g) =>
      g.map((_, o) => (o % 3 === 0 ? g[0]! + (LONG * Math.floor(o / 3)) / (g.length / 3 - 1) : g[o % 3]!)),
    );
    const frames = simulateAll(character, {
      ...shot,
      parts: { hair: { ...hair, groom: makeGroom(level) } },
    });
    return Array.from({ length: frames.count }, (_, f) => {
      const [x, , z] = tips(frames, f)[0]!;
      const root = frames.points.subarray(3 * f * sizesOf(frames).points);
      return Math.atan2(-(z! - root[2]!), x! - root[0]!);
    });
  };
  const frame = (angles: readonly number[]) => {
    const k = angles.findIndex((a) => a > 0.6);
    return k - 1 + (0.6 - angles[k - 1]!) / (angles[k]! - angles[k - 1]!);
  };

  it('lets tips come about so many frames later to where their root has turned them', () => {
    const none = frame(swept({}));
    // Links near the root come sooner, and draw the tip along: half of the delay on the mean.
    for (const delay of [4, 8]) {
      expect(frame(swept({ delay })) - none).toBeGreaterThan(0.4 * delay);
      expect(frame(swept({ delay })) - none).toBeLessThan(0.8 * delay);
    }
  });

  it('rests in its groom once nothing turns any more', () => {
    expect(swept({ delay: 6 }).at(-1)!).toBeCloseTo(1.2, 3);
  });
});

describe('a leash', () => {
  const most = (frames: Frames) => Math.max(...frames.tipOffSource);

  it('keeps every point within its length of the groom, however it is swung', () => {
    const free = hairFrames({ hold: 0.3, bend: 0.3 }, {}, sways);
    expect(most(free)).toBeGreaterThan(0.04);
    for (const leash of [0.02, 0.005]) {
      const held = hairFrames({ hold: 0.3, bend: 0.3, leash }, {}, sways);
      expect(most(held)).toBeLessThan(1.02 * leash);
      expect(most(held)).toBeGreaterThan(0.9 * leash);
    }
  });

  it('is no contact with what is near: nothing presses on it', () => {
    const ball = Collider.parse({
      ...{ id: 'ball', name: 'Ball', t: [0, -LONG - 0.06, 0], shape: { kind: 'sphere', radius: 0.05 } },
      attachedTo: { node: 0, name: 'root' },
    });
    const colliders = { ball } as Shot['colliders'];
    const held = hairFrames({ hold: 0.3, bend: 0.3, leash: 0.002 }, { colliders }, sways);
    expect(Math.max(...held.contacts)).toBe(0);
    // Without a leash it swings into the ball's reach.
    const free = hairFrames({ hold: 0.3, bend: 0.3, thickness: 0.02 }, { colliders }, sways);
    expect(Math.max(...free.contacts)).toBeGreaterThan(0);
  });

  it('pins what has none, and changes nothing that stays within it', () => {
    expect(most(hairFrames({ leash: 0 }, {}, sways))).toBeLessThan(1e-4);
    const [loose, free] = [hairFrames({ leash: 0.5 }, {}, sways), hairFrames({}, {}, sways)];
    for (const f of [12, 36])
      tips(loose, f).forEach((t, k) => expect(far(t, tips(free, f)[k]!)).toBeLessThan(1e-12));
  });
});

describe('the pull along strands', () => {
  const weight = (LONG * 5 * 9.81) / 1000;

  it('is the weight of what hangs, at rest', () => {
    const frames = hairFrames({ damping: 1 });
    // What moves is the points: half of the first link hangs at its root.
    expect(readout(frames, 'tension', 0)).toBeCloseTo((weight * 15) / 16, 4);
    expect(readout(frames, 'tension', 36)).toBeCloseTo((weight * 15) / 16, 4);
  });

  it('grows by what swings: m v² / r', () => {
    const frames = hairFrames({ hold: 0, bend: 0.1, damping: 0.05 }, {}, sways);
    const tension = Array.from({ length: frames.count }, (_, f) => readout(frames, 'tension', f));
    expect(Math.max(...tension)).toBeGreaterThan(2 * weight);
  });

  it('makes them longer by the share that is asked where they are pulled by twice their weight', () => {
    const { character, shot } = hangingHair({ stretch: 10, gravity: 2, damping: 1, hold: 2 });
    const frames = simulateAll(character, { ...shot, gravityKeys: [] });
    // It keeps its groom under twice the gravity: nothing is longer.
    expect(Math.max(...frames.stretch)).toBeLessThan(1e-4);
    const sags = hairFrames({ stretch: 10, damping: 1, hold: 2, droop: 100 });
    const length = far(tips(sags, 36)[0]!, tips(hairFrames({ amount: 0 }), 0)[0]!);
    expect(length / LONG).toBeGreaterThan(0.09);
    expect(length / LONG).toBeLessThan(0.11);
  });
});

it('what a leash and a delay do goes on from a frame that is kept to the same bits', () => {
  const key = (frame: number, value: number) => ({ frame, value, kind: 'smooth' as const });
  const { character, shot } = hangingHair({ leash: 0.01, delay: 3, stretch: 5, droop: 50 }, {}, sways);
  const withKeys = (last: number) =>
    editShot(shot, 'keys-0001', 'Set keys', (d) => {
      (d.parts.hair as StrandsPart).keys.amount = [key(0, 100), key(30, 100), key(34, last)];
    }).shot;
  const cache: TrackCache = { reuse: true };
  simulateAll(character, withKeys(80), cache);
  const again = simulateAll(character, withKeys(120), cache);
  expect(again.points).toEqual(simulateAll(character, withKeys(120)).points);
});
