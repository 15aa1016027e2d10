import { meshTriangles, skinVertices, type Character } from '../character/index';
import type { Collider } from '../model/index';
import { makeSurface, nearestOnSegment, toBody, type Surface } from '../solver/index';
import { shapeOf } from './colliders';
import { meshKey, trianglesOf, type MeshShape } from './meshShape';

/** A collider as it stands on a frame: its place and turn, 7 numbers, m. A mesh stands where the figure does. */
export interface Standing {
  readonly collider: Collider;
  readonly placed: ArrayLike<number>;
}

/** Surfaces of meshes, to be posed: by character and how closely they follow it. */
const surfaces = new WeakMap<Character, Map<string, Surface>>();

/** A mesh of the character as it is posed, in the world. */
function surfaceOf(
  character: Character,
  collider: Collider & { shape: MeshShape },
  world: Float64Array,
  metresPerUnit: number,
): Surface {
  const known = surfaces.get(character) ?? new Map<string, Surface>();
  surfaces.set(character, known);
  const { node } = collider.shape;
  const key = meshKey(collider.shape);
  let surface = known.get(key);
  if (!surface) {
    const rest = new Float64Array(3 * meshTriangles(character, node).vertices);
    skinVertices(rest, character, node, world);
    surface = makeSurface(rest, trianglesOf(character, collider, metresPerUnit));
    known.set(key, surface);
  }
  skinVertices(surface.vertices, character, node, world);
  surface.refit();
  return surface;
}

const found = new Float64Array(5);
const own = new Float64Array(6);
const there = new Float64Array(7);

/**
 * How far places (3 numbers each, m) are from the nearest of some colliders, m: below 0 inside, Infinity where there
 * is none. `world` holds the matrices of the source's pose on that frame.
 */
export function clearances(
  character: Character,
  standing: readonly Standing[],
  world: Float64Array,
  metresPerUnit: number,
  places: ArrayLike<number>,
): Float64Array {
  const out = new Float64Array(places.length / 3).fill(Infinity);
  for (const { collider, placed } of standing) {
    const { shape } = collider;
    const mesh =
      shape.kind === 'mesh' ? surfaceOf(character, { ...collider, shape }, world, metresPerUnit) : null;
    const rigid = shape.kind === 'mesh' ? null : shapeOf(shape);
    there.set(Array.from({ length: 7 }, (_, k) => placed[k] ?? 0));
    for (let p = 0; p < out.length; p++) {
      const [x, y, z] = [places[3 * p]!, places[3 * p + 1]!, places[3 * p + 2]!];
      if (mesh) {
        mesh.nearest(found, x, y, z);
        out[p] = Math.min(out[p]!, found[0]!);
      } else {
        toBody(own, there, x, y, z);
        own.copyWithin(3, 0, 3);
        nearestOnSegment(found, rigid!, own);
        out[p] = Math.min(out[p]!, found[1]!);
      }
    }
  }
  return out;
}
