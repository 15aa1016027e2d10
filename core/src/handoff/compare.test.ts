import { describe, expect, it } from 'vitest';
import type { Motion } from '../formats/motion/index';
import { quatFromAxis } from '../math/index';
import { compareMotions, isSame, troubleIn } from './index';

const still = (name: string, parent: number, y: number) => ({
  ...{ name, parent, t: [0, y, 0], r: [0, 0, 0, 1], s: [1, 1, 1] },
});

/** A root with one joint above it, which nothing hangs from, on two frames. */
function leafy(change: (m: Motion) => void = () => undefined): Motion {
  const joints = [still('root', -1, 0), still('leaf', 0, 1)];
  const rows = <K extends 't' | 'r' | 's'>(k: K) =>
    Float64Array.from([...joints, ...joints].flatMap((j) => j[k]));
  const m = { name: 'Test', joints, fps: 30, first: 0, count: 2, t: rows('t'), r: rows('r'), s: rows('s') };
  change(m);
  return m;
}

describe('motions compared', () => {
  it('are the same when nothing differs', () => {
    const c = compareMotions(leafy(), leafy());
    expect(c).toMatchObject({ joints: 2, frames: 2, distance: 0, degrees: 0, scale: 0 });
    expect(isSame(c, true)).toBe(true);
  });
  it('differ by the turn of a joint that nothing hangs from, though every place is the same', () => {
    const c = compareMotions(
      leafy(),
      leafy((m) => quatFromAxis(m.r, 12, 0, 0, 1, (109 * Math.PI) / 180)),
    );
    expect(c.distance).toBe(0);
    expect(c.degrees).toBeCloseTo(109, 6);
    expect(c.turnJoint).toBe('leaf');
    expect(isSame(c, true)).toBe(false);
    expect(troubleIn(c, true)).toBe('turned by 109.0° at leaf');
  });
  it('differ by a scale, where the format has scales', () => {
    const c = compareMotions(
      leafy(),
      leafy((m) => m.s.fill(1.2, 9, 12)),
    );
    expect(c.scale).toBeCloseTo(0.2, 9);
    expect(isSame(c, true)).toBe(false);
    expect(isSame(c, false)).toBe(true);
    expect(troubleIn(c, true)).toBe('scaled by 20.0 % at leaf');
  });
  it('have no turn to compare where joints are sheared or mirrored', () => {
    for (const s of [
      [1, 3, 1],
      [-1, 1, 1],
    ]) {
      const sheared = (turn: number) =>
        leafy((m) => {
          for (const row of [0, 2]) {
            m.s.set(s, 3 * row);
            quatFromAxis(m.r, 4 * (row + 1), 0, 0, 1, turn);
          }
        });
      expect(compareMotions(sheared(0.5), sheared(0.7)).degrees).toBe(0);
    }
  });
});
