import { applyBodyPreset, BODY_PRESETS, bodySettingsFor, makeBodyPart } from '@oscillum/core/body';
import { applyClothPreset, CLOTH_PRESETS, clothSettingsFor, makeClothPart } from '@oscillum/core/cloth';
import type { Character } from '@oscillum/core/character';
import { readGltf } from '@oscillum/core/gltf';
import { Collider, ColliderId, PartId } from '@oscillum/core/model';
import { editShot, type Shot } from '@oscillum/core/shot';
import { BAG, MAIL_NAMES } from './mail';
import type { V3 } from './shape';

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

/** Frames by which each parcel of the mail comes later than the one before, and how far it swells. */
const [LATER, SWELLS] = [8, 1.8];

/** A shot in which six linked parcels are let down into a bag, one after the other, and swell there. */
export function withMail(shot: Shot, bytes: Uint8Array): Shot {
  const character = readGltf(bytes, shot.character.fileName);
  const ids = MAIL_NAMES.map((n) => PartId.parse(n.replace(' ', '')));
  return editShot(shot, 'demo-mail', 'Make soft bodies', (d) => {
    d.preRollSeconds = 0;
    const { wide, high, deep, thick } = BAG;
    const block = (name: string, size: V3, t: V3) => {
      const id = ColliderId.parse(name.toLowerCase().replace(' ', '-'));
      d.colliders[id] = Collider.parse({ id, name, shape: { kind: 'box', size }, t, friction: 0.3 });
    };
    const [x, z] = [(wide + thick) / 2, (deep + thick) / 2];
    block('Bag floor', [wide + 2 * thick, thick, deep + 2 * thick], [0, -thick / 2, 0]);
    block('Bag left', [thick, 1.3 * high, deep], [-x, 0.65 * high, 0]);
    block('Bag right', [thick, 1.3 * high, deep], [x, 0.65 * high, 0]);
    block('Bag back', [wide + 2 * thick, 1.3 * high, thick], [0, 0.65 * high, -z]);
    block('Bag front', [wide + 2 * thick, 1.3 * high, thick], [0, 0.65 * high, z]);
    ids.forEach((id, order) => {
      const start = LATER * order;
      d.parts[id] = makeBodyPart({
        ...{ id, name: `Parcel ${order + 1}`, order, mesh: named(character, `${MAIL_NAMES[order]} mesh`) },
        ...{ cells: 3, start, link: 'mail' },
        settings: {
          hold: 2,
          holdDamping: 1,
          droop: 4,
          volume: 98,
          damping: 0.3,
          density: 0.4,
          thickness: 0.003,
        },
        keys: {
          swell: [
            { frame: start + 22, value: 1, kind: 'smooth' },
            { frame: start + 46, value: SWELLS, kind: 'smooth' },
          ],
        },
        collidesWith: { parts: ids },
      });
    });
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
