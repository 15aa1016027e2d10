import { skinVertices } from '@oscillum/core/character';
import type { ClothPart } from '@oscillum/core/cloth';
import { normalsOf, sheetOf, type Sheet } from '@oscillum/core/sheets';
import type { Standing } from '../kind';

/** A cloth on the stage: its sheet, its vertices as they are and as skinned, m, and a vertex of each of its points. */
export interface Worn {
  readonly node: number;
  readonly sheet: Sheet;
  readonly now: Float64Array;
  readonly skin: Float64Array;
  readonly vertexOf: Int32Array;
}

/** Null while its frame is not simulated. */
export function wornOn(part: ClothPart, { character, posed }: Standing): Worn | null {
  const { node } = part.mesh;
  const now = posed.points.get(node);
  if (!now || character.nodes[node]?.mesh === -1) return null;
  const sheet = sheetOf(character, node);
  if (sheet.pointOf.length * 3 !== now.length) return null;
  const skin = new Float64Array(now.length);
  skinVertices(skin, character, node, posed.source);
  const vertexOf = new Int32Array(sheet.points);
  sheet.pointOf.forEach((p, v) => (vertexOf[p] = v));
  return { node, sheet, now, skin, vertexOf };
}

/** Places of a sheet's points, of those of its vertices. */
export function ofPoints({ sheet, vertexOf }: Worn, places: ArrayLike<number>): Float64Array {
  const out = new Float64Array(3 * sheet.points);
  vertexOf.forEach((v, p) => {
    for (let a = 0; a < 3; a++) out[3 * p + a] = places[3 * v + a]!;
  });
  return out;
}

/** 1 for the points of a sheet, at places, that face the camera: what is behind the figure would be drawn over it. */
export function facing({ sheet }: Worn, places: Float64Array, toward: readonly number[]): Uint8Array {
  const normals = new Float64Array(places.length);
  normalsOf(normals, places, sheet.triangles);
  return Uint8Array.from({ length: sheet.points }, (_, p) =>
    Number([0, 1, 2].reduce((sum, a) => sum + normals[3 * p + a]! * toward[a]!, 0) > 0.05),
  );
}
