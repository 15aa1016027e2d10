import { skinVertices, type Character } from '@oscillum/core/character';
import type { ClothPart } from '@oscillum/core/cloth';
import { readWeightMap } from '@oscillum/core/model';
import { heldPoints, lengthOf, sheetOf } from '@oscillum/core/sheets';
import type { Posed } from '../../pose';
import type { Tint } from '../../../state/view';

/** An edge that is longer by this share is as dark as can be. */
const LONGEST = 0.1;

/**
 * How dark each vertex of a cloth is, 0 to 1: by how far it is from its skin, by how much of its leash that
 * is, or by how much longer its edges are.
 */
export function clothTint(
  part: ClothPart,
  how: Tint,
  character: Character,
  metresPerUnit: number,
  { source, points }: Posed,
): { node: number; shares: Float64Array } | null {
  const { node } = part.mesh;
  const now = points.get(node);
  if (!now || character.nodes[node]?.mesh === -1) return null;
  const sheet = sheetOf(character, node);
  if (sheet.pointOf.length * 3 !== now.length) return null;
  if (how !== 'stretch') {
    const skin = new Float64Array(now.length);
    skinVertices(skin, character, node, source);
    const reach = lengthOf(sheet, heldPoints(character, node, part.holds, sheet)) * metresPerUnit;
    const map = how === 'leash' && part.maps.leash ? readWeightMap(part.maps.leash) : null;
    const most = how === 'leash' ? part.settings.leash : reach / 2;
    const shares = Float64Array.from(sheet.pointOf, (_, v) => {
      const d = [0, 1, 2].map((a) => now[3 * v + a]! - skin[3 * v + a]!);
      return Math.min(1, Math.hypot(...d) / Math.max(most * (map ? map[v]! : 1), 1e-9));
    });
    return { node, shares };
  }
  const vertexOf = new Int32Array(sheet.points);
  sheet.pointOf.forEach((p, v) => (vertexOf[p] = v));
  const most = new Float64Array(sheet.points);
  sheet.length.forEach((rest, e) => {
    const [p, q] = [sheet.edges[2 * e]!, sheet.edges[2 * e + 1]!];
    const [a, b] = [3 * vertexOf[p]!, 3 * vertexOf[q]!];
    const long = Math.hypot(...[0, 1, 2].map((k) => now[a + k]! - now[b + k]!));
    const share = Math.min(1, Math.max(0, long / (rest * metresPerUnit) - 1) / LONGEST);
    most[p] = Math.max(most[p]!, share);
    most[q] = Math.max(most[q]!, share);
  });
  return { node, shares: Float64Array.from(sheet.pointOf, (p) => most[p]!) };
}
