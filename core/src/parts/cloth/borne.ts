import type { Character } from '../../character/index';
import { quatRotate } from '../../math/index';
import { eachWeight, type Sheet } from '../../sheets/index';
import type { Anchor, PartRun, PartTrack } from '../kind';
import type { SheetLayout } from './layout';
import type { SheetSource } from './source';

/** Carries places of a skin (3 numbers a point of the whole sheet) along with the joints that other parts move. */
export type Bear = (places: Float64Array) => void;

/**
 * How the skin of a mesh goes along with what other parts make of its joints: by the weights of each point, as skinning
 * does. Null when no other part moves any. `node` is that of the mesh.
 */
export function bearing(
  character: Character,
  node: number,
  sheet: Sheet,
  { bearers }: PartTrack<SheetLayout, SheetSource>,
  runs: readonly PartRun[],
): Bear | null {
  const links = new Map<number, Anchor[]>();
  for (const b of bearers) {
    const anchors = b.links.flatMap((h) => runs[h.part]?.anchorAt(h.link) ?? []);
    if (anchors.length > 0) links.set(b.joint, anchors);
  }
  if (links.size === 0) return null;
  const shares = new Map<number, { anchors: Anchor[]; share: number }[]>();
  eachWeight(character, node, (vertex, joints, weights) => {
    const own = joints.flatMap((j, k) =>
      links.has(j) && weights[k]! > 0 ? [{ anchors: links.get(j)!, share: weights[k]! }] : [],
    );
    if (own.length > 0) shares.set(sheet.pointOf[vertex]!, own);
  });
  const [at, way] = [new Float64Array(3), new Float64Array(3)];
  return (places) => {
    for (const [point, own] of shares) {
      way.fill(0);
      for (const { anchors, share } of own) {
        at.set(places.subarray(3 * point, 3 * point + 3));
        for (const { source, place, turn } of anchors) {
          for (let a = 0; a < 3; a++) at[a]! -= source[a]!;
          quatRotate(at, 0, turn, 0, at, 0);
          for (let a = 0; a < 3; a++) at[a]! += place[a]!;
        }
        for (let a = 0; a < 3; a++) way[a]! += share * (at[a]! - places[3 * point + a]!);
      }
      for (let a = 0; a < 3; a++) places[3 * point + a]! += way[a]!;
    }
  };
}
