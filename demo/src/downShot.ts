import { readGltf } from '@oscillum/core/gltf';
import { Collider, ColliderId, makeWeightMap, PartId } from '@oscillum/core/model';
import { editShot, type Shot } from '@oscillum/core/shot';
import { sheetOf } from '@oscillum/core/sheets';
import { growGuides } from '@oscillum/core/simulate';
import {
  applyStrandPreset,
  Growth,
  makeGroom,
  makeStrandsPart,
  STRAND_PRESETS,
} from '@oscillum/core/strands';

/** A fringe of down about her neck: guides, and strands drawn between them. */
const GROWTH = Growth.parse({ count: 60, length: 0.085, points: 9, lean: 0.3, mirrored: true });
const STRANDS = 2400;
/** Grows from here forward (m), and from so much farther on in full. */
const [FRONT, SOFT] = [0.06, 0.03];

/** A shot in which a fringe of down grows about her neck, and touches her. */
export function withDown(shot: Shot, bytes: Uint8Array): Shot {
  const character = readGltf(bytes, shot.character.fileName);
  const named = (name: string) => ({ node: character.nodes.findIndex((n) => n.name === name), name });
  const scalp = named('fringe scalp mesh');
  // A bib: behind, the scalp lies inside of her.
  const { rest, pointOf } = sheetOf(character, scalp.node);
  const shares = Float64Array.from(pointOf, (p) =>
    Math.min(1, Math.max(0, (rest[3 * p + 2]! - FRONT) / SOFT)),
  );
  return editShot(shot, 'demo-down', 'Grow hair', (d) => {
    for (const name of ['body mesh']) {
      const id = ColliderId.parse(name.replace(' ', '-'));
      const { node } = named(name);
      d.colliders[id] = Collider.parse({
        ...{ id, name: name.replace(/^./, (c) => c.toUpperCase()), friction: 0.3 },
        shape: { kind: 'mesh', node, name },
      });
    }
    const id = PartId.parse('down');
    const part = makeStrandsPart({
      ...{ id, name: 'Fringe of down', mesh: scalp, growth: GROWTH },
      maps: { grow: makeWeightMap(shares) },
      groom: makeGroom(growGuides(character, scalp.node, 1, [0, -1, 0], GROWTH, shares)),
      look: {
        ...{ strands: STRANDS, clump: 0.45, width: 0.005, taper: 0.25, frizz: 0.05 },
        ...{ root: '#b39b6c', tip: '#fbf5e6' },
      },
    });
    applyStrandPreset(
      part,
      STRAND_PRESETS.find((p) => p.name === 'Fringe')!,
    );
    part.settings.thickness = 0.004;
    d.parts[id] = part;
  }).shot;
}
