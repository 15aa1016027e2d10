import type { BodyPart } from '@oscillum/core/body';
import { cellEdges } from '@oscillum/core/simulate';
import { bodySize } from '../../../state/parts/body/edits';
import { strayTint } from '../../strayTint';
import type { StagePart } from '../kind';

/** Darkest where it is this share of its size off its animation. */
const FAR = 0.1;

/** A soft body is its mesh: no line and no dots stand for it. */
export const bodyInk: StagePart<BodyPart> = {
  ...{ line: () => [], dots: () => [] },
  tint: (part, how, { character, shot, posed }) => {
    const { node } = part.mesh;
    const far = FAR * bodySize(character, node, shot.character.metresPerUnit);
    return how === 'stray' ? strayTint(character, posed, node, far) : null;
  },
  cells: (part, { character, shot, posed }) =>
    cellEdges(character, part, shot.character.metresPerUnit, posed.simulated),
};
