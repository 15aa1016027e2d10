import type { Character } from '../src/character/index';
import { readGltf } from '../src/formats/gltf/index';
import { makeShot, type Shot } from '../src/shot/index';
import { Maker } from './maker';

/** A mesh of a figure: places (m, 3 numbers a vertex) and 3 indices a triangle. */
export interface FigureMesh {
  readonly places: ArrayLike<number>;
  readonly triangles: ArrayLike<number>;
  /** Edges without triangles: 2 indices each. */
  readonly lines?: ArrayLike<number>;
  /** A morph target (3 numbers a vertex) that the clip keys to a weight. */
  readonly target?: { readonly moves: ArrayLike<number>; readonly weight: (time: number) => number };
}

/**
 * A figure of one root that carries meshes by name, with one clip: `at` says where the root is (m), and how far it is
 * turned about y (rad), at a time (s); it is keyed at every frame of 1 / fps. `size` keys its scale.
 */
export function makeFigure(
  meshes: Readonly<Record<string, FigureMesh>>,
  seconds: number,
  fps: number,
  at: (time: number) => readonly [x: number, y: number, z: number, turn?: number],
  size: ((time: number) => number) | null = null,
): { character: Character; bytes: Uint8Array<ArrayBuffer>; shot: Shot } {
  const m = new Maker();
  const root = m.node({ name: 'root' });
  const steps = Array.from({ length: Math.round(seconds * fps) + 1 }, (_, k) => k / fps);
  const input = m.times(steps);
  const turns = steps.map((t) => at(t)[3] ?? 0);
  m.clip('Move', [
    {
      node: root,
      path: 'translation',
      input,
      output: m.accessor(
        steps.flatMap((t) => [at(t)[0], at(t)[1], at(t)[2]]),
        'VEC3',
      ),
    },
    ...(size
      ? [
          {
            ...{ node: root, path: 'scale', input },
            output: m.accessor(
              steps.flatMap((t) => [size(t), size(t), size(t)]),
              'VEC3',
            ),
          },
        ]
      : []),
    ...(turns.some((r) => r !== 0)
      ? [
          {
            ...{ node: root, path: 'rotation', input },
            output: m.accessor(
              turns.flatMap((r) => [0, Math.sin(r / 2), 0, Math.cos(r / 2)]),
              'VEC4',
            ),
          },
        ]
      : []),
  ]);
  for (const [name, mesh] of Object.entries(meshes)) addMesh(m, root, name, mesh, { steps, input });
  const bytes = m.glb();
  const character = readGltf(bytes, 'figure.glb');
  const shot = makeShot({
    ...{ name: 'Figure', hash: '0'.repeat(64), fileName: 'figure.glb', fps, metresPerUnit: 1 },
    clip: { index: 0, name: 'Move', duration: character.clips[0]!.duration },
  });
  return { character, bytes, shot };
}

/** The node of a name, as documents name it. */
export const nodeNamed = (character: Character, name: string): { node: number; name: string } => ({
  node: character.nodes.findIndex((n) => n.name === name),
  name,
});

/** Adds a mesh below the root, and the keys of its target. */
function addMesh(
  m: Maker,
  root: number,
  name: string,
  { places, triangles, lines, target }: FigureMesh,
  { steps, input }: { readonly steps: readonly number[]; readonly input: number },
): void {
  const p = Array.from(places);
  const bound = (of: (...v: number[]) => number) =>
    [0, 1, 2].map((a) => of(...p.filter((_, k) => k % 3 === a)));
  const POSITION = m.accessor(p, 'VEC3', 5126, { min: bound(Math.min), max: bound(Math.max) });
  const targets = target && [
    { POSITION: m.accessor(Array.from(target.moves), 'VEC3', 5126, { min: [-1, -1, -1], max: [1, 1, 1] }) },
  ];
  const indices = m.accessor(Array.from(triangles), 'SCALAR', 5125);
  const mesh =
    (m.json.meshes ??= []).push({
      primitives: [
        { attributes: { POSITION }, indices, ...(targets && { targets }) },
        ...(lines
          ? [
              {
                attributes: { POSITION },
                ...{ indices: m.accessor(Array.from(lines), 'SCALAR', 5125), mode: 1 },
              },
            ]
          : []),
      ],
    }) - 1;
  const node = m.node({ name, mesh }, root);
  if (target)
    m.json.animations[0].channels.push({
      sampler:
        m.json.animations[0].samplers.push({
          input,
          output: m.accessor(steps.map(target.weight), 'SCALAR'),
          interpolation: 'LINEAR',
        }) - 1,
      target: { node, path: 'weights' },
    });
}
