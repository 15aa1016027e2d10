import { expect, it } from 'vitest';
import { Collider } from '@oscillum/core/model';
import { NOTHING } from '../sim/picture';
import { colliderOutlines } from './outlines';
import type { InkScene } from './pen';

/** What a viewer far out on +z sees of one collider on its side at (1, 2, 3): 100 px a metre. */
const outline = (shape: Collider['shape'], worked: boolean) => {
  const s = Math.SQRT1_2;
  const frames = { first: 0, count: 1, done: 1, colliders: ['c'], placements: [1, 2, 3, 0, 0, s, s] };
  const [drawn] = colliderOutlines({
    view: {
      frame: 0,
      shot: { colliders: { c: Collider.parse({ id: 'c', name: 'C', shape }) } },
      picture: { ...NOTHING, frames },
      thing: worked ? { kind: 'collider', id: 'c' } : null,
    },
    right: [1, 0, 0],
    project: (a: ArrayLike<number>, o: number) => [100 * a[o]!, -100 * a[o + 1]!] as const,
  } as unknown as InkScene);
  return drawn!.lines;
};

it('a ball is drawn as one circle, a capsule by its contour round both ends, both closed', () => {
  const [circle, ...more] = outline({ kind: 'sphere', radius: 0.2 }, false);
  expect(more).toEqual([]);
  for (const [x, y] of circle!) expect(Math.hypot(x - 100, y + 200)).toBeCloseTo(20, 9);

  const [contour] = outline({ kind: 'capsule', radius: 0.2, length: 1 }, false);
  const xs = contour!.map((p) => p[0]);
  const ys = contour!.map((p) => p[1]);
  expect([Math.min(...xs), Math.max(...xs)].map(Math.round)).toEqual([30, 170]);
  expect([Math.min(...ys), Math.max(...ys)].map(Math.round)).toEqual([-220, -180]);
  expect(contour!.at(-1)).toEqual(contour![0]);
  // Nothing crosses: every point is as far from the axis between the ends.
  for (const [x, y] of contour!)
    expect(Math.hypot(x - Math.min(150, Math.max(50, x)), y + 200)).toBeCloseTo(20, 9);
});

it('the one that is worked on shows its rings too', () => {
  expect(outline({ kind: 'sphere', radius: 0.2 }, true)).toHaveLength(4);
  expect(outline({ kind: 'capsule', radius: 0.2, length: 1 }, true)).toHaveLength(5);
});
