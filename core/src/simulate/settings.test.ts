import { describe, expect, it } from 'vitest';
import { makeRow, rowShot, type RootMotion } from '../../truth/rig';
import { measureShot } from '../measure/index';
import { Collider, Force } from '../model/index';
import {
  CHAIN_SETTING_KEYS,
  type ChainPart,
  type ChainSettingKey,
  type ChainSettings,
} from '../parts/chain/shared';
import { editShot, type Shot } from '../shot/index';
import type { Frames } from '../frames/index';
import { simulateAll, type TrackCache } from './index';

const still: RootMotion = () => ({ place: [0, 0, 0], turn: 0 });
const sway: RootMotion = (t) => ({ place: [0, 0, 0], turn: 0.6 * Math.sin(5 * t) });
const ride: RootMotion = (t) => ({ place: [0.3 * Math.sin(4 * t), 0, 0], turn: 0 });
const stop: RootMotion = (t) => ({ place: [0, 0, 0], turn: 0.8 * Math.min(1, 5 * t) });
const level = { direction: [1, 0, 0] as const };

const ground = (d: Shot, y: number, friction = 0.3) =>
  (d.colliders.g = Collider.parse({
    id: 'g',
    name: 'Ground',
    shape: { kind: 'ground' },
    t: [0, y, 0],
    friction,
  }));
const wind = (d: Shot, direction: [number, number, number]) =>
  (d.forces.w = Force.parse({
    id: 'w',
    name: 'Wind',
    kind: 'wind',
    direction,
    speed: 6,
    gust: 0,
    turbulence: 0,
  }));

const mean = (list: ArrayLike<number>) => Array.from(list).reduce((a, b) => a + b, 0) / list.length;
const most = (list: ArrayLike<number>) => Array.from(list).reduce((a, b) => Math.max(a, b), 0);
/** Height of the tip on the last frames. */
const height = (f: Frames) => mean(Array.from({ length: 10 }, (_, k) => f.tips[3 * (f.count - 1 - k) + 1]!));

interface Walk {
  motion: RootMotion;
  /** From less to more. */
  values: readonly [number, number];
  /** What the eye sees. */
  sees: string;
  measure: (frames: Frames, lag: () => number) => number;
  way: 'more' | 'less';
  rest?: Partial<ChainSettings>;
  hangs?: { direction: readonly [number, number, number] };
  world?: (shot: Shot, part: ChainPart) => void;
}

const strays = (f: Frames) => mean(f.offSource);

/** What more of each setting does, as its sentence says. */
const WALKS: Record<ChainSettingKey, Walk> = {
  amount: { motion: sway, values: [20, 90], sees: 'it strays further', measure: strays, way: 'more' },
  hold: { motion: sway, values: [0.5, 5], sees: 'it stays closer', measure: strays, way: 'less' },
  delayPerJoint: {
    motion: sway,
    values: [0, 2],
    sees: 'its tip comes later',
    measure: (_, lag) => lag(),
    way: 'more',
    rest: { hold: 8, bend: 0, gravity: 0 },
  },
  travel: { motion: ride, values: [20, 100], sees: 'it strays further', measure: strays, way: 'more' },
  turn: {
    motion: sway,
    values: [20, 100],
    sees: 'it strays further',
    measure: strays,
    way: 'more',
    hangs: level,
    rest: { gravity: 0, travel: 100 },
  },
  bend: {
    motion: sway,
    values: [0.3, 5],
    sees: 'it stays straighter',
    measure: strays,
    way: 'less',
    rest: { hold: 0 },
  },
  overlap: {
    motion: sway,
    values: [20, 100],
    sees: 'it swings further',
    measure: strays,
    way: 'more',
    rest: { hold: 8, bend: 0, gravity: 0, travel: 0, turn: 0 },
  },
  overlapGain: {
    motion: sway,
    values: [80, 120],
    sees: 'it swings further',
    measure: strays,
    way: 'more',
    rest: { hold: 8, bend: 0, gravity: 0, travel: 0, turn: 0, overlap: 50 },
  },
  overlapLag: {
    motion: sway,
    values: [0, 1],
    sees: 'its tip comes later',
    measure: (_, lag) => lag(),
    way: 'more',
    rest: { hold: 8, bend: 0, gravity: 0, travel: 0, turn: 0, overlap: 50, overlapGain: 100 },
  },
  damping: {
    motion: stop,
    values: [0.05, 0.8],
    sees: 'the swing dies sooner',
    measure: (f) => mean(f.tipOffSource.slice(30)),
    way: 'less',
    hangs: level,
    rest: { gravity: 0, hold: 1, bend: 1.5 },
  },
  stretch: {
    motion: sway,
    values: [0, 40],
    sees: 'its links get longer',
    measure: (f) => most(f.stretch),
    way: 'more',
    rest: { stretchSoftness: 3 },
  },
  stretchSoftness: {
    motion: sway,
    values: [0.5, 8],
    sees: 'its links get longer',
    measure: (f) => most(f.stretch),
    way: 'more',
    rest: { stretch: 40 },
  },
  gravity: {
    motion: still,
    values: [0, 1],
    sees: 'it droops',
    measure: height,
    way: 'less',
    hangs: level,
    rest: { hold: 1 },
  },
  weight: {
    motion: still,
    values: [0.02, 1],
    sees: 'wind moves it less',
    measure: strays,
    way: 'less',
    rest: { thickness: 0.01 },
    world: (d) => wind(d, [1, 0, 0]),
  },
  drag: {
    motion: still,
    values: [0.2, 3],
    sees: 'wind moves it further',
    measure: strays,
    way: 'more',
    rest: { thickness: 0.01 },
    world: (d) => wind(d, [1, 0, 0]),
  },
  lift: {
    motion: still,
    values: [0, 3],
    sees: 'it flutters up',
    measure: height,
    way: 'more',
    hangs: { direction: [0.8, -0.6, 0] },
    rest: { thickness: 0.02, hold: 0.8, gravity: 0.5 },
    world: (d) => wind(d, [1, 0, 0]),
  },
  thickness: {
    motion: still,
    values: [0.005, 0.05],
    sees: 'it keeps a wider distance',
    measure: height,
    way: 'more',
    hangs: level,
    rest: { hold: 0, bend: 0, drag: 0 },
    world: (d) => ground(d, -0.2),
  },
  friction: {
    motion: (t) => ({ place: [0.5 * t, 0, 0], turn: 0 }),
    values: [0.05, 1.5],
    sees: 'it drags behind',
    measure: (f) => mean(f.tipOffSource.slice(30)),
    way: 'more',
    rest: { hold: 0, bend: 0, thickness: 0.005, drag: 0, damping: 0.3 },
    world: (d) => ground(d, -0.3),
  },
  bounce: {
    motion: still,
    values: [0, 0.8],
    sees: 'it springs back up',
    measure: (f) => most(Array.from({ length: 45 }, (_, k) => f.tips[3 * (k + 14) + 1]! + 10)),
    way: 'more',
    hangs: level,
    rest: { hold: 0, bend: 0, thickness: 0.005, drag: 0, damping: 0, friction: 0 },
    world: (d) => ground(d, -0.2, 0),
  },
  angleLimit: {
    motion: sway,
    values: [5, 180],
    sees: 'it strays further',
    measure: (f) => most(f.offSource),
    way: 'more',
    rest: { hold: 0.3 },
  },
  rootSlide: {
    motion: (t) => ({ place: [0.2 * Math.sin(8 * t), 0, 0], turn: 0 }),
    values: [0, 0.1],
    sees: 'its root leaves its place',
    measure: (f) => {
      const { joints } = f;
      return most(
        Array.from({ length: f.count }, (_, k) => Math.abs(f.translations[3 * k * joints.length]!)),
      );
    },
    way: 'more',
  },
};

describe('every setting does what its sentence says', () => {
  it.each(CHAIN_SETTING_KEYS)('%s', (key) => {
    const walk = WALKS[key];
    const c = makeRow(8, 0.5, 2, walk.motion, walk.hangs ?? (walk.motion === sway ? level : {}));
    const [less, more] = walk.values.map((value) => {
      const shot = editShot(
        rowShot(c, { hold: 1, bend: 1.5, ...walk.rest, [key]: value }),
        'test-0001',
        'Set',
        (d) => {
          walk.world?.(d as Shot, d.parts.p as ChainPart);
        },
      ).shot;
      const cache: TrackCache = {};
      const frames = simulateAll(c, shot, cache);
      return walk.measure(frames, () => measureShot(shot, frames, cache.entry!.track, 0).lag);
    });
    const change = more! - less!;
    expect(walk.way === 'more' ? change : -change, `more ${key}: ${walk.sees}`).toBeGreaterThan(
      0.02 * Math.max(Math.abs(less!), Math.abs(more!)) * (key === 'bounce' ? 0.1 : 1),
    );
  });
});
