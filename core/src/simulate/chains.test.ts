import { describe, expect, it } from 'vitest';
import { makeRow, rowShot, type RootMotion } from '../../truth/rig';
import { Collider, Force } from '../model/index';
import { asChain, makeChainPart, type ChainPart, type ChainSettings } from '../parts/chain/shared';
import { editShot, type Shot } from '../shot/index';
import type { Frames } from '../frames/index';
import { simulateAll } from './index';

const still: RootMotion = () => ({ place: [0, 0, 0], turn: 0 });
const swing: RootMotion = (t) => ({ place: [0, 0, 0], turn: 0.8 * Math.sin(5 * t) });
const level = { direction: [1, 0, 0] as const };

/** A shot of one row with its part changed. */
function shotOf(
  character: ReturnType<typeof makeRow>,
  settings: Partial<ChainSettings>,
  recipe: (part: ChainPart, shot: Shot) => void = () => undefined,
): Shot {
  return editShot(rowShot(character, settings), 'test-0001', 'Change', (d) =>
    recipe(d.parts.p as ChainPart, d as Shot),
  ).shot;
}
const tip = (f: Frames, k: number, chain = 0) =>
  [0, 1, 2].map((a) => f.tips[3 * (k * f.parts.length + chain) + a]!);
const mean = (list: ArrayLike<number>) => Array.from(list).reduce((a, b) => a + b, 0) / list.length;

describe('settings of a chain', () => {
  it('delay hands the turn on link by link: the tip comes later the longer the delay', () => {
    const c = makeRow(8, 0.5, 2, (t) => ({ place: [0, 0, 0], turn: Math.min(1, 3 * t) }), level);
    // The first frame at which the tip is half way round.
    const half = (delay: number) => {
      const f = simulateAll(c, shotOf(c, { delay, hold: 8, bend: 0, damping: 1, gravity: 0 }));
      for (let k = 0; k < f.count; k++) if (Math.atan2(tip(f, k)[1]!, tip(f, k)[0]!) > 0.5) return k;
      return Infinity;
    };
    expect(half(1)).toBeGreaterThan(half(0) + 2);
    expect(half(2)).toBeGreaterThan(half(1) + 2);
  });
  it('delay works on a long shot too', () => {
    const c = makeRow(10, 0.5, 20, swing);
    expect(simulateAll(c, shotOf(c, { delay: 1.5 })).count).toBe(601);
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
      mean(simulateAll(turning, shotOf(turning, { turn, travel: turn, gravity: 0, hold: 1, bend: 1 })).stray);
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
    expect(mean(tipped.tipStray)).toBeGreaterThan(1.3 * mean(even.tipStray));
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
    expect(mean(keyed.tipStray.slice(40))).toBeGreaterThan(1.3 * mean(even.tipStray.slice(40)));
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
    expect(Math.max(...limited.stray)).toBeLessThan(12.01);
    expect(Math.max(...limited.stray)).toBeGreaterThan(11);
    const blown = (lock: 'none' | 'z') =>
      simulateAll(
        c,
        shotOf(c, { hold: 0.5, bend: 0.5, thickness: 0.01 }, (p, s) => {
          p.planeLock = lock;
          s.forces.w = Force.parse({ id: 'w', name: 'Wind', kind: 'wind', direction: [0, 0, 1], speed: 10 });
        }),
      );
    const out = (f: Frames) =>
      Math.max(...Array.from({ length: f.count }, (_, k) => Math.abs(tip(f, k)[2]!)));
    expect(out(blown('none'))).toBeGreaterThan(0.05);
    expect(out(blown('z'))).toBeLessThan(1e-6);
  });
  it('shift lets the whole chain slide off its place, never farther than asked', () => {
    const c = makeRow(6, 0.4, 2, (t) => ({ place: [0.1 * Math.sin(12 * t), 0, 0], turn: 0 }));
    const roots = (shift: number) => {
      const f = simulateAll(c, shotOf(c, { shift, hold: 3, gravity: 0 }));
      return Array.from({ length: f.count }, (_, k) =>
        Math.hypot(...f.translations.slice(3 * k * f.joints.length, 3 * k * f.joints.length + 3)),
      );
    };
    expect(Math.max(...roots(0))).toBe(0);
    expect(Math.max(...roots(0.02))).toBeGreaterThan(0.005);
    expect(Math.max(...roots(0.02))).toBeLessThanOrEqual(0.02 + 1e-9);
    // A start in the middle of a steady walk is no jerk.
    const walk = makeRow(6, 0.4, 1, (t) => ({ place: [1.5 * t, 0, 0], turn: 0 }));
    const f = simulateAll(walk, shotOf(walk, { shift: 0.02, hold: 3, gravity: 0 }));
    expect(Math.max(...f.translations.slice(0, 3 * 6 * 10).map(Math.abs))).toBeLessThan(0.4 / 6 + 1e-4);
    expect(Math.abs(f.translations[3 * 6 * 3]!)).toBeLessThan(1e-4);
  });
});

describe('what a chain meets', () => {
  const ball = (rest: object = {}) =>
    Collider.parse({
      id: 'c',
      name: 'Ball',
      t: [0.1, -0.35, 0],
      shape: { kind: 'sphere', radius: 0.1 },
      ...rest,
    });
  it('lies on a ball instead of going through it, and lets it be when told to', () => {
    const c = makeRow(10, 0.5, 2, still, { direction: [0.6, -0.8, 0] });
    const feel = { hold: 0, bend: 0.3, damping: 0.3, thickness: 0.01 };
    const meet = simulateAll(
      c,
      shotOf(c, feel, (_, s) => void (s.colliders.c = ball())),
    );
    const pass = simulateAll(
      c,
      shotOf(c, feel, (p, s) => {
        s.colliders.c = ball();
        p.touches.colliders = [];
      }),
    );
    expect(Math.max(...meet.contacts)).toBeGreaterThan(0);
    expect(Math.max(...pass.contacts)).toBe(0);
    expect(Math.max(...meet.depth.slice(2))).toBeLessThan(1e-4);
    expect(tip(meet, 59)).not.toEqual(tip(pass, 59));
  });
  it('pushes a free ball away', () => {
    const c = makeRow(8, 0.4, 1.5, swing, level);
    const f = simulateAll(
      c,
      shotOf(c, { hold: 3, bend: 3, thickness: 0.01, gravity: 0 }, (_, s) => {
        s.gravity = [0, 0, 0];
        s.colliders.c = ball({
          t: [0.3, 0.12, 0],
          shape: { kind: 'sphere', radius: 0.05 },
          free: { mass: 0.02 },
        });
      }),
    );
    const at = (k: number) => f.placements.slice(7 * k, 7 * k + 3);
    expect(at(0)[1]).toBeCloseTo(0.12, 6);
    expect(Math.hypot(...at(f.count - 1).map((x, k) => x - at(0)[k]!))).toBeGreaterThan(0.1);
  });
  it('two chains that touch keep apart; the order they stand in the document changes nothing', () => {
    const c = makeRow(12, 0.6, 2, still, { direction: [1, 0, 0] });
    // The lower half swings up past the upper one's place.
    const shot = (flip: boolean) =>
      editShot(rowShot(c, {}), 'test-0001', 'Split', (d) => {
        const { joints } = asChain(d.parts.p);
        const part = (id: string, list: typeof joints) =>
          makeChainPart({
            id,
            name: id,
            joints: list,
            settings: { hold: 0, bend: 0.5, thickness: 0.02 },
            touches: { parts: 'all' },
          });
        const both = [part('a', joints.slice(0, 6)), part('b', joints.slice(6))];
        d.parts = Object.fromEntries((flip ? both.reverse() : both).map((p) => [p.id, p]));
      }).shot;
    expect(simulateAll(c, shot(true)).rotations).toEqual(simulateAll(c, shot(false)).rotations);
  });
  it('what one chain gives another in touching ends when they part', () => {
    // The lower half is thrown against the upper one, then all comes to rest; no air, no weight.
    const c = makeRow(
      12,
      0.6,
      5,
      (t) => ({ place: [0, 0, 0], turn: t < 0.6 ? 2.5 * Math.sin(8 * t) : 2.5 * Math.sin(4.8) }),
      level,
    );
    const shot = editShot(rowShot(c, {}, { gravity: [0, 0, 0] }), 'test-0001', 'Split', (d) => {
      d.airDensity = 0;
      const { joints } = asChain(d.parts.p);
      const settings = { hold: 1, bend: 0.3, damping: 0.4, thickness: 0.03, friction: 0 };
      const part = (id: string, list: typeof joints) =>
        makeChainPart({ id, name: id, joints: list, settings, touches: { parts: 'all' } });
      d.parts = { a: part('a', joints.slice(0, 6)), b: part('b', joints.slice(6)) };
    }).shot;
    const f = simulateAll(c, shot);
    expect(Math.max(...f.contacts)).toBeGreaterThan(0);
    expect(f.contacts[2 * (f.count - 1)]! + f.contacts[2 * (f.count - 1) + 1]!).toBe(0);
    expect(f.tipStray[2 * (f.count - 1)]!).toBeLessThan(2e-3);
    expect(f.tipStray[2 * (f.count - 1) + 1]!).toBeLessThan(2e-3);
  });
  it('a heavy chain that pulls back draws down what it hangs from, by its weight and no more', () => {
    const c = makeRow(12, 0.6, 3, still, level);
    const droop = (pullsBack: boolean, weight: number) => {
      const shot = editShot(rowShot(c, {}), 'test-0001', 'Split', (d) => {
        const { joints } = asChain(d.parts.p);
        const settings = { hold: 0, bend: 3, damping: 0.8 };
        d.parts = {
          a: makeChainPart({ id: 'a', name: 'a', joints: joints.slice(0, 6), settings }),
          b: makeChainPart({
            id: 'b',
            name: 'b',
            joints: joints.slice(6),
            settings: { ...settings, bend: 0, weight },
            pullsBack,
          }),
        };
      }).shot;
      const f = simulateAll(c, shot);
      const upper = f.parts.findIndex((k) => k.partId === 'a');
      return -tip(f, f.count - 1, upper)[1]!;
    };
    const alone = droop(false, 0.1);
    expect(droop(false, 2)).toBeCloseTo(alone, 9);
    expect(droop(true, 0.1)).toBeGreaterThan(1.5 * alone);
    expect(droop(true, 0.3)).toBeGreaterThan(droop(true, 0.1));
    // Twenty times as heavy as its parent: it hangs, and nothing flies apart.
    expect(droop(true, 2)).toBeLessThanOrEqual(0.3 + 1e-6);
    expect(droop(true, 2)).toBeGreaterThan(0.2);
  });
  it('wind takes hold of what stands across it more than of what lies along it', () => {
    const strayed = (direction: readonly [number, number, number]) => {
      const c = makeRow(8, 0.5, 1.5, still, { direction });
      return mean(
        simulateAll(
          c,
          shotOf(c, { hold: 2, bend: 2, gravity: 0, thickness: 0.01 }, (_, s) => {
            s.forces.w = Force.parse({
              id: 'w',
              name: 'Wind',
              kind: 'wind',
              direction: [1, 0, 0],
              speed: 8,
              turbulence: 0,
              gust: 0,
            });
          }),
        ).tipStray,
      );
    };
    expect(strayed([0, -1, 0])).toBeGreaterThan(20 * strayed([1, 0, 0]));
  });
  it('a tie holds the tip where it is tied until it breaks', () => {
    const c = makeRow(
      10,
      0.5,
      2,
      (t) => ({ place: [t > 0.5 ? Math.min(0.3, (t - 0.5) * 0.6) : 0, 0, 0], turn: 0 }),
      {
        direction: [0, -1, 0],
      },
    );
    const tied = (breakAt: number) =>
      simulateAll(
        c,
        shotOf(c, { hold: 0, bend: 0, damping: 0.5 }, (p, s) => {
          s.colliders.c = Collider.parse({
            id: 'c',
            name: 'Peg',
            t: [0, -0.5, 0],
            shape: { kind: 'sphere', radius: 0.01 },
          });
          p.touches.colliders = [];
          p.tie = { to: { collider: s.colliders.c.id }, t: [0, 0, 0], breakAt };
        }),
      );
    const slack = tied(1e5);
    // 0.5 m of chain cannot reach 0.58 m: it stays taut toward the peg.
    expect(Math.hypot(tip(slack, 10)[0]!, tip(slack, 10)[1]! + 0.5)).toBeLessThan(1e-4);
    expect(tip(slack, 59)[0]!).toBeLessThan(0.1);
    expect(tip(tied(0.02), 59)[0]!).toBeGreaterThan(0.2);
  });
  it('a tip tied to a joint of the character stays with it', () => {
    const c = makeRow(10, 0.5, 1, (t) => ({ place: [0.2 * Math.sin(4 * t), 0, 0], turn: 0 }), level);
    const f = simulateAll(
      c,
      shotOf(c, { hold: 0.2, bend: 0.2, damping: 0.5 }, (p) => {
        p.tie = { to: { joint: { node: 0, name: 'root' } }, t: [0.3, 0, 0], breakAt: 1e5 };
      }),
    );
    for (const k of [15, 29]) {
      expect(Math.abs(tip(f, k)[0]! - 0.2 * Math.sin((4 * k) / 30) - 0.3)).toBeLessThan(1e-3);
      expect(Math.abs(tip(f, k)[1]!)).toBeLessThan(1e-3);
    }
  });
  it('a pull by hand draws a link along its path and lets it go', () => {
    const c = makeRow(8, 0.4, 2, still);
    const path = Array.from({ length: 20 }, (_, k) => [0.015 * k, -0.3, 0] as [number, number, number]);
    const f = simulateAll(
      c,
      shotOf(c, { hold: 1, bend: 1 }, (p) => {
        p.pulls = [{ id: 'hand', link: 7, along: 1, first: 5, path, strength: 8, slip: 1e5 }];
      }),
    );
    expect(Math.abs(tip(f, 4)[0]!)).toBeLessThan(1e-6);
    expect(tip(f, 24)[0]!).toBeGreaterThan(0.15);
    expect(Math.abs(tip(f, 59)[0]!)).toBeLessThan(0.15);
  });
});

describe('time', () => {
  const c = makeRow(8, 0.5, 2, (t) => ({ place: [0, 0, 0], turn: 0.7 * Math.sin(2 * Math.PI * t) }), level);
  it('anchor poses meet the source exactly and ease in and out', () => {
    const f = simulateAll(
      c,
      shotOf(c, { hold: 0.6, bend: 0.8 }, (p) => {
        p.anchors = [
          { frame: 0, easeIn: 8, easeOut: 8 },
          { frame: 30, easeIn: 8, easeOut: 12 },
        ];
      }),
    );
    for (const k of [0, 30]) {
      expect(f.tipStray[k]!).toBeLessThan(1e-6);
      for (let i = 0; i < f.joints.length; i++) {
        const o = 4 * (k * f.joints.length + i);
        expect(Array.from(f.rotations.slice(o, o + 3)).every((x) => Math.abs(x) < 1e-9)).toBe(true);
      }
    }
    expect(f.tipStray[15]!).toBeGreaterThan(0.01);
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
        s.preRoll = 20;
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
            rides: { node: 0, name: 'root' },
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
