import { morphedVertices } from '@oscillum/core/character';
import { toVertices } from '@oscillum/core/maps';
import type { RegionPart } from '@oscillum/core/soft';
import { paintMeshFor } from '../../../state/paint';
import { regionSize, softnessOf } from '../../../state/parts/soft/edits';
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
  const now = posed.points.get(node);
  if (how !== 'stray' || !now || now.length !== 3 * mesh.vertices) return null;
  const skin = new Float64Array(now.length);
  morphedVertices(skin, character, node, posed.simulated, posed.morphs.get(node));
  const far = FAR * regionSize(character, part, metres);
  const shares = Float64Array.from({ length: mesh.vertices }, (_, v) => {
    let sum = 0;
    for (let k = 3 * v; k < 3 * v + 3; k++) sum += (now[k]! - skin[k]!) ** 2;
    return Math.min(1, Math.sqrt(sum) / Math.max(far, 1e-9));
  });
  return { node, shares };
}

/** A region is part of a mesh: no line and no dots stand for it. */
export const regionInk: StagePart<RegionPart> = { line: () => [], dots: () => [], tint: regionTint };
