import { MOVES, TURNS } from '../../frames/index';
import { minds } from '../../model/index';
import { lengthOf } from '../../sheets/index';
import { measureStray } from '../stray';
import { clothFeel, fitCloth } from './feel';
import { diagnoseSheet } from './diagnoses';
import type { SheetSource } from './source';
import { valuesOf } from './values';
import type { PartKind } from '../kind';
import type { PanelPart } from './panelDocument';
import { layOutPanel, type PanelLayout } from './panelLayout';
import { makePanelRun } from './panelRun';
import { makePanelSource } from './panelSource';

/** What the keys of its joints are, by how they follow. */
const PATHS = { turns: TURNS, places: TURNS | MOVES, points: MOVES };

/** Rows of joints that are one sheet. */
export const panelKind: PartKind<PanelPart, PanelLayout, SheetSource> = {
  layout: layOutPanel,
  folds: true,
  columns: ({ joints }, part) => ({
    paths: new Uint8Array(joints.length).fill(PATHS[part.moves]),
    ...{ scaled: [], morphs: [], points: [], readouts: [] },
  }),
  sampled: (part) => [part.id, part.rows, part.closed],
  follows: () => [],
  collidesWith: (part) => ({ colliders: part.collidesWith.colliders, parts: part.collidesWith.parts }),
  tied: () => [],
  concerns: (part, collider) => minds(part.collidesWith.colliders, collider.id),
  room: () => ({ rows: 0, run: 0, bodies: 0 }),
  source: (layout, _, rows) => makePanelSource(layout, rows),
  run: makePanelRun,
  feel: (shot, track, index) => {
    const [part, length] = found(shot, track, index);
    return clothFeel(valuesOf(part).value, length, shot.fps, shot.range.first);
  },
  fit: (shot, track, index, asked) => {
    const [part, length] = found(shot, track, index);
    return fitCloth(part, length, shot.fps, shot.range.first, asked);
  },
  measureShot: measureStray,
  diagnose: diagnoseSheet,
  alikeUntil: (a, b) => (movesAlike(a) === movesAlike(b) ? Infinity : -Infinity),
};

const movesAlike = ({ name: _, order: _order, muted: _muted, ...part }: PanelPart): string =>
  JSON.stringify(part);

/** The panel at a place of the track, and its length, m. */
function found(...[shot, track, index]: Parameters<PartKind['feel']>): [PanelPart, number] {
  const { sheet, held, part } = track.parts[index]!.layout as PanelLayout;
  return [shot.parts[part.id] as PanelPart, lengthOf(sheet, held) * shot.character.metresPerUnit];
}
