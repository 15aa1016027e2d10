import type { Character } from '../character/index';
import { readWeightMap, type WeightMap } from '../model/index';
import type { Sheet } from '../sheets/index';
import { fromBall, type Ball } from './ball';
import { fromJoint } from './fills';
import { toPoints } from './mesh';

/** What says how soft each place is: a ball, what a joint weighs, or a map that is painted on one mesh. */
export type SoftBy =
  | ({ readonly by: 'ball' } & Ball)
  | { readonly by: 'joint'; readonly joint: { readonly node: number } }
  | { readonly by: 'map' };

/** How soft each point of a mesh is, 0..1; 0 where its map is not there, or of another mesh. */
export function softness(
  character: Character,
  node: number,
  sheet: Sheet,
  where: SoftBy,
  map: WeightMap | undefined,
  metresPerUnit: number,
): Float64Array {
  if (where.by === 'ball') return fromBall(sheet, where, metresPerUnit);
  if (where.by === 'joint') return fromJoint(character, node, sheet, where.joint.node);
  return map && map.vertices === sheet.pointOf.length
    ? toPoints(sheet, readWeightMap(map))
    : new Float64Array(sheet.points);
}
