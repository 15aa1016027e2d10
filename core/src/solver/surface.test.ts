import { describe, expect, it } from 'vitest';
import { mulberry32 } from '../math/index';
import { makeSurface } from './surface';

/** A ball of triangles round the origin. */
function ball(radius: number, rings: number): { vertices: Float64Array; indices: Uint32Array } {
  const vertices: number[] = [];
  const indices: number[] = [];
  const round = 2 * rings;
  for (let r = 0; r <= rings; r++)
    for (let s = 0; s <= round; s++) {
      const [a, b] = [(Math.PI * r) / rings, (2 * Math.PI * s) / round];
      vertices.push(
        radius * Math.sin(a) * Math.cos(b),
        radius * Math.cos(a),
        radius * Math.sin(a) * Math.sin(b),
      );
    }
  for (let r = 0; r < rings; r++)
    for (let s = 0; s < round; s++) {
      const p = r * (round + 1) + s;
      const q = p + round + 1;
      indices.push(p, p + 1, q, q, p + 1, q + 1);
    }
  return { vertices: Float64Array.from(vertices), indices: Uint32Array.from(indices) };
}

describe('a triangle surface', () => {
  const { vertices, indices } = ball(1, 24);
  const surface = makeSurface(vertices, indices);
  const out = new Float64Array(4);
  const random = mulberry32(8);
  const place = (r: number) => {
    const d = [random() - 0.5, random() - 0.5, random() - 0.5];
    const l = Math.hypot(...d);
    return d.map((x) => (x * r) / l) as [number, number, number];
  };
  it('knows its distance, inside and out, and the way there', () => {
    for (let k = 0; k < 400; k++) {
      const r = 0.2 + 1.8 * random();
      const p = place(r);
      surface.nearest(out, ...p);
      expect(Math.abs(out[0]! - (r - 1))).toBeLessThan(0.01);
      expect((out[1]! * p[0] + out[2]! * p[1] + out[3]! * p[2]) / r).toBeGreaterThan(0.9);
    }
  });
  it('finds what looking at every triangle finds', () => {
    const each = (p: readonly [number, number, number]) => {
      let best = Infinity;
      for (let t = 0; t < indices.length; t += 3) {
        makeSurface(vertices, indices.slice(t, t + 3)).nearest(out, ...p);
        best = Math.min(best, Math.abs(out[0]!));
      }
      return best;
    };
    for (let k = 0; k < 3; k++) {
      const p = place(2 * random());
      const all = each(p);
      surface.nearest(out, ...p);
      expect(Math.abs(out[0]!)).toBeCloseTo(all, 12);
    }
  });
  it('follows its vertices when they move', () => {
    for (let v = 0; v < vertices.length; v++) surface.vertices[v]! *= 2;
    surface.refit();
    surface.nearest(out, 0, 3, 0);
    expect(out[0]).toBeCloseTo(1, 6);
    expect(surface.bound()).toBeCloseTo(2, 6);
  });
  it('a surface of nothing is far from everywhere', () => {
    makeSurface(new Float64Array(0), new Uint32Array(0)).nearest(out, 1, 2, 3);
    expect(out[0]).toBe(Infinity);
  });
});
