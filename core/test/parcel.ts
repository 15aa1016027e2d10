import { pointSpans, sizesOf, type Frames } from '../src/frames/index';
import { Collider } from '../src/model/index';
import { makeBodyPart, type BodyPart } from '../src/parts/body/shared';
import { editShot, type Shot } from '../src/shot/index';
import { makeFigure, nodeNamed, type FigureMesh } from './figure';

/** A box about a middle: its eight corners, or faces of n × n squares each, in one piece after welding. */
export function boxMesh(
  size: readonly [number, number, number],
  n = 1,
  middle: readonly [number, number, number] = [0, 0, 0],
): FigureMesh {
  const places: number[] = [];
  const triangles: number[] = [];
  for (let axis = 0; axis < 3; axis++)
    for (const side of [-1, 1]) {
      const base = places.length / 3;
      const [b, c] = side > 0 ? [(axis + 1) % 3, (axis + 2) % 3] : [(axis + 2) % 3, (axis + 1) % 3];
      for (let j = 0; j <= n; j++)
        for (let i = 0; i <= n; i++) {
          const p = [0, 0, 0];
          p[axis] = side / 2;
          p[b!] = i / n - 0.5;
          p[c!] = j / n - 0.5;
          places.push(...p.map((x, a) => middle[a]! + x * size[a]!));
        }
      for (let j = 0; j < n; j++)
        for (let i = 0; i < n; i++) {
          const q = base + j * (n + 1) + i;
          triangles.push(q, q + 1, q + n + 2, q, q + n + 2, q + n + 1);
        }
    }
  return { places, triangles };
}

/** Where a root is at a time (s): its place (m), and how far it is turned about y.  */
export type Way = (time: number) => readonly [number, number, number, number?];
type Own = Partial<Omit<BodyPart, 'settings' | 'kind' | 'id' | 'mesh' | 'name'>> & {
  settings?: Partial<BodyPart['settings']>;
};

/** Meshes that a root carries along a way, each of them a soft body, in a shot of some seconds. */
export function softBodies(
  meshes: Readonly<Record<string, FigureMesh>>,
  way: Way,
  own: Readonly<Record<string, Own>>,
  change: (d: Shot) => void = () => undefined,
  {
    seconds = 2,
    fps = 24,
    size = null,
  }: { seconds?: number; fps?: number; size?: ((time: number) => number) | null } = {},
) {
  const figure = makeFigure(meshes, seconds, fps, way, size);
  const { shot } = editShot(figure.shot, 'soft-00001', 'Make soft bodies', (d) => {
    d.preRollSeconds = 0;
    Object.entries(own).forEach(([name, part], order) => {
      const { settings, ...rest } = part;
      d.parts[name] = makeBodyPart({
        ...{ id: name, name, order, mesh: nodeNamed(figure.character, name) },
        ...(rest as object),
        settings: settings as never,
      });
    });
    change(d as Shot);
  });
  return { ...figure, shot };
}

export const ground = (): Collider =>
  Collider.parse({ id: 'ground', name: 'Ground', shape: { kind: 'ground' }, friction: 0.5 });

/** Places of the vertices of a part on a row, m: 3 numbers each. */
export function placesOn(frames: Frames, row: number, part = 0): Float64Array {
  const at = 3 * row * sizesOf(frames).points;
  return Float64Array.from(
    pointSpans(frames, part).flatMap((s) =>
      Array.from(frames.points.subarray(at + 3 * s.from, at + 3 * s.to)),
    ),
  );
}

/** The middle of some places. */
export const middleOf = (places: Float64Array): [number, number, number] =>
  [0, 1, 2].map((a) => (3 * places.reduce((s, x, k) => s + (k % 3 === a ? x : 0), 0)) / places.length) as [
    ...[number, number, number],
  ];
