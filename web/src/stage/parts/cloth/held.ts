import type { ClothPart } from '@oscillum/core/cloth';
import { readWeightMap } from '@oscillum/core/model';
import { heldPoints } from '@oscillum/core/sheets';
import type { Seen } from '../kind';
import { facing, ofPoints, wornOn } from './skin';

/** Where a cloth is held, as far as it faces the camera: places, m. */
export function heldPlaces(part: ClothPart, at: Seen): Float64Array {
  const worn = wornOn(part, at);
  if (!worn) return new Float64Array(0);
  const { sheet, vertexOf, node } = worn;
  const held = heldPoints(at.character, node, part.holds, sheet);
  if (part.maps.leash) {
    const shares = readWeightMap(part.maps.leash);
    vertexOf.forEach((v, p) => shares[v] === 0 && (held[p] = 1));
  }
  const x = ofPoints(worn, worn.now);
  const faces = facing(worn, x, at.toward);
  return Float64Array.from(
    [...held.keys()].flatMap((p) => (held[p] && faces[p] ? [...x.subarray(3 * p, 3 * p + 3)] : [])),
  );
}
