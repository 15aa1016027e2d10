import type { Character } from '../../character/index';
import { quatRotate } from '../../math/index';
import { eachWeight } from '../../sheets/index';
import { anchorsOf, carryPlace } from '../borne';
import type { Ground } from '../ground';
import type { Anchor, PartRun, PartTrack } from '../kind';
import type { StrandsLayout } from './layout';
import { triangleFrame, turnBetween } from './turns';

/** Carries roots (place and turn, 7 numbers each) along with the joints that other parts move. */
export type BearRoots = (roots: Float64Array) => void;

/** What of other parts carries a place, and how much of it. */
type By = readonly { readonly anchors: readonly Anchor[]; readonly share: number }[];

/**
 * How the roots of strands go along with what other parts make of the joints under them: each corner of the triangle
 * that one stands on goes by its weights, as skinning has it, and with what moves the vertices themselves. Null when no
 * other part moves any.
 */
export function bearingRoots(
  character: Character,
  { node, roots, frames }: Pick<StrandsLayout, 'node' | 'roots' | 'frames'>,
  track: Pick<PartTrack, 'bearers'>,
  runs: readonly PartRun[],
  /** What moves the vertices of the mesh. */
  grounds: readonly Ground[],
): BearRoots | null {
  const links = anchorsOf(track, runs);
  const by = weighed(character, node, links);
  const borne = roots.flatMap((_, g) =>
    grounds.length > 0 || roots[g]!.corners.some((v) => by(v).length > 0) ? [g] : [],
  );
  if (borne.length === 0) return null;
  const corner = new Float64Array(9);
  const frame = new Float64Array(9);
  return (list) => {
    for (const g of borne) {
      const { corners, shares, off, sides } = roots[g]!;
      const o = 7 * g;
      for (let k = 0; k < 3; k++) {
        quatRotate(corner, 3 * k, list, o + 3, sides, 3 * k);
        for (let a = 0; a < 3; a++) corner[3 * k + a]! += list[o + a]!;
        carryBy(corner, 3 * k, by(corners[k]!));
        for (const ground of grounds) ground.add(corner, 3 * k, corners[k]!);
      }
      if (!triangleFrame(frame, 0, corner, [0, 1, 2])) continue;
      turnBetween(list, o + 3, frames, 9 * g, frame);
      for (let a = 0; a < 3; a++) {
        list[o + a] = off[0] * frame[a]! + off[1] * frame[3 + a]! + off[2] * frame[6 + a]!;
        for (let k = 0; k < 3; k++) list[o + a]! += shares[k]! * corner[3 * k + a]!;
      }
    }
  };
}

const [from, to, way] = [new Float64Array(3), new Float64Array(3), new Float64Array(3)];

/** Takes a place where anchors carry it, each by its share. */
function carryBy(places: Float64Array, o: number, by: By): void {
  from.set(places.subarray(o, o + 3));
  way.fill(0);
  for (const { anchors, share } of by) {
    to.set(from);
    carryPlace(to, anchors);
    for (let a = 0; a < 3; a++) way[a]! += share * (to[a]! - from[a]!);
  }
  for (let a = 0; a < 3; a++) places[o + a]! += way[a]!;
}

/** By vertex of a mesh: what of other parts carries it. */
function weighed(
  character: Character,
  node: number,
  links: ReadonlyMap<number, readonly Anchor[]>,
): (vertex: number) => By {
  if (!character.skins[character.nodes[node]!.skin]) {
    const own = links.get(node);
    const all: By = own ? [{ anchors: own, share: 1 }] : [];
    return () => all;
  }
  const found = new Map<number, By>();
  eachWeight(character, node, (vertex, joints, weights) => {
    const by = joints.flatMap((joint, k) =>
      links.has(joint) && weights[k]! > 0 ? [{ anchors: links.get(joint)!, share: weights[k]! }] : [],
    );
    if (by.length > 0) found.set(vertex, by);
  });
  return (vertex) => found.get(vertex) ?? NOTHING;
}

const NOTHING: By = [];
