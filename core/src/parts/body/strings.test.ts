import { describe, expect, it } from 'vitest';
import { boxMesh, middleOf, placesOn, softBodies } from '../../../test/parcel';
import { simulateAll } from '../../simulate/index';
import type { BodyPart } from './document';

const LONG = 0.4;
type Way = Parameters<typeof softBodies>[1];

/** A parcel of 10 cm that hangs below a joint on a string of 40 cm, while the joint goes its way. */
function hanging(way: Way, set: Partial<BodyPart['settings']> = {}, fps = 24) {
  const { character, shot } = softBodies(
    { parcel: boxMesh([0.1, 0.1, 0.1], 2, [0, -LONG - 0.05, 0]) },
    way,
    {
      parcel: {
        cells: 2,
        settings: { hold: 0, droop: 2, ...set },
        strings: [{ joint: { node: 0, name: 'root' }, length: LONG }],
      },
    },
    undefined,
    { seconds: 3, fps },
  );
  const frames = simulateAll(character, shot);
  /** From the joint to the middle of the top, which the string holds, on every frame. */
  const ends = Array.from({ length: frames.count }, (_, f) => {
    const places = placesOn(frames, f);
    const top = Math.max(...places.filter((_, o) => o % 3 === 1));
    const at = way(f / fps);
    const near = Array.from({ length: places.length / 3 }, (_, v) =>
      Math.hypot(...[0, 1, 2].map((a) => places[3 * v + a]! - at[a]!)),
    );
    return { top, middle: middleOf(places), length: Math.min(...near), at };
  });
  return { ends };
}

describe('a soft body on a string', () => {
  it('hangs at the length of its string', () => {
    const { ends } = hanging(() => [0, 0, 0]);
    for (const { length } of ends) expect(Math.abs(length / LONG - 1)).toBeLessThan(0.005);
    const { middle } = ends.at(-1)!;
    expect(Math.abs(middle[0])).toBeLessThan(1e-3);
  });

  it('is left behind and swings, its string no longer than it is', () => {
    const { ends } = hanging((t) => [0.4 * Math.min(1, t / 0.3) ** 2, 0, 0]);
    expect(Math.max(...ends.map((e) => e.length))).toBeLessThan(1.01 * LONG);
    const behind = ends.map((e) => e.middle[0] - e.at[0]);
    expect(Math.min(...behind)).toBeLessThan(-0.15);
    expect(Math.max(...behind)).toBeGreaterThan(0.1);
  });

  it('lies as it likes while its string is slack', () => {
    const { ends } = hanging(() => [0, 0, 0], { gravity: -0.2 });
    expect(Math.min(...ends.map((e) => e.length))).toBeLessThan(0.5 * LONG);
  });

  it('swings the same at 24 and at 60 frames a second', () => {
    const way: Way = (t) => [0.2 * Math.min(1, t / 0.5), 0, 0];
    const [a, b] = [hanging(way, {}, 24), hanging(way, {}, 60)];
    for (const t of [0.5, 1, 1.5])
      a.ends[24 * t]!.middle.forEach((x, k) =>
        expect(Math.abs(x - b.ends[60 * t]!.middle[k]!)).toBeLessThan(0.02 * LONG),
      );
  });
});
