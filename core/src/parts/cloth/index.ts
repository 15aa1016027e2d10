import { firstOf, same } from '../../model/alike';
import { minds } from '../../model/index';
import type { PartKind } from '../kind';
import { coarsen } from './coarse';
import { diagnoseCloth } from './diagnoses';
import type { ClothPart } from './document';
import { measureStray } from '../stray';
import { clothFeel, fitCloth } from './feel';
import { layOutCloth, type ClothLayout } from './layout';
import { lengthOf } from '../../sheets/index';
import { makeClothRun, STRING_READOUTS } from './run';
import { makeClothSource, type SheetSource } from './source';
import { tieJoints, tieParts } from './tiedPoints';
import { valuesOf } from './values';

/** Sheets of the character's mesh. */
export const clothKind: PartKind<ClothPart, ClothLayout, SheetSource> = {
  layout: layOutCloth,
  coarsen,
  folds: true,
  columns: ({ node, vertices, sheet }) => ({
    ...{ paths: new Uint8Array(0), scaled: [], morphs: [] },
    readouts: sheet.faces.includes(0) ? [...STRING_READOUTS] : [],
    points: [{ node, vertices }],
  }),
  sampled: (part) => [part.id, part.mesh, part.holds, part.maps, part.ties],
  follows: tieJoints,
  collidesWith: (part) => ({ colliders: part.collidesWith.colliders, parts: part.collidesWith.parts }),
  tied: tieParts,
  concerns: (part, collider) => minds(part.collidesWith.colliders, collider.id),
  // A sheet has an arena of its own: see ownArena.
  room: () => ({ rows: 0, run: 0, bodies: 0 }),
  source: makeClothSource,
  run: makeClothRun,
  feel: (shot, track, index) => {
    const [part, length] = found(shot, track, index);
    return clothFeel(valuesOf(part).value, length, shot.fps, shot.range.first);
  },
  fit: (shot, track, index, asked) => {
    const [part, length] = found(shot, track, index);
    return fitCloth(part, length, shot.fps, shot.range.first, asked);
  },
  measureShot: measureStray,
  diagnose: diagnoseCloth,
  // A pull has no effect before it begins.
  alikeUntil: (a, b) =>
    Math.min(
      firstOf(a.pulls, b.pulls, (x) => x.first),
      same(a, b, { pulls: 0, name: 0, order: 0, muted: 0 }),
    ),
};

/** The cloth at a place of the track, and its length, m. */
function found(...[shot, track, index]: Parameters<PartKind['feel']>): [ClothPart, number] {
  const { sheet, held, part } = track.parts[index]!.layout as ClothLayout;
  return [shot.parts[part.id] as ClothPart, lengthOf(sheet, held) * shot.character.metresPerUnit];
}
