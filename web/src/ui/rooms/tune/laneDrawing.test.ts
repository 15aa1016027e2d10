import type { Frames } from '@oscillum/core/frames';
import { describe, expect, it, vi } from 'vitest';
import { NOTHING, type Picture } from '../../../sim/picture';
import { drawLane, laneData, type LaneDrawing } from './laneDrawing';

/** Frames of two parts: only the columns a lane reads. */
function framesOf(count: number, done: number, offSource: (f: number, part: number) => number): Frames {
  const each = <T>(make: (f: number, part: number) => T) =>
    Array.from({ length: count * 2 }, (_, k) => make(k >> 1, k & 1));
  return {
    ...{ first: 10, count, done },
    parts: [
      { partId: 'tail', readouts: { from: 0, length: 1 } },
      { partId: 'ear', readouts: { from: 1, length: 0 } },
    ],
    readoutNames: ['volume'],
    readouts: Float32Array.from({ length: count }, (_, f) => 1 - f / 100),
    depth: Float32Array.from(each((f, part) => (part === 0 ? f / 1000 : 0))),
    offSource: Float32Array.from(each(offSource)),
    tipOffSource: Float32Array.from(each((f, part) => (part === 0 ? f / 100 : 0))),
    contacts: Uint16Array.from(each((f, part) => (part === 0 && f >= 2 && f < 4 ? 1 : 0))),
  } as unknown as Frames;
}
const picture = (frames: Frames | null): Picture => ({ ...NOTHING, frames });

/** A canvas that writes down what is filled and stroked, with its ink. */
function recorder() {
  const rects: { ink: string; x: number; y: number; w: number; h: number }[] = [];
  const calls: string[] = [];
  const g = new Proxy({ fillStyle: '', rects } as Record<string, unknown>, {
    get: (target, key: string) =>
      key === 'fillRect'
        ? (x: number, y: number, w: number, h: number) =>
            rects.push({ ink: String(target.fillStyle), x, y, w, h })
        : key in target
          ? target[key]
          : () => void calls.push(key),
    set: (target, key: string, value) => ((target[key] = value), true),
  });
  return { g: g as unknown as CanvasRenderingContext2D, rects, calls };
}

describe('what a lane knows of its part', () => {
  it('is its own columns, with the farthest it is off source, and how many frames are of the present settings', () => {
    const data = laneData(picture(framesOf(6, 6, (f, part) => (part === 0 ? 10 * f : 1))), 'tail')!;
    expect([...data.offSource]).toEqual([0, 10, 20, 30, 40, 50]);
    expect(data.lowest[0]).toBeCloseTo(0.95, 6);
    expect(data.deepest).toBeCloseTo(0.005, 6);
    expect([...data.contacts]).toEqual([0, 0, 1, 1, 0, 0]);
    expect(data).toMatchObject({ most: 50, fresh: 6 });
    expect(data.tip).toBeCloseTo(0.05, 6);
    expect(laneData(picture(framesOf(6, 6, (f, part) => (part === 0 ? 10 * f : 1))), 'ear')!.most).toBe(1);
  });
  it('is nothing before the first frame, and of parts that are not simulated', () => {
    expect(laneData(picture(null), 'tail')).toBeNull();
    expect(laneData(picture(framesOf(6, 6, () => 0)), 'wing')).toBeNull();
  });
  it('leaves open what no run has reached', () => {
    const data = laneData(picture(framesOf(6, 3, () => 5)), 'tail')!;
    expect([...data.offSource].map((x) => Number.isNaN(x))).toEqual([false, false, false, true, true, true]);
    expect(data.fresh).toBe(3);
  });
});

describe('a drawn lane', () => {
  vi.stubGlobal(
    'Path2D',
    class {
      moveTo = () => undefined;
      lineTo = () => undefined;
    },
  );
  const lane = (more: Partial<LaneDrawing> = {}): LaneDrawing => ({
    ...{
      part: { anchors: [], keys: {} },
      first: 10,
      preRoll: 0,
      acts: 20,
      from: 10,
      to: 20,
      picked: [],
      troubles: [],
    },
    ...{ full: 30, baked: null, data: laneData(picture(framesOf(11, 11, () => 5)), 'tail') },
    ...more,
  });
  const drawn = (more: Partial<LaneDrawing> = {}) => {
    const r = recorder();
    drawLane(r.g, 100, 40, lane(more));
    return r;
  };

  it('draws contacts on frames that follow one another as one bar, where those frames are', () => {
    const bars = drawn().rects.filter((r) => r.h === 4);
    expect(bars).toEqual([expect.objectContaining({ x: 19, y: 36, w: 12 })]);
  });
  it('shades the pre-roll and marks trouble over its span, three px at least', () => {
    const { rects } = drawn({
      preRoll: 5,
      from: 5,
      to: 25,
      troubles: [
        [15, 20],
        [22, 22],
      ],
    });
    expect(rects[0]).toMatchObject({ x: 0, y: 0, w: 25, h: 40 });
    expect(rects.filter((r) => r.h === 2.5).map((r) => [r.x, r.w])).toEqual([
      [50, 25],
      [85, 3],
    ]);
  });
  it('hatches what is not of the present settings, and only then', () => {
    expect(drawn().calls).not.toContain('clip');
    expect(drawn({ data: laneData(picture(framesOf(11, 4, () => 5)), 'tail') }).calls).toContain('clip');
  });
  it('frames chosen marks, and draws nothing but the ground without data', () => {
    expect(drawn({ picked: [12, 15] }).calls.filter((c) => c === 'strokeRect').length).toBe(2);
    expect(drawn({ data: null }).rects).toEqual([]);
  });
});
