import { meshTriangles, morphedVertices, type Character } from '@oscillum/core/character';
import type { Posed } from './pose';

/** How far the vertices of a mesh are off their skin, as shares of a length (m); null where they are not moved. */
export function strayTint(
  character: Character,
  posed: Posed,
  node: number,
  far: number,
): { node: number; shares: Float64Array } | null {
  const now = posed.points.get(node);
  const { vertices } = meshTriangles(character, node);
  if (!now || now.length !== 3 * vertices) return null;
  const skin = new Float64Array(now.length);
  morphedVertices(skin, character, node, posed.simulated, posed.morphs.get(node));
  const shares = Float64Array.from({ length: vertices }, (_, v) => {
    let sum = 0;
    for (let k = 3 * v; k < 3 * v + 3; k++) sum += (now[k]! - skin[k]!) ** 2;
    return Math.min(1, Math.sqrt(sum) / Math.max(far, 1e-9));
  });
  return { node, shares };
}
