import { readGltf } from '@oscillum/core/gltf';
import { PartId } from '@oscillum/core/model';
import { editShot, type Shot } from '@oscillum/core/shot';
import { applyRegionPreset, makeRegionPart, REGION_PRESETS, regionSettingsFor } from '@oscillum/core/soft';

/** Regions of Brindle's skin: the mesh, a ball at rest (m) and the stuff it is of. */
const REGIONS = [
  ['Belly', 'body mesh', 'Fat', [0, 0.36, 0.2], 0.06, 0.26],
  ['Wattle', 'wattle mesh', 'Flesh', [0, 0.7, 0.235], 0.03, 0.11],
] as const;

/** A shot in which her belly and her wattle are soft. */
export function withSoftness(shot: Shot, bytes: Uint8Array): Shot {
  const character = readGltf(bytes, shot.character.fileName);
  return editShot(shot, 'demo-soft', 'Make soft', (d) => {
    REGIONS.forEach(([name, mesh, stuff, at, inner, outer], order) => {
      const id = PartId.parse(name.toLowerCase());
      const node = character.nodes.findIndex((n) => n.name === mesh);
      const part = makeRegionPart({
        ...{ id, name, order, mesh: { node, name: mesh }, settings: regionSettingsFor(2 * outer) },
        where: { by: 'ball', at: [...at], inner, outer },
      });
      applyRegionPreset(
        part,
        REGION_PRESETS.find((p) => p.name === stuff)!,
        2 * outer,
      );
      d.parts[id] = part;
    });
  }).shot;
}
