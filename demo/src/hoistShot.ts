import { makeClothPart, stringSettingsFor } from '@oscillum/core/cloth';
import { readGltf } from '@oscillum/core/gltf';
import { Collider, ColliderId, PartId } from '@oscillum/core/model';
import { editShot, type Shot } from '@oscillum/core/shot';
import { CORD, CORDS, DRUM } from './hoist';

/** A shot in which the cords of the hoist run over its drums. */
export function withCords(shot: Shot, bytes: Uint8Array): Shot {
  const character = readGltf(bytes, shot.character.fileName);
  const named = (name: string) => ({ node: character.nodes.findIndex((n) => n.name === name), name });
  return editShot(shot, 'demo-cords', 'Make string', (d) => {
    d.preRollSeconds = 0;
    for (const name of ['upper drum', 'lower drum']) {
      const id = ColliderId.parse(name.replace(' ', '-'));
      d.colliders[id] = Collider.parse({
        ...{ id, name: name[0]!.toUpperCase() + name.slice(1), attachedTo: named(name), friction: 0.6 },
        shape: { kind: 'capsule', radius: DRUM.radius, length: DRUM.wide },
        r: [Math.SQRT1_2, 0, 0, Math.SQRT1_2],
      });
    }
    Object.keys(CORDS).forEach((name, order) => {
      const id = PartId.parse(name.replace(' ', ''));
      d.parts[id] = makeClothPart({
        ...{ id, name: name[0]!.toUpperCase() + name.slice(1), order, mesh: named(`${name} mesh`) },
        settings: { ...stringSettingsFor(2 * CORD), settle: 2 },
      });
    });
  }).shot;
}
