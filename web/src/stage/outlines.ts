import { quatRotate } from '@oscillum/core/math';
import type { Frames } from '@oscillum/core/simulate';
import { framesAt } from '../sim/simulation';
import type { InkScene } from './pen';

/** Row of the frame that is shown, and the frames that hold it. */
export function rowNow({ view }: InkScene): { at: number; rows: Frames } | null {
  const at = Math.round(view.frame) - (view.picture.frames?.first ?? 0);
  const rows = framesAt(view.picture, at);
  return rows && { at, rows };
}

const place = new Float64Array(3);

/** Outlines of the colliders on the frame shown, px: round shapes by the rings across their axes, boxes by their edges. */
export function colliderOutlines(scene: InkScene): { id: string; lines: (readonly [number, number])[][] }[] {
  const { view, project } = scene;
  const now = rowNow(scene);
  if (!now) return [];
  const { at, rows } = now;
  return rows.colliders.flatMap((id, k) => {
    const collider = view.shot.colliders[id];
    if (!collider) return [];
    const o = 7 * (at * rows.colliders.length + k);
    const pixel = (x: number, y: number, z: number) => {
      quatRotate(place, 0, rows.placements, o + 3, [x, y, z], 0);
      for (let a = 0; a < 3; a++) place[a]! += rows.placements[o + a]!;
      return project(place, 0);
    };
    const ring = (r: number, lift: number, tilt: 0 | 1 | 2) =>
      Array.from({ length: 33 }, (_, i) => {
        const [c, s] = [r * Math.cos((i * Math.PI) / 16), r * Math.sin((i * Math.PI) / 16)];
        if (tilt === 0) return pixel(c, lift, s);
        const y = s + (s >= 0 ? lift : -lift);
        return tilt === 1 ? pixel(c, y, 0) : pixel(0, y, c);
      });
    const { shape } = collider;
    const outlines: (readonly [number, number])[][] = [];
    if (shape.kind === 'sphere') for (const t of [0, 1, 2] as const) outlines.push(ring(shape.radius, 0, t));
    if (shape.kind === 'capsule') {
      const half = shape.length / 2;
      outlines.push(ring(shape.radius, half, 0), ring(shape.radius, -half, 0));
      for (const t of [1, 2] as const) outlines.push(ring(shape.radius, half, t));
    }
    if (shape.kind === 'box') {
      const [x, y, z] = shape.size.map((s) => s / 2) as [number, number, number];
      for (const e of [-1, 1]) {
        outlines.push([
          pixel(-x, e * y, -z),
          pixel(x, e * y, -z),
          pixel(x, e * y, z),
          pixel(-x, e * y, z),
          pixel(-x, e * y, -z),
        ]);
        for (const f of [-1, 1]) outlines.push([pixel(e * x, -y, f * z), pixel(e * x, y, f * z)]);
      }
    }
    return [{ id, lines: outlines }];
  });
}

/** The collider whose outline is nearest to a point of the stage, within some pixels. */
export function outlineAt(scene: InkScene, x: number, y: number, within: number): string | null {
  let best = within;
  let found: string | null = null;
  for (const { id, lines } of colliderOutlines(scene))
    for (const points of lines)
      points.slice(1).forEach(([bx, by], i) => {
        const [ax, ay] = points[i]!;
        const [dx, dy] = [bx - ax, by - ay];
        const share = ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy || 1);
        const t = Math.min(1, Math.max(0, share));
        const d = Math.hypot(x - ax - t * dx, y - ay - t * dy);
        if (d > best) return;
        best = d;
        found = id;
      });
  return found;
}
