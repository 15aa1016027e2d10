import type { SkinPart } from '@oscillum/core/skin';
import { strayTint } from '../../strayTint';
import type { StagePart } from '../kind';

/** Darkest where it is this share of its reach off its animation. */
const FAR = 0.5;

/** A skin is its mesh: no line and no dots stand for it. */
export const skinInk: StagePart<SkinPart> = {
  ...{ line: () => [], dots: () => [] },
  tint: (part, how, { character, posed }) =>
    how === 'stray' ? strayTint(character, posed, part.mesh.node, FAR * part.reach) : null,
};
