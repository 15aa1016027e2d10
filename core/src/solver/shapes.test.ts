import { describe, expect, it } from 'vitest';
import { mulberry32 } from '../math/index';
import { boundOf, nearestOnSegment, type Shape } from './shapes';

const random = mulberry32(21);
const place = () => [0, 1, 2].map(() => 3 * (random() - 0.5)) as [number, number, number];

/** Signed distance of a place, written down plainly. */
function distance(shape: Shape, [x, y, z]: readonly number[]): number {
  if (shape.kind === 'sphere') return Math.hypot(x!, y!, z!) - shape.radius;
  if (shape.kind === 'capsule') {
    const on = Math.min(shape.half, Math.max(-shape.half, y!));
    return Math.hypot(x!, y! - on, z!) - shape.radius;
  }
  if (shape.kind !== 'box') throw new Error('not here');
  const q = [x!, y!, z!].map((v, k) => Math.abs(v) - shape.half[k]!);
  return Math.hypot(...q.map((v) => Math.max(0, v))) + Math.min(0, Math.max(...q));
}

describe('the nearest place of a segment', () => {
  const shapes: Shape[] = [
    { kind: 'sphere', radius: 0.4 },
    { kind: 'capsule', radius: 0.2, half: 0.7 },
    { kind: 'capsule', radius: 0.3, half: 0 },
    { kind: 'box', half: [0.5, 0.2, 0.8] },
  ];
  it.each(shapes)('to a $kind is nearer than any other place along it, with the way out', (shape) => {
    const out = new Float64Array(5);
    for (let n = 0; n < 200; n++) {
      const [a, b] = [place(), place()];
      nearestOnSegment(out, shape, Float64Array.of(...a, ...b));
      const at = (t: number) => a.map((v, k) => v + t * (b[k]! - v));
      expect(out[1]).toBeCloseTo(distance(shape, at(out[0]!)), 9);
      let least = Infinity;
      for (let k = 0; k <= 200; k++) least = Math.min(least, distance(shape, at(k / 200)));
      expect(out[1]!).toBeLessThan(least + 1e-4);
      // A small step along the normal goes away by as much.
      expect(Math.hypot(out[2]!, out[3]!, out[4]!)).toBeCloseTo(1, 9);
      const step = at(out[0]!).map((v, k) => v + 1e-5 * out[2 + k]!);
      expect((distance(shape, step) - out[1]!) / 1e-5).toBeCloseTo(1, 3);
    }
  });
  it('to ground is its far end, above or below', () => {
    const out = new Float64Array(5);
    nearestOnSegment(out, { kind: 'ground' }, Float64Array.of(0, -1, 0, 2, 0.5, 1));
    expect([...out]).toEqual([1, 0.5, 0, 1, 0]);
  });
  it('a segment of no length is a place; bounds hold their shapes', () => {
    const out = new Float64Array(5);
    for (const shape of shapes) {
      const p = place();
      nearestOnSegment(out, shape, Float64Array.of(...p, ...p));
      expect(out[1]).toBeCloseTo(distance(shape, p), 6);
      const far = place().map((v) => v * 10);
      const l = Math.hypot(...far);
      const edge = far.map((v) => (v / l) * boundOf(shape));
      expect(distance(shape, edge)).toBeGreaterThan(-1e-12);
    }
  });
});
