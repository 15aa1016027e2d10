import { applyClothPreset, CLOTH_PRESETS, clothSettingsFor, makeClothPart } from '@oscillum/core/cloth';
import { bodyUnder, heldPoints, lengthOf, likelyHolds, sheetOf } from '@oscillum/core/sheets';
import { readGltf } from '@oscillum/core/gltf';
import { Collider, ColliderId, Force, ForceId, PartId } from '@oscillum/core/model';
import { editShot, type Shot } from '@oscillum/core/shot';

/** A shot with the poncho as felt that lies on the body. */
export function withPoncho(shot: Shot, bytes: Uint8Array): Shot {
  const character = readGltf(bytes, shot.character.fileName);
  const node = character.nodes.findIndex((n) => n.name === 'poncho mesh');
  const body = bodyUnder(character, node)!;
  const holds = likelyHolds(character, node);
  const sheet = sheetOf(character, node);
  const held = heldPoints(character, node, holds, sheet);
  return editShot(shot, 'demo-poncho', 'Make cloth', (d) => {
    const touches = ColliderId.parse('body');
    d.colliders[touches] = Collider.parse({
      id: touches,
      name: 'Body',
      shape: { kind: 'mesh', node: body.node, name: body.name, simplified: 0.003 },
    });
    const id = PartId.parse('poncho');
    const part = makeClothPart({
      ...{ id, name: 'Poncho', mesh: { node, name: 'poncho mesh' } },
      ...{ holds, settings: clothSettingsFor(lengthOf(sheet, held)) },
      collidesWith: { colliders: [touches] },
    });
    applyClothPreset(part, CLOTH_PRESETS[0]!);
    d.parts[id] = part;
  }).shot;
}

/** A shot with wind in gusts from the front, a little from the side. */
export const withGusts = (shot: Shot): Shot =>
  editShot(shot, 'demo-gusts', 'Add wind', (d) => {
    const id = ForceId.parse('gusts');
    d.forces[id] = Force.parse({
      ...{ id, name: 'Gusts', kind: 'wind', direction: [-0.35, 0, -1], speed: 4, gust: 0.6 },
      ...{ gustFrequency: 0.7, turbulence: 0.3 },
    });
  }).shot;
