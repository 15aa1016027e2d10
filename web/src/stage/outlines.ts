import { quatRotate } from '@oscillum/core/math';
import type { Collider } from '@oscillum/core/model';
import type { Frames } from '@oscillum/core/simulate';
import { framesAt } from '../sim/simulation';
import type { InkScene } from './pen';

/** Row of the frame that is shown, and the frames that hold it. */
export function rowNow({ view }: InkScene): { at: number; rows: Frames } | null {
  const at = Math.round(view.frame) - (view.picture.frames?.first ?? 0);
  const rows = framesAt(view.picture, at);
  return rows && { at, rows };
}

type Shape = Collider['shape'];

/** Points of outlines in a shape's own space, m, three numbers each: round shapes by the rings across their axes, boxes by their edges. */
function outlinesOf(shape: Shape): Float64Array[] {
  const ring = (r: number, lift: number, tilt: 0 | 1 | 2) =>
    Float64Array.from(
      Array.from({ length: 33 }, (_, i) => {
        const [c, s] = [r * Math.cos((i * Math.PI) / 16), r * Math.sin((i * Math.PI) / 16)];
        if (tilt === 0) return [c, lift, s];
        const y = s + (s >= 0 ? lift : -lift);
        return tilt === 1 ? [c, y, 0] : [0, y, c];
      }).flat(),
    );
  if (shape.kind === 'sphere') return ([0, 1, 2] as const).map((t) => ring(shape.radius, 0, t));
  if (shape.kind === 'capsule') {
    const half = shape.length / 2;
    const { radius } = shape;
    return [ring(radius, half, 0), ring(radius, -half, 0), ring(radius, half, 1), ring(radius, half, 2)];
  }
  if (shape.kind !== 'box') return [];
  const [x, y, z] = shape.size.map((s) => s / 2) as [number, number, number];
  const level = (y: number) => Float64Array.of(-x, y, -z, x, y, -z, x, y, z, -x, y, z, -x, y, -z);
  const posts = [-1, 1].flatMap((e) =>
    [-1, 1].map((f) => Float64Array.of(e * x, -y, f * z, e * x, y, f * z)),
  );
  return [level(-y), level(y), ...posts];
}

/** A shape is another object when it has been changed. */
const known = new WeakMap<Shape, Float64Array[]>();
const place = new Float64Array(3);

/** Outlines of the colliders on the frame shown, px. */
export function colliderOutlines(scene: InkScene): { id: string; lines: (readonly [number, number])[][] }[] {
  const { view, project } = scene;
  const now = rowNow(scene);
  if (!now) return [];
  const { at, rows } = now;
  return rows.colliders.flatMap((id, k) => {
    const shape = view.shot.colliders[id]?.shape;
    if (!shape) return [];
    let own = known.get(shape);
    if (!own) known.set(shape, (own = outlinesOf(shape)));
    const o = 7 * (at * rows.colliders.length + k);
    const lines = own.map((points) => {
      const out: (readonly [number, number])[] = [];
      for (let p = 0; p < points.length; p += 3) {
        quatRotate(place, 0, rows.placements, o + 3, points, p);
        for (let a = 0; a < 3; a++) place[a]! += rows.placements[o + a]!;
        out.push(project(place, 0));
      }
      return out;
    });
    return [{ id, lines }];
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
