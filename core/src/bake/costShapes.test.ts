import { expect, it } from 'vitest';
import { character, ponchoShot } from '../../test/poncho';
import { bakeRefined, fitCosts, type FitCost } from './index';
import { defaultBake, type VertexFit } from './options';

/** Runs a generator to its end. */
function ran<T>(run: Generator<number, T>): T {
  for (;;) {
    const step = run.next();
    if (step.done) return step.value;
  }
}

it('every way to fit tells how its mesh stands where it is farthest off: by what it says is left over', () => {
  const shot = ponchoShot();
  const clip = ran(bakeRefined(character, shot, defaultBake(shot))).clip;
  const ways: VertexFit[] = [
    { to: 'morphs', most: 4, millimetres: 0 },
    { to: 'joints', count: 8, under: null },
  ];
  const exact = clip.channels.find((c) => c.path === 'points')!;
  const check = ({ reports, worst }: FitCost) => {
    const [report, shape] = [reports[0]!, worst[0]!];
    const row = exact.times.indexOf(shape.time);
    expect(row).toBeGreaterThanOrEqual(0);
    const size = shape.places.length;
    let most = 0;
    for (let k = 0; k < size; k += 3)
      most = Math.max(
        most,
        Math.hypot(...[0, 1, 2].map((a) => exact.values[row * size + k + a]! - shape.places[k + a]!)),
      );
    // Shapes are fitted before the skin, which hardly scales here.
    expect(1000 * most).toBeGreaterThan(0.9 * report.largest);
    expect(1000 * most).toBeLessThan(1.1 * report.largest);
    expect(report.largest).toBeGreaterThan(1);
  };
  ran(fitCosts(character, shot, clip, ways)).forEach(check);
});
