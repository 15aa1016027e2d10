import { quatRotate } from '@oscillum/core/math';
import type { Collider } from '@oscillum/core/model';
import type { Frames } from '@oscillum/core/frames';
import { framesAt } from '../sim/picture';
import type { InkScene } from './pen';

/** Row of the frame that is shown, and the frames that hold it. */
export function rowNow({ view }: InkScene): { at: number; rows: Frames } | null {
  const at = Math.round(view.frame) - (view.picture.frames?.first ?? 0);
  const rows = framesAt(view.picture, at);
  return rows && { at, rows };
}

type Shape = Collider['shape'];
type Round = Extract<Shape, { radius: number }>;

/**
 * Points of lines on a shape in its own space, m, three numbers each: rings across its axes where it is round, edges of
 * a box.
 */
function linesOn(shape: Shape): Float64Array[] {
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

/** The contour of a ball or capsule placed at `o`, px: each end half round, joined. */
function contour({ project, right }: InkScene, placements: ArrayLike<number>, o: number, shape: Round) {
  const half = shape.kind === 'capsule' ? shape.length / 2 : 0;
  const [a, b] = [half, -half].map((lift) => {
    quatRotate(place, 0, placements, o + 3, [0, lift, 0], 0);
    for (let k = 0; k < 3; k++) place[k]! += placements[o + k]!;
    const [x, y] = project(place, 0);
    for (let k = 0; k < 3; k++) place[k]! += shape.radius * right[k]!;
    const rim = project(place, 0);
    return { x, y, r: Math.hypot(rim[0] - x, rim[1] - y) };
  }) as [{ x: number; y: number; r: number }, { x: number; y: number; r: number }];
  const along = Math.atan2(a.y - b.y, a.x - b.x);
  const bow = ({ x, y, r }: typeof a, from: number) =>
    Array.from({ length: 17 }, (_, i) => {
      const t = from + (i * Math.PI) / 16;
      return [x + r * Math.cos(t), y + r * Math.sin(t)] as const;
    });
  const end = bow(a, along - Math.PI / 2);
  return [...end, ...bow(b, along + Math.PI / 2), end[0]!];
}

/** Outlines of the colliders on the frame shown, px: contours, and on the one that is worked on its rings too. */
export function colliderOutlines(scene: InkScene): { id: string; lines: (readonly [number, number])[][] }[] {
  const { view, project } = scene;
  const now = rowNow(scene);
  if (!now) return [];
  const { at, rows } = now;
  return rows.colliders.flatMap((id, k) => {
    const shape = view.shot.colliders[id]?.shape;
    if (!shape) return [];
    const o = 7 * (at * rows.colliders.length + k);
    const round = 'radius' in shape ? [contour(scene, rows.placements, o, shape)] : [];
    if (round.length > 0 && view.thing?.id !== id) return [{ id, lines: round }];
    let own = known.get(shape);
    if (!own) known.set(shape, (own = linesOn(shape)));
    const lines = own.map((points) => {
      const out: (readonly [number, number])[] = [];
      for (let p = 0; p < points.length; p += 3) {
        quatRotate(place, 0, rows.placements, o + 3, points, p);
        for (let a = 0; a < 3; a++) place[a]! += rows.placements[o + a]!;
        out.push(project(place, 0));
      }
      return out;
    });
    return [{ id, lines: [...round, ...lines] }];
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
