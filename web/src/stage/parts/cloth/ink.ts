import type { ClothPart, PanelPart } from '@oscillum/core/cloth';
import { settingAt } from '../../../state/settingAt';
import type { StagePart } from '../kind';
import { airStrokes } from './air';
import { heldPlaces } from './held';
import { leashShell } from './shell';
import { clothTint } from './tint';

/** A cloth is its mesh: no line and no dots stand for it. */
export const clothInk: StagePart<ClothPart> = {
  ...{ line: () => [], dots: () => [] },
  ...{ tint: clothTint, shell: leashShell, air: airStrokes, held: heldPlaces },
  // It keeps its thickness from what it touches: as thick all round is what is drawn.
  cord: (part, frame) => ({ node: part.mesh.node, width: 2 * settingAt(part, 'thickness', frame) }),
};

/** A panel is drawn by its joints: it has many rows, and no single line. */
export const panelInk: StagePart<PanelPart> = {
  line: () => [],
  dots: (part) => part.rows.flat().map((j) => j.node),
};
