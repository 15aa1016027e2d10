import { expect, it } from 'vitest';
import { character, clipNamed, ponchoShot } from '../../../test/poncho';
import { simulateAll } from '../../simulate/index';

it('a loop of folds that never repeats ends in its beginning, without a jump', () => {
  const { duration } = character.clips[clipNamed('Stride').index]!;
  const shot = ponchoShot((p) => void (p.settings.damping = 0.02), {
    ...{ clip: clipNamed('Stride'), range: { first: 0, last: Math.round(30 * duration) } },
    ...{ fps: 30, loop: true },
  });
  const f = simulateAll(character, shot);
  const { loop } = f.start;
  expect(loop?.found).toBe(true);
  expect(loop!.blended).toBeGreaterThan(2);
  const wide = f.points.length / f.count;
  const row = (k: number) => f.points.subarray(k * wide, (k + 1) * wide);
  const step = (a: number, b: number) => row(a).reduce((s, x, i) => Math.max(s, Math.abs(x - row(b)[i]!)), 0);
  const last = f.count - 1;
  expect([...row(last)]).toEqual([...row(0)]);
  // The fastest vertex goes no farther from one frame to the next across the end than within the lap.
  const within = Math.max(...Array.from({ length: last - loop!.blended - 1 }, (_, k) => step(k, k + 1)));
  for (let k = last - loop!.blended; k < last; k++) expect(step(k, k + 1)).toBeLessThan(1.6 * within);
});
