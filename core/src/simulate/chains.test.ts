import { describe, expect, it } from 'vitest';
import { level, mean, shotOf, still, swing, tip } from '../../test/row';
import { makeRow } from '../../truth/rig';
import { Collider, Force } from '../model/index';
import type { Frames } from '../frames/index';
import { simulateAll } from './index';

describe('settings of a chain', () => {
  it('delay hands the turn on link by link: the tip comes later the longer the delay', () => {
    const c = makeRow(8, 0.5, 2, (t) => ({ place: [0, 0, 0], turn: Math.min(1, 3 * t) }), level);
    // The first frame at which the tip is half way round.
    const half = (delayPerJoint: number) => {
      const f = simulateAll(c, shotOf(c, { delayPerJoint, hold: 8, bend: 0, damping: 1, gravity: 0 }));
      for (let k = 0; k < f.count; k++) if (Math.atan2(tip(f, k)[1]!, tip(f, k)[0]!) > 0.5) return k;
      return Infinity;
    };
    expect(half(1)).toBeGreaterThan(half(0) + 2);
    expect(half(2)).toBeGreaterThan(half(1) + 2);
  });
  it('delay works on a long shot too', () => {
    const c = makeRow(10, 0.5, 20, swing);
    expect(simulateAll(c, shotOf(c, { delayPerJoint: 1.5 })).count).toBe(601);
  });
  it('travel and turn response: 0 rides along, 100 feels it, below 0 leans the other way', () => {
    const push = makeRow(8, 0.5, 1, (t) => ({ place: [2 * t * t, 0, 0], turn: 0 }));
    const lean = (travel: number) => {
      const f = simulateAll(push, shotOf(push, { travel, bend: 0, hold: 1 }));
      return tip(f, f.count - 1)[0]! - 2 * ((f.count - 1) / 30) ** 2;
    };
    expect(Math.abs(lean(0))).toBeLessThan(1e-4);
    expect(lean(100)).toBeLessThan(-0.02);
    expect(lean(-100)).toBeGreaterThan(0.02);
    expect(lean(200)).toBeLessThan(1.5 * lean(100));
    const turning = makeRow(8, 0.5, 1, swing, level);
    const strays = (turn: number) =>
      mean(
        simulateAll(turning, shotOf(turning, { turn, travel: turn, gravity: 0, hold: 1, bend: 1 })).offSource,
      );
    expect(strays(0)).toBeLessThan(0.1);
    expect(strays(50)).toBeLessThan(strays(100));
  });
  it('a profile on hold frees the tip; keys on hold act from their frame on', () => {
    const c = makeRow(8, 0.5, 2, swing, level);
    const base = { hold: 3, bend: 0, gravity: 1 };
    const even = simulateAll(c, shotOf(c, base));
    const tipped = simulateAll(
      c,
      shotOf(c, base, (p) => {
        p.profiles.hold = [
          [0, 1],
          [1, 0.2],
        ];
      }),
    );
    expect(mean(tipped.tipOffSource)).toBeGreaterThan(1.3 * mean(even.tipOffSource));
    const keyed = simulateAll(
      c,
      shotOf(c, base, (p) => {
        p.keys.hold = [
          { frame: 0, value: 3, kind: 'stepped' },
          { frame: 30, value: 0.3, kind: 'stepped' },
        ];
      }),
    );
    for (let k = 0; k < 29; k++) expect(tip(keyed, k)).toEqual(tip(even, k));
    expect(mean(keyed.tipOffSource.slice(40))).toBeGreaterThan(1.3 * mean(even.tipOffSource.slice(40)));
  });
  it('a heavy tip by a weight profile swings slower, and keeps its length', () => {
    const c = makeRow(10, 0.5, 2, swing);
    const run = (heavy: number) =>
      simulateAll(
        c,
        shotOf(c, { hold: 0, bend: 0, damping: 0.05 }, (p) => {
          p.profiles.weight = [
            [0, 1],
            [0.9, 1],
            [1, heavy],
          ];
        }),
      );
    expect(Math.max(...run(10).stretch)).toBeLessThan(1e-5);
    expect(tip(run(10), 50)).not.toEqual(tip(run(1), 50));
  });
  it('no link leaves its cone; a locked chain stays in its plane', () => {
    const c = makeRow(8, 0.5, 2, swing, level);
    const limited = simulateAll(c, shotOf(c, { angleLimit: 12, hold: 0.3, bend: 0.3, gravity: 2 }));
    expect(Math.max(...limited.offSource)).toBeLessThan(12.01);
    expect(Math.max(...limited.offSource)).toBeGreaterThan(11);
    const blown = (lock: 'none' | 'z') =>
      simulateAll(
        c,
        shotOf(c, { hold: 0.5, bend: 0.5, thickness: 0.01 }, (p, s) => {
          p.staysInPlane = lock;
          s.forces.w = Force.parse({ id: 'w', name: 'Wind', kind: 'wind', direction: [0, 0, 1], speed: 10 });
        }),
      );
    const out = (f: Frames) =>
      Math.max(...Array.from({ length: f.count }, (_, k) => Math.abs(tip(f, k)[2]!)));
    expect(out(blown('none'))).toBeGreaterThan(0.05);
    expect(out(blown('z'))).toBeLessThan(1e-6);
  });
  it('root slide lets the whole chain slide off its place, never farther than asked', () => {
    const c = makeRow(6, 0.4, 2, (t) => ({ place: [0.1 * Math.sin(12 * t), 0, 0], turn: 0 }));
    const roots = (rootSlide: number) => {
      const f = simulateAll(c, shotOf(c, { rootSlide, hold: 3, gravity: 0 }));
      return Array.from({ length: f.count }, (_, k) =>
        Math.hypot(...f.translations.slice(3 * k * f.joints.length, 3 * k * f.joints.length + 3)),
      );
    };
    expect(Math.max(...roots(0))).toBe(0);
    expect(Math.max(...roots(0.02))).toBeGreaterThan(0.005);
    expect(Math.max(...roots(0.02))).toBeLessThanOrEqual(0.02 + 1e-9);
    // A start in the middle of a steady walk is no jerk.
    const walk = makeRow(6, 0.4, 1, (t) => ({ place: [1.5 * t, 0, 0], turn: 0 }));
    const f = simulateAll(walk, shotOf(walk, { rootSlide: 0.02, hold: 3, gravity: 0 }));
    expect(Math.max(...f.translations.slice(0, 3 * 6 * 10).map(Math.abs))).toBeLessThan(0.4 / 6 + 1e-4);
    expect(Math.abs(f.translations[3 * 6 * 3]!)).toBeLessThan(1e-4);
  });
});

describe('time', () => {
  const c = makeRow(8, 0.5, 2, (t) => ({ place: [0, 0, 0], turn: 0.7 * Math.sin(2 * Math.PI * t) }), level);
  it('anchor poses meet the source exactly and ease in and out', () => {
    const f = simulateAll(
      c,
      shotOf(c, { hold: 0.6, bend: 0.8 }, (p) => {
        p.anchors = [
          { frame: 0, easeIn: 8, easeOut: 8, hold: 0, turns: null },
          { frame: 30, easeIn: 8, easeOut: 12, hold: 0, turns: null },
        ];
      }),
    );
    for (const k of [0, 30]) {
      expect(f.tipOffSource[k]!).toBeLessThan(1e-6);
      for (let i = 0; i < f.joints.length; i++) {
        const o = 4 * (k * f.joints.length + i);
        expect(Array.from(f.rotations.slice(o, o + 3)).every((x) => Math.abs(x) < 1e-9)).toBe(true);
      }
    }
    expect(f.tipOffSource[15]!).toBeGreaterThan(0.01);
    // No kick: the tip's path bends no more sharply at the anchor than elsewhere.
    const bendAt = (k: number) =>
      Math.hypot(...tip(f, k).map((x, a) => tip(f, k - 1)[a]! - 2 * x + tip(f, k + 1)[a]!));
    const usual = Math.max(...Array.from({ length: 40 }, (_, k) => bendAt(k + 12)));
    expect(bendAt(30)).toBeLessThanOrEqual(usual);
  });
  it('a settled start does not move by itself; running up gives what the whole clip gives', () => {
    const still0 = makeRow(8, 0.5, 1, still, level);
    const f = simulateAll(
      still0,
      shotOf(still0, { hold: 0.5, bend: 0.5, damping: 0.1 }, (_, s) => void (s.start = 'settled')),
    );
    expect(f.start.settled).toMatchObject({ still: true });
    expect(Math.hypot(...tip(f, 0).map((x, a) => x - tip(f, f.count - 1)[a]!))).toBeLessThan(1e-4);
    const whole = simulateAll(
      c,
      shotOf(c, { damping: 0.2 }, (_, s) => void (s.start = 'run up')),
    );
    const late = simulateAll(
      c,
      shotOf(c, { damping: 0.2 }, (_, s) => {
        s.start = 'run up';
        s.range = { first: 20, last: 60 };
        s.preRollSeconds = 20 / s.fps;
      }),
    );
    for (let k = 0; k < late.count - 1; k++)
      tip(late, k).forEach((x, a) => expect(x).toBeCloseTo(tip(whole, 20 + k)[a]!, 4));
  });
  it('a loop closes to 1e-6 in place and in speed, in place and travelling', () => {
    for (const speed of [0, 1.5]) {
      const going = makeRow(8, 0.5, 2, (t) => ({
        place: [speed * t, 0.05 * Math.sin(2 * Math.PI * t), 0],
        turn: 0.7 * Math.sin(2 * Math.PI * t),
      }));
      const shot = shotOf(going, { hold: 0.8, bend: 1, damping: 0.04 }, (_, s) => {
        s.loop = true;
        s.range = { first: 0, last: 29 };
      });
      const f = simulateAll(going, shot);
      expect(f.start.loop).toMatchObject({ found: true });
      expect(f.start.loop!.laps).toBeLessThan(40);
      // The same over two periods: each frame comes again a period later.
      const two = simulateAll(going, { ...shot, range: { first: 0, last: 59 } });
      for (let k = 0; k < 30; k++)
        for (let i = 0; i < 4 * f.joints.length; i++)
          expect(
            Math.abs(
              two.rotations[4 * (30 + k) * f.joints.length + i]! -
                two.rotations[4 * k * f.joints.length + i]!,
            ),
          ).toBeLessThan(1e-6);
    }
  });
  it('a travelling loop among what rides along is the loop in place', () => {
    const run = (speed: number) => {
      const going = makeRow(
        8,
        0.5,
        1,
        (t) => ({
          place: [speed * t, 0, 0],
          turn: 0.7 * Math.sin(2 * Math.PI * t),
        }),
        level,
      );
      return simulateAll(
        going,
        shotOf(going, { hold: 1, bend: 1, damping: 0.3, thickness: 0.01, friction: 0 }, (_, s) => {
          s.loop = true;
          s.airDensity = 0;
          s.colliders.c = Collider.parse({
            id: 'c',
            name: 'Ball',
            t: [0.25, -0.12, 0],
            shape: { kind: 'sphere', radius: 0.06 },
            attachedTo: { node: 0, name: 'root' },
          });
        }),
      );
    };
    const [inPlace, going] = [run(0), run(1.5)];
    expect(Math.max(...inPlace.contacts)).toBeGreaterThan(0);
    expect(going.start.loop).toMatchObject({ found: true });
    // (With friction more than one motion may repeat: what sticks, sticks where it came to.)
    going.rotations.forEach((x, k) => expect(Math.abs(x - inPlace.rotations[k]!)).toBeLessThan(1e-4));
  });
  it('a clip that does not end as it begins is said to have no loop', () => {
    const off = makeRow(6, 0.4, 1, (t) => ({ place: [0, 0, 0], turn: t * t }));
    const f = simulateAll(
      off,
      shotOf(off, {}, (_, s) => void (s.loop = true)),
    );
    expect(f.start.loop).toMatchObject({ found: false, why: 'clip' });
    expect(f.rotations.every(Number.isFinite)).toBe(true);
  });
  it('a wild root — a teleport, 720° a second, a scale of nothing — gives numbers', () => {
    const wild = makeRow(8, 0.5, 1.5, (t) => ({ place: [t > 0.7 ? 5 : 0, 0, 0], turn: 4 * Math.PI * t }));
    const times = Float64Array.of(0, 0.5, 0.6, 1.5);
    const clip = wild.clips[0]! as { channels: (typeof wild.clips)[0]['channels'] };
    (clip.channels as (typeof wild.clips)[0]['channels'][number][]).push({
      node: 3,
      path: 'scale',
      interpolation: 'LINEAR',
      times,
      values: Float64Array.of(1, 1, 1, 0, 0, 0, 1, 1, 1, 1, 1, 1),
    });
    const f = simulateAll(wild, shotOf(wild, {}));
    expect(f.rotations.every(Number.isFinite)).toBe(true);
    expect(f.tips.every((x) => Math.abs(x) < 20)).toBe(true);
  });
});
