import { readGltf } from '../src/formats/gltf/index';
import type { ClothPart } from '../src/parts/cloth/document';
import { makeClothPart } from '../src/parts/cloth/shared';
import { likelyHolds, sheetOf } from '../src/sheets/index';
import { parseShot, type Shot } from '../src/shot/index';
import { brindle } from './bakes';

/** Brindle and her poncho: the mesh's node, its sheet, and how many vertices it has. */
export const character = readGltf(brindle!.bytes, 'brindle.glb');
export const MESH = character.nodes.findIndex((n) => n.mesh >= 0 && /poncho/.test(n.name));
export const sheet = sheetOf(character, MESH);
export const vertices = sheet.pointOf.length;
export const lookout = brindle!.shots.find((s) => s.clip?.name === 'Lookout')!;

/** A clip of hers by name, as a shot names it. */
export const clipNamed = (name: string): NonNullable<Shot['clip']> => ({
  index: character.clips.findIndex((c) => c.name === name),
  name,
});

/** The poncho as the shot's only part, held by its collar, over 16 frames of her looking round. */
export function ponchoShot(change: (p: ClothPart) => void = () => undefined, more: Partial<Shot> = {}): Shot {
  const part = makeClothPart({
    ...{ id: 'poncho', name: 'Poncho', mesh: { node: MESH, name: character.nodes[MESH]!.name } },
    holds: likelyHolds(character, MESH),
  });
  change(part);
  return parseShot({
    ...{ ...lookout, parts: { poncho: part }, colliders: {}, range: { first: 20, last: 35 }, substeps: 2 },
    ...more,
  });
}
