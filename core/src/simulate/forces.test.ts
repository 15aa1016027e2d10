import { expect, it } from 'vitest';
import { Force } from '../model/index';
import { forceField } from './forces';

const wind = (rest: object) =>
  Force.parse({ id: 'w', name: 'Wind', kind: 'wind', direction: [1, 0, 0], gust: 0, turbulence: 1, ...rest });
/** What swirls add at a place on a frame, beside the wind's mean. */
function swirlAt(force: Force, frame: number, x: number, mean: number): number[] {
  const field = forceField(force, 30);
  const out = new Float64Array(6);
  field.at(frame);
  field.add(out, x, 0.2, 0.1);
  return [(out[0]! - mean) / mean, out[1]! / mean, out[2]! / mean];
}

it('the swirls of a keyed wind are carried as far as it has blown, not by its speed now times the time', () => {
  // From 0 to 1 m/s over 900 frames: at 1 m/s at last, but it has blown 15 m in 30 s.
  const ramp = wind({
    speedKeys: [
      { frame: 0, value: 0, kind: 'linear' },
      { frame: 900, value: 1, kind: 'linear' },
    ],
  });
  const steady = wind({ speed: 0.5 });
  const [a, b] = [swirlAt(ramp, 900, 3, 1), swirlAt(steady, 900, 3, 0.5)];
  a.forEach((v, k) => expect(v).toBeCloseTo(b[k]!, 9));
});

it('a keyed wind that stays the same is the wind without keys', () => {
  const keyed = wind({ speedKeys: [{ frame: 40, value: 3, kind: 'smooth' }] });
  const [a, b] = [swirlAt(keyed, 55, 0.4, 3), swirlAt(wind({ speed: 3 }), 55, 0.4, 3)];
  a.forEach((v, k) => expect(v).toBeCloseTo(b[k]!, 12));
});
