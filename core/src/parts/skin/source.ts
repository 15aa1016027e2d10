import { skinVertices, type Character } from '../../character/index';
import type { PartSource } from '../kind';
import type { SkinLayout } from './layout';

/** Where a skin is animated, frame by frame. */
export interface SkinSource extends PartSource {
  /** Rows × bound points × 3, m. */
  readonly skin: Float64Array;
}

export function makeSkinSource(layout: SkinLayout, character: Character, rows: number): SkinSource {
  const { node, bound, vertexOf, borne, sheet } = layout;
  const n = bound.points.length;
  const skin = new Float64Array(3 * rows * n);
  const places = new Float64Array(3 * sheet.pointOf.length);
  return {
    ...{ skin, nodes: borne!, path: null },
    moving: [{ list: skin, places: Array.from({ length: n }, (_, p) => 3 * p), turns: [] }],
    write: (k, { world }) => {
      skinVertices(places, character, node, world, vertexOf);
      vertexOf.forEach((v, i) => {
        for (let a = 0; a < 3; a++) skin[3 * (k * n + i) + a] = places[3 * v + a]!;
      });
    },
    finish: () => undefined,
  };
}
