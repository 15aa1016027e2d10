import { describe, expect, it } from 'vitest';
import { makeRow, rowShot, type RootMotion } from '../../../truth/rig';
import type { Frames } from '../../frames/index';
import { quatAngle, quatFromAxis } from '../../math/index';
import { editShot } from '../../shot/index';
import { simulateAll, type TrackCache } from '../../simulate/index';
import { asChain, type ChainPart } from './shared';

const sway: RootMotion = (t) => ({ place: [0.1 * Math.sin(5 * t), 0, 0], turn: 0.5 * Math.sin(4 * t) });
const c = makeRow(6, 0.5, 3, sway);
const plain = rowShot(c, { hold: 1.2, bend: 1.5, damping: 0.25 });
const DEGREE = Math.PI / 180;

/** Joint 2 turned by 50° about z, joint 3 by −20°. */
const turned = (degrees: number): [number, number, number, number] => {
  const q = [0, 0, 0, 1];
  quatFromAxis(q, 0, 0, 0, 1, degrees * DEGREE);
  return q as [number, number, number, number];
};
const pose = { frame: 45, easeIn: 10, easeOut: 14, hold: 6, turns: { '2': turned(50), '3': turned(-20) } };
const with_ = (edit: (p: ChainPart) => void) =>
  editShot(plain, 'poses-0001', 'Edit', (d) => edit(asChain(d.parts.p))).shot;
const posed = with_((p) => void p.anchors.push(pose));

const turnOf = (f: Frames, frame: number, joint: number) =>
  f.rotations.subarray(4 * (frame * 6 + joint), 4 * (frame * 6 + joint) + 4);
const off = (f: Frames, frame: number, joint: number, q: ArrayLike<number>) =>
  quatAngle(turnOf(f, frame, joint), 0, q, 0) / DEGREE;

describe('a pose by hand inside the simulation', () => {
  const free = simulateAll(c, plain);
  const held = simulateAll(c, posed);
  it('is met within 0.1° on its frame and for as long as it is held', () => {
    for (let frame = 45; frame <= 51; frame++) {
      expect(off(held, frame, 2, turned(50))).toBeLessThan(0.1);
      expect(off(held, frame, 3, turned(-20))).toBeLessThan(0.1);
    }
    expect(off(free, 45, 2, turned(50))).toBeGreaterThan(10);
  });
  it('leaves what comes before its ease to the bit, and is simulated again after it', () => {
    for (let k = 0; k < 4 * 6 * 34; k++) expect(held.rotations[k]).toBe(free.rotations[k]);
    // After the ease it still swings out of the pose, and comes home to what it would have done.
    expect(off(held, 67, 2, turnOf(free, 67, 2))).toBeGreaterThan(0.3);
    expect(off(held, 89, 2, turnOf(free, 89, 2))).toBeLessThan(off(held, 67, 2, turnOf(free, 67, 2)));
    const jump = (f: Frames) =>
      Math.max(...Array.from({ length: 89 }, (_, k) => off(f, k + 1, 2, turnOf(f, k, 2))));
    expect(jump(held)).toBeLessThan(12);
  });
  it('what is not posed goes on as it is simulated', () => {
    expect(off(held, 45, 5, turnOf(free, 45, 5))).toBeGreaterThan(0.01);
    expect(off(held, 45, 5, turned(0))).toBeGreaterThan(0.1);
  });
  it('stands beside poses that meet the source', () => {
    const both = with_((p) => {
      p.anchors.push(pose, { frame: 20, easeIn: 5, easeOut: 5, hold: 2, turns: null });
    });
    const f = simulateAll(c, both);
    for (let joint = 0; joint < 6; joint++)
      for (const frame of [20, 22]) expect(off(f, frame, joint, [0, 0, 0, 1])).toBeLessThan(1e-6);
    expect(off(f, 45, 2, turned(50))).toBeLessThan(0.1);
  });
  it('moved later, everything before its first ease is taken up again, to the same bits', () => {
    const cache: TrackCache = {};
    simulateAll(c, posed, cache);
    const later = with_((p) => void p.anchors.push({ ...pose, frame: 60 }));
    expect(simulateAll(c, later, cache).rotations).toEqual(simulateAll(c, later).rotations);
  });
});
