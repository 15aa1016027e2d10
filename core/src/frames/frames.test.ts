import { describe, expect, it } from 'vitest';
import {
  COLUMN_NAMES,
  COLUMNS,
  emptyFrames,
  joinStarts,
  layoutOf,
  packRows,
  repeatRow,
  sizesOf,
  unpackRows,
  type Frames,
  type FramesLayout,
} from './index';

/** Two parts: one of joints, scales and readouts, one of morph weights and the vertices of two meshes. */
const LAYOUT: FramesLayout = {
  first: 10,
  count: 4,
  joints: Int32Array.of(3, 4),
  scaled: Int32Array.of(4),
  morphs: [
    { node: 7, target: 0 },
    { node: 7, target: 1 },
  ],
  pointed: [
    { node: 7, vertices: 3 },
    { node: 8, vertices: 2 },
  ],
  readoutNames: ['answer'],
  parts: [
    {
      partId: 'row',
      joints: { from: 0, length: 2 },
      scaled: { from: 0, length: 1 },
      morphs: { from: 0, length: 0 },
      points: { from: 0, length: 0 },
      readouts: { from: 0, length: 1 },
      paths: Uint8Array.of(1, 3),
    },
    {
      partId: 'sheet',
      joints: { from: 2, length: 0 },
      scaled: { from: 1, length: 0 },
      morphs: { from: 0, length: 2 },
      points: { from: 0, length: 5 },
      readouts: { from: 1, length: 0 },
      paths: new Uint8Array(0),
    },
  ],
  colliders: ['ball', 'ground'],
};

/** Frames in which every number is another. */
function filled(): Frames {
  const frames = emptyFrames(LAYOUT);
  let next = 1;
  for (const name of COLUMN_NAMES) frames[name].forEach((_, i) => (frames[name][i] = next++ % 60_000));
  frames.done = frames.count;
  return frames;
}
const all = (frames: Frames) => Object.fromEntries(COLUMN_NAMES.map((k) => [k, [...frames[k]]]));

describe('the table of frames', () => {
  it('has room for so many numbers a frame as its sets have things, times the width of the column', () => {
    const frames = emptyFrames(LAYOUT);
    expect(sizesOf(LAYOUT)).toEqual({
      ...{ joints: 2, scaled: 1, morphs: 2, points: 5, readouts: 1, parts: 2, colliders: 2 },
    });
    expect(frames.rotations.length).toBe(4 * 4 * 2);
    expect(frames.points.length).toBe(4 * 3 * 5);
    for (const name of COLUMN_NAMES) expect(frames[name]).toBeInstanceOf(COLUMNS[name].array);
  });

  it('uses the arrays of frames that nobody needs any more, where they are as long', () => {
    const old = filled();
    const longer = emptyFrames({ ...LAYOUT, pointed: [{ node: 7, vertices: 4 }] }, old);
    expect(longer.rotations).toBe(old.rotations);
    expect(longer.points).not.toBe(old.points);
    expect(longer.done).toBe(0);
  });

  it('packs the columns of some parts and puts them back where they belong, and touches no other', () => {
    const frames = filled();
    for (const parts of [[0], [1], [0, 1], []]) {
      const packed = packRows(frames, { parts, colliders: [1] }, 1, 3);
      const target = emptyFrames(LAYOUT);
      unpackRows(target, packed);
      const own = (
        p: number,
        span: 'joints' | 'points' | 'morphs',
        width: number,
        name: 'rotations' | 'points' | 'weights',
      ) => {
        const { from, length } = LAYOUT.parts[p]![span];
        const wide = width * sizesOf(LAYOUT)[span];
        for (let f = 0; f < 4; f++)
          for (let k = width * from; k < width * (from + length); k++) {
            const here = parts.includes(p) && f >= 1 && f < 3;
            expect(target[name][wide * f + k], `${name} ${k} of frame ${f}`).toBe(
              here ? frames[name][wide * f + k] : 0,
            );
          }
      };
      own(0, 'joints', 4, 'rotations');
      own(1, 'points', 3, 'points');
      own(1, 'morphs', 1, 'weights');
      expect([...target.placements.subarray(14, 21)]).toEqual([0, 0, 0, 0, 0, 0, 0]);
      expect([...target.placements.subarray(21, 28)]).toEqual([...frames.placements.subarray(21, 28)]);
    }
  });

  it('gives back every number when all of it is packed and unpacked', () => {
    const frames = filled();
    const target = emptyFrames(LAYOUT);
    unpackRows(target, packRows(frames, { parts: [0, 1], colliders: [0, 1] }, 0, 4));
    expect(all(target)).toEqual(all(frames));
  });

  it('tells another thread what it needs to make room, and no rows', () => {
    const layout = layoutOf(filled());
    expect(layout).toEqual(LAYOUT);
    expect(emptyFrames(structuredClone(layout)).points.length).toBe(60);
  });

  it('carries tips, vertices and colliders by the travel when the last frame is the first again', () => {
    const frames = filled();
    const before = all(frames);
    // A quarter turn about y, then 2 m along x: (x, y, z) goes to (z + 2, y, −x).
    const travel = Float64Array.of(2, 0, 0, 0, Math.SQRT1_2, 0, Math.SQRT1_2);
    repeatRow(frames, { parts: [1], colliders: [0] }, 0, 3, travel);
    const wide = 3 * 5;
    for (let v = 0; v < 5; v++) {
      const [x, y, z] = before.points!.slice(3 * v, 3 * v + 3) as [number, number, number];
      [z + 2, y, -x].forEach((want, a) =>
        expect(frames.points[3 * wide + 3 * v + a], `vertex ${v}, axis ${a}`).toBeCloseTo(want, 3),
      );
    }
    const [x, y, z] = before.tips!.slice(3, 6) as [number, number, number];
    expect([...frames.tips.subarray(21, 24)].map(Math.round)).toEqual([z + 2, y, -x]);
    // Weights have no place: they are the first's.
    expect([...frames.weights.subarray(6, 8)]).toEqual(before.weights!.slice(0, 2));
    // What belongs to the other part stays.
    expect([...frames.rotations]).toEqual(before.rotations);
    expect([...frames.tips.subarray(18, 21)]).toEqual(before.tips!.slice(18, 21));
  });
});

describe('how a range was begun by several groups', () => {
  const loop = (found: boolean, laps: number, gap: number, why: '' | 'clip' | 'motion') => ({
    settled: null,
    loop: { found, laps, gap, why, blended: found ? 4 : 0 },
  });
  it('is as the slowest and the worst of them', () => {
    expect(joinStarts([loop(true, 3, 1e-9, ''), loop(false, 40, 0.2, 'motion')]).loop).toEqual({
      ...{ found: false, laps: 40, gap: 0.2, why: 'motion', blended: 4 },
    });
    const settled = (seconds: number, still: boolean, speed: number) => ({
      settled: { seconds, still, speed },
      loop: null,
    });
    expect(joinStarts([settled(2, true, 1e-4), settled(30, false, 0.2)]).settled).toEqual({
      ...{ seconds: 30, still: false, speed: 0.2 },
    });
  });
  it('is nothing when none was asked for', () => {
    expect(joinStarts([{ settled: null, loop: null }])).toEqual({ settled: null, loop: null });
    expect(joinStarts([])).toEqual({ settled: null, loop: null });
  });
});
