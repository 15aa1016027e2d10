import { meshTriangles, type Character } from '../../character/index';
import { quatConjugate, quatRotate } from '../../math/index';
import { makeSurface, type Surface } from '../../solver/index';
import type { Posed } from '../kind';
import type { Combed } from './brush';
import type { StrandsLayout } from './layout';
import { makeStrandsSource } from './source';

/** Where the roots of guides are on a pose: place, m, and turn from rest, 7 numbers each. */
function posedRoots(layout: StrandsLayout, character: Character, posed: Posed): Float64Array {
  const source = makeStrandsSource(layout, character, 1);
  source.write(0, posed);
  return source.roots;
}

/**
 * Guides as they are combed on a pose: places of all their points, m. `world` holds the matrices of the nodes.
 */
export const posedGroom = (layout: StrandsLayout, character: Character, posed: Posed): Float64Array =>
  placesOf(layout, posedRoots(layout, character, posed));

function placesOf({ points, shapes }: StrandsLayout, roots: Float64Array): Float64Array {
  const out = new Float64Array(3 * points);
  const link = new Float64Array(3);
  let at = 0;
  shapes.forEach(({ lengths, directions }, g) => {
    for (let a = 0; a < 3; a++) out[at + a] = roots[7 * g + a]!;
    at += 3;
    lengths.forEach((l, i) => {
      quatRotate(link, 0, roots, 7 * g + 3, directions, 3 * i);
      for (let a = 0; a < 3; a++) out[at + a] = out[at + a - 3]! + l * link[a]!;
      at += 3;
    });
  });
  return out;
}

/** The surface of a mesh whose vertices stand at some places, m: what hair on it is kept out of. */
export const skinAt = (character: Character, node: number, places: Float64Array): Surface =>
  makeSurface(places, meshTriangles(character, node).indices);

/** Guides on a pose, to be brushed there, and the way back. */
export interface PosedHair extends Omit<Combed, 'frozen'> {
  /** The guides as they stand, taken back to rest: places of their points, m. */
  toRest(): Float64Array[];
  /** Lays one as it is at rest (places of its points, m). */
  put(guide: number, rest: Float64Array): void;
}

export function posedHair(layout: StrandsLayout, character: Character, posed: Posed): PosedHair {
  const roots = posedRoots(layout, character, posed);
  const places = placesOf(layout, roots);
  const guides = layout.guides.length;
  const first = new Int32Array(guides + 1);
  layout.guides.forEach((g, k) => (first[k + 1] = first[k]! + g.length / 3));
  const normals = new Float64Array(3 * guides);
  for (let g = 0; g < guides; g++) quatRotate(normals, 3 * g, roots, 7 * g + 3, layout.frames, 9 * g + 6);
  return {
    ...{ places, first, normals },
    put: (g, rest) => {
      const at = 3 * first[g]!;
      const way = new Float64Array(3);
      for (let i = 0; i < rest.length; i += 3) {
        for (let a = 0; a < 3; a++) way[a] = rest[i + a]! - rest[a]!;
        quatRotate(way, 0, roots, 7 * g + 3, way, 0);
        for (let a = 0; a < 3; a++) places[at + i + a] = roots[7 * g + a]! + way[a]!;
      }
    },
    toRest: () =>
      layout.guides.map((rest, g) => {
        const out = new Float64Array(rest.length);
        const back = new Float64Array(4);
        quatConjugate(back, 0, roots, 7 * g + 3);
        for (let i = 0; i < out.length; i += 3) {
          for (let a = 0; a < 3; a++)
            out[i + a] = places[3 * first[g]! + i + a]! - places[3 * first[g]! + a]!;
          quatRotate(out, i, back, 0, out, i);
          for (let a = 0; a < 3; a++) out[i + a]! += rest[a]!;
        }
        return out;
      }),
  };
}
