import { describe, expect, it } from 'vitest';
import { level, mean, shotOf, still, swing, tip } from '../../test/row';
import { makeRow, rowShot } from '../../truth/rig';
import { Collider, Force } from '../model/index';
import { asChain, makeChainPart } from '../parts/chain/shared';
import { editShot } from '../shot/index';
import { simulateAll } from './index';

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
        p.collidesWith.colliders = [];
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
            collidesWith: { parts: 'all' },
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
        makeChainPart({ id, name: id, joints: list, settings, collidesWith: { parts: 'all' } });
      d.parts = { a: part('a', joints.slice(0, 6)), b: part('b', joints.slice(6)) };
    }).shot;
    const f = simulateAll(c, shot);
    expect(Math.max(...f.contacts)).toBeGreaterThan(0);
    expect(f.contacts[2 * (f.count - 1)]! + f.contacts[2 * (f.count - 1) + 1]!).toBe(0);
    expect(f.tipOffSource[2 * (f.count - 1)]!).toBeLessThan(2e-3);
    expect(f.tipOffSource[2 * (f.count - 1) + 1]!).toBeLessThan(2e-3);
  });
  it('a heavy chain that pulls back draws down what it hangs from, by its weight and no more', () => {
    const c = makeRow(12, 0.6, 3, still, level);
    const droop = (pullsParent: boolean, weight: number) => {
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
            pullsParent,
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
        ).tipOffSource,
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
          p.collidesWith.colliders = [];
          p.tipPin = { to: { collider: s.colliders.c.id }, t: [0, 0, 0], breakAt };
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
        p.tipPin = { to: { joint: { node: 0, name: 'root' } }, t: [0.3, 0, 0], breakAt: 1e5 };
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
