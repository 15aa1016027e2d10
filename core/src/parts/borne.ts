import type { Character } from '../character/index';
import { quatRotate } from '../math/index';
import { eachWeight } from '../sheets/index';
import type { Anchor, PartRun, PartTrack } from './kind';

/** Carries places of a skin (3 numbers a point) along with the joints that other parts move. */
export type Bear = (places: Float64Array) => void;

/** By joint of the skin: what of other parts carries it. */
export function anchorsOf(
  { bearers }: Pick<PartTrack, 'bearers'>,
  runs: readonly PartRun[],
): ReadonlyMap<number, readonly Anchor[]> {
  const links = new Map<number, Anchor[]>();
  for (const b of bearers) {
    const anchors = b.links.flatMap((h) => runs[h.part]?.anchorAt(h.link) ?? []);
    if (anchors.length > 0) links.set(b.joint, anchors);
  }
  return links;
}

/** Carries a place (3 numbers) along with anchors, those of what bears the others first. */
export function carryPlace(at: Float64Array, anchors: readonly Anchor[]): void {
  for (const { source, place, turn } of anchors) {
    for (let a = 0; a < 3; a++) at[a]! -= source[a]!;
    quatRotate(at, 0, turn, 0, at, 0);
    for (let a = 0; a < 3; a++) at[a]! += place[a]!;
  }
}

/** The same of a world matrix (16 numbers at `o`). */
export function carryMatrix(m: Float64Array, o: number, anchors: readonly Anchor[]): void {
  for (const { turn } of anchors)
    for (let column = 0; column < 12; column += 4) quatRotate(m, o + column, turn, 0, m, o + column);
  carryPlace(m.subarray(o + 12, o + 15), anchors);
}

/**
 * How the skin of a mesh goes along with what other parts make of its joints: by the weights of each point, as skinning
 * does. Null when no other part moves any. `node` is that of the mesh, and
 * `pointOf` the point of each of its vertices, below 0 for none.
 */
export function bearing(
  character: Character,
  node: number,
  pointOf: ArrayLike<number>,
  track: Pick<PartTrack, 'bearers'>,
  runs: readonly PartRun[],
): Bear | null {
  const links = anchorsOf(track, runs);
  if (links.size === 0) return null;
  const shares = new Map<number, { anchors: readonly Anchor[]; share: number }[]>();
  eachWeight(character, node, (vertex, joints, weights) => {
    const own = joints.flatMap((j, k) =>
      links.has(j) && weights[k]! > 0 ? [{ anchors: links.get(j)!, share: weights[k]! }] : [],
    );
    if (own.length > 0 && pointOf[vertex]! >= 0) shares.set(pointOf[vertex]!, own);
  });
  const [at, way] = [new Float64Array(3), new Float64Array(3)];
  return (places) => {
    for (const [point, own] of shares) {
      way.fill(0);
      for (const { anchors, share } of own) {
        at.set(places.subarray(3 * point, 3 * point + 3));
        carryPlace(at, anchors);
        for (let a = 0; a < 3; a++) way[a]! += share * (at[a]! - places[3 * point + a]!);
      }
      for (let a = 0; a < 3; a++) places[3 * point + a]! += way[a]!;
    }
  };
}

/** What carries the rows of a panel, by row: none where no other part moves what it hangs from. */
export const carriersOfRows = (
  above: readonly number[],
  track: Pick<PartTrack, 'bearers'>,
  runs: readonly PartRun[],
): (readonly Anchor[])[] => {
  const links = anchorsOf(track, runs);
  return above.map((joint) => links.get(joint) ?? []);
};
