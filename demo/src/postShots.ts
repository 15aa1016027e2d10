import { applyBodyPreset, BODY_PRESETS, bodySettingsFor, makeBodyPart } from '@oscillum/core/body';
import { applyClothPreset, CLOTH_PRESETS, clothSettingsFor, makeClothPart } from '@oscillum/core/cloth';
import type { Character } from '@oscillum/core/character';
import { readGltf } from '@oscillum/core/gltf';
import { Collider, ColliderId, PartId } from '@oscillum/core/model';
import { editShot, type Shot } from '@oscillum/core/shot';

const ground = (): Collider =>
  Collider.parse({
    id: ColliderId.parse('ground'),
    name: 'Ground',
    shape: { kind: 'ground' },
    friction: 0.6,
  });

const named = (character: Character, name: string) => ({
  node: character.nodes.findIndex((n) => n.name === name),
  name,
});

/** A shot in which the parcel is of jelly, on the ground. */
export function withJelly(shot: Shot, bytes: Uint8Array): Shot {
  const character = readGltf(bytes, shot.character.fileName);
  return editShot(shot, 'demo-jelly', 'Make a soft body', (d) => {
    d.preRollSeconds = 0;
    d.colliders.ground = ground();
    const id = PartId.parse('parcel');
    const part = makeBodyPart({
      ...{ id, name: 'Parcel', mesh: named(character, 'parcel mesh'), settings: bodySettingsFor(0.4) },
    });
    applyBodyPreset(
      part,
      BODY_PRESETS.find((p) => p.name === 'Jelly')!,
    );
    d.parts[id] = part;
  }).shot;
}

/** A shot with four post balloons tied to her wing, six strides long. */
export function withBalloons(shot: Shot, bytes: Uint8Array): Shot {
  const character = readGltf(bytes, shot.character.fileName);
  const last = shot.range.last;
  return editShot(shot, 'demo-balloons', 'Make cloth', (d) => {
    d.cycle.repeats = 6;
    d.range.last = 6 * last;
    const id = PartId.parse('balloons');
    const part = makeClothPart({
      ...{ id, name: 'Balloons', mesh: named(character, 'balloons mesh'), settings: clothSettingsFor(0.6) },
      holds: [{ by: 'joint', joint: named(character, 'wing tip left'), from: 0.5 }],
      collidesWith: { colliders: [] },
    });
    applyClothPreset(
      part,
      CLOTH_PRESETS.find((p) => p.name === 'Balloon')!,
    );
    d.parts[id] = part;
  }).shot;
}
