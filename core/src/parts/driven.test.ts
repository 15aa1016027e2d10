import { describe, expect, it } from 'vitest';
import { boxMesh, placesOn, softBodies } from '../../test/parcel';
import { offsetsOf, softPatch } from '../../truth/softRig';
import type { Frames } from '../frames/index';
import { mendShot, type Shot } from '../shot/index';
import { simulateAll } from '../simulate/index';
import { makePendulumPart } from './pendulum/shared';
import type { RegionPart } from './soft/shared';

/** A pendulum that adds to a setting what it is drawn: keys of frame and value, without delay of its own. */
const drive = (part: string, setting: string, keys: readonly (readonly [number, number])[], gain = 1) =>
  makePendulumPart({
    ...{ id: 'breath', name: 'Breath', order: 9 },
    input: {
      ...{ from: 'drawn', cycles: false },
      keys: keys.map(([frame, value]) => ({ frame, value, kind: 'smooth' as const })),
    },
    outputs: [{ id: 'out', target: { does: 'setting', part: part as never, setting }, gain }],
    settings: { frequency: 20, damping: 1 },
  });

const belly = (
  driven: readonly (readonly [number, number])[] | null,
  set: Partial<RegionPart['settings']>,
) => {
  const { character, shot } = softPatch(
    9,
    0,
    () => [0, 0, 0],
    (p, s) => {
      Object.assign(p.settings, { spread: 0, damping: 1, ...set });
      if (driven) s.parts.breath = drive('skin', 'swell', driven);
    },
    { all: true },
  );
  return simulateAll(character, shot);
};
const placeOf = (frames: Frames, id: string) => frames.parts.findIndex((p) => p.partId === id);
/** How far a vertex is off along its normal: this patch faces downwards. */
const height = (frames: Frames, row: number) => -offsetsOf(frames, row, placeOf(frames, 'skin'))[3 * 40 + 1]!;

describe('a pendulum that drives settings', () => {
  it('lifts a soft belly as keys of its swelling do', () => {
    const breath = [
      [0, 0],
      [120, 0.02],
    ] as const;
    const driven = belly(breath, {});
    expect(height(driven, 220)).toBeCloseTo(0.02, 4);
    expect(height(driven, 0)).toBeCloseTo(0, 9);
    const late = Array.from({ length: 100 }, (_, k) => height(driven, 40 + k));
    expect(late.every((y, k) => k === 0 || y >= late[k - 1]! - 1e-7)).toBe(true);
    const set = belly(null, { swell: 0.02 });
    expect(height(set, 220)).toBeCloseTo(0.02, 4);
    // Where volume is kept, what swells is not taken for something that sinks elsewhere.
    expect(height(belly(null, { swell: 0.02, volume: 100 }), 220)).toBeCloseTo(0.02, 4);
    expect(height(belly(null, { swell: 0.02, along: 4 }), 220)).toBeCloseTo(0.02, 4);
  });

  it('changes nothing of a part that it does not drive, and never passes the limits of a setting', () => {
    const plain = belly(null, { swell: 0.01 });
    const other = belly([[0, 0]], { swell: 0.01 });
    expect(offsetsOf(other, 100, placeOf(other, 'skin'))).toEqual(offsetsOf(plain, 100));
    const { character, shot } = softPatch(
      9,
      0,
      (t) => [0, 0.05 * Math.sin(9 * t), 0],
      (_, s) => void (s.parts.breath = drive('skin', 'amount', [[0, -500]])),
    );
    const none = simulateAll(character, shot);
    expect(offsetsOf(none, 30, placeOf(none, 'skin')).every((x) => x === 0)).toBe(true);
  });

  it('fills a soft body by its volume', () => {
    const { character, shot } = softBodies(
      { parcel: boxMesh([0.2, 0.2, 0.2], 2, [0, 0, 0]) },
      () => [0, 0, 0],
      { parcel: { cells: 3, settings: { hold: 0, gravity: 0, damping: 1, volume: 98 } } },
      (d) =>
        void (d.parts.breath = drive('parcel', 'swell', [
          [0, 0],
          [24, 0.3],
        ])),
    );
    const frames = simulateAll(character, shot);
    const own = placeOf(frames, 'parcel');
    // The readout is a share of what it wants to be.
    const { from } = frames.parts[own]!.readouts;
    expect(frames.readouts[40 * frames.readoutNames.length + from]).toBeCloseTo(1, 2);
    expect(Math.max(...placesOn(frames, 40, own))).toBeCloseTo(0.1 * Math.cbrt(1.3), 3);
  });

  it('lets go of what is no longer there, and says which settings there are', () => {
    const { character, shot } = softPatch(9, 0, () => [0, 0, 0]);
    const with_ = (setting: string): Shot => ({
      ...shot,
      parts: { ...shot.parts, breath: drive('skin', setting, [[0, 1]]) },
    });
    expect(() => simulateAll(character, with_('hold'))).toThrow(/no setting hold .* can be driven/);
    const parts = { breath: with_('swell').parts.breath! };
    const [mended] = mendShot({ ...shot, parts });
    expect((mended.parts.breath as { outputs: unknown[] }).outputs).toEqual([]);
  });
});
