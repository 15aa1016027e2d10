import { toVertices } from '@oscillum/core/maps';
import type { RegionPart } from '@oscillum/core/soft';
import { paintMeshFor } from '../../../state/paint';
import { regionSize, softnessOf } from '../../../state/parts/soft/edits';
import { strayTint } from '../../strayTint';
import type { Tint } from '../../../state/view';
import type { StagePart, Standing } from '../kind';

/** Darkest where it is this share of its size off its skin. */
const FAR = 0.1;

/** How soft the vertices of its mesh are, or how far they are off their skin. */
function regionTint(
  part: RegionPart,
  how: Tint,
  { character, shot, posed }: Standing,
): { node: number; shares: Float64Array } | null {
  const { node } = part.mesh;
  const metres = shot.character.metresPerUnit;
  const mesh = paintMeshFor(character, node);
  if (how === 'softness') return { node, shares: toVertices(mesh, softnessOf(character, part, metres)) };
  return how === 'stray'
    ? strayTint(character, posed, node, FAR * regionSize(character, part, metres))
    : null;
}

/** A region is part of a mesh: no line and no dots stand for it. */
export const regionInk: StagePart<RegionPart> = { line: () => [], dots: () => [], tint: regionTint };
