import { expect, it } from 'vitest';
import { makeRow, rowShot } from '../../truth/rig';
import { Collider } from '../model/index';
import { editShot } from '../shot/index';
import { simulateAll, stepsAFrame } from './index';

it('a step is never longer than 1/120 s, nor than 1/240 s among free colliders, and never longer than asked', () => {
  expect(stepsAFrame(24, 4, false)).toBe(5);
  expect(stepsAFrame(30, 4, false)).toBe(4);
  expect(stepsAFrame(30, 4, true)).toBe(8);
  expect(stepsAFrame(60, 16, true)).toBe(16);
  expect(stepsAFrame(480, 1, false)).toBe(1);
});

it('a shot that asks for fewer is the shot with as many, to the bit', () => {
  const c = makeRow(6, 0.4, 1, (t) => ({ place: [0, 0, 0], turn: Math.sin(6 * t) }));
  const run = (substeps: number, free: boolean) =>
    simulateAll(
      c,
      editShot(rowShot(c, { thickness: 0.01 }, { fps: 24, substeps }), 'test-0001', 'Add a ball', (d) => {
        d.colliders.b = Collider.parse({
          id: 'b',
          name: 'Ball',
          shape: { kind: 'sphere', radius: 0.05 },
          t: [0.1, -0.3, 0],
          free: free ? { mass: 0.1 } : null,
        });
      }).shot,
    ).rotations;
  expect(run(2, false)).toEqual(run(5, false));
  expect(run(4, true)).toEqual(run(10, true));
  expect(run(8, false)).not.toEqual(run(5, false));
});
