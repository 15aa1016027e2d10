import type { BodyPart } from '@oscillum/core/body';
import { cellEdges, heldByStrings } from '@oscillum/core/simulate';
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
  strings: (part, { character, posed }) => {
    const places = posed.points.get(part.mesh.node);
    if (!places) return new Float64Array(0);
    const held = heldByStrings(character, part);
    return Float64Array.from(
      part.strings.flatMap(({ joint }, k) => [
        ...posed.simulated.subarray(16 * joint.node + 12, 16 * joint.node + 15),
        ...places.subarray(3 * held[k]!, 3 * held[k]! + 3),
      ]),
    );
  },
};
