import type { ClothPart } from '@oscillum/core/cloth';
import { readWeightMap } from '@oscillum/core/model';
import { heldPoints } from '@oscillum/core/sheets';
import type { Character } from '@oscillum/core/character';
import type { Seen } from '../kind';
import { facing, ofPoints, wornOn, type Worn } from './skin';

/** A part is another object when it has been changed. */
const known = new WeakMap<ClothPart, Uint8Array>();

/** 1 for the points of a cloth that are held: by what holds it, or by a painted leash of 0. */
export function heldBy(part: ClothPart, character: Character, { sheet, vertexOf, node }: Worn): Uint8Array {
  let held = known.get(part);
  if (!held || held.length !== sheet.points) {
    held = heldPoints(character, node, part.holds, sheet);
    const shares = part.maps.leash && readWeightMap(part.maps.leash);
    if (shares) vertexOf.forEach((v, p) => shares[v] === 0 && (held![p] = 1));
    known.set(part, held);
  }
  return held;
}

/** Where a cloth is held, as far as it faces the camera: places, m. */
export function heldPlaces(part: ClothPart, at: Seen): Float64Array {
  const worn = wornOn(part, at);
  if (!worn) return new Float64Array(0);
  const held = heldBy(part, at.character, worn);
  const x = ofPoints(worn, worn.now);
  const faces = facing(worn, x, at.toward);
  return Float64Array.from(
    [...held.keys()].flatMap((p) => (held[p] && faces[p] ? [...x.subarray(3 * p, 3 * p + 3)] : [])),
  );
}
