import type { Character } from '../../character/index';
import { quatRotate } from '../../math/index';
import { eachWeight } from '../../sheets/index';
import { anchorsOf, carryPlace } from '../borne';
import type { Anchor, PartRun, PartTrack } from '../kind';
import type { StrandsLayout } from './layout';
import { cross, turnBetween, unitOf, type V } from './turns';

/** Carries roots (place and turn, 7 numbers each) along with the joints that other parts move. */
export type BearRoots = (roots: Float64Array) => void;

/** What of other parts carries a guide, and how much of it. */
interface Borne {
  readonly guide: number;
  readonly by: readonly { readonly anchors: readonly Anchor[]; readonly share: number }[];
}

/**
 * How the roots of strands go along with what other parts make of the joints under them: by the weights of the corners
 * that each stands on, as skinning would take a place of those weights. Null when no other part moves any.
 */
export function bearingRoots(
  character: Character,
  layout: Pick<StrandsLayout, 'node' | 'roots'>,
  track: Pick<PartTrack, 'bearers'>,
  runs: readonly PartRun[],
): BearRoots | null {
  const links = anchorsOf(track, runs);
  if (links.size === 0) return null;
  const borne = borneGuides(character, layout, links);
  const [place, one, two, way] = [0, 1, 2, 3].map(() => new Float64Array(3)) as [P, P, P, P];
  const axis = new Float64Array(9);
  return (roots) => {
    for (const { guide, by } of borne) {
      const o = 7 * guide;
      /** Where a place `at` from the root is carried to. */
      const carry = (out: P, ax: number, ay: number) => {
        axis.set([ax, ay, 0]);
        quatRotate(axis, 3, roots, o + 3, axis, 0);
        for (let a = 0; a < 3; a++) out[a] = axis[6 + a] = roots[o + a]! + axis[3 + a]!;
        way.fill(0);
        for (const { anchors, share } of by) {
          const to = axis.subarray(0, 3);
          to.set(out);
          carryPlace(to, anchors);
          for (let a = 0; a < 3; a++) way[a]! += share * (to[a]! - axis[6 + a]!);
        }
        for (let a = 0; a < 3; a++) out[a]! += way[a]!;
      };
      carry(place, 0, 0);
      carry(one, 1, 0);
      carry(two, 0, 1);
      standOn(roots, o, place, one, two);
    }
  };
}

/** Puts a root where a place is, turned so that its first axis points at `one` and its second toward `two`. */
function standOn(roots: Float64Array, o: number, place: P, one: P, two: P): void {
  const [x, y] = [one, two].map((to) => [0, 1, 2].map((a) => to[a]! - place[a]!) as V) as [V, V];
  for (let a = 0; a < 3; a++) roots[o + a] = place[a]!;
  const [u, n] = [unitOf(x), unitOf(cross(x, y))];
  if (u && n) turnBetween(roots, o + 3, UPRIGHT, 0, Float64Array.from([...u, ...cross(n, u), ...n]));
}

const UPRIGHT = Float64Array.of(1, 0, 0, 0, 1, 0, 0, 0, 1);
type P = Float64Array;

function borneGuides(
  character: Character,
  { node, roots }: Pick<StrandsLayout, 'node' | 'roots'>,
  links: ReadonlyMap<number, readonly Anchor[]>,
): Borne[] {
  const own = links.get(node);
  const skinned = character.skins[character.nodes[node]!.skin];
  if (!skinned) return own ? roots.map((_, guide) => ({ guide, by: [{ anchors: own, share: 1 }] })) : [];
  const weighed = new Map<number, { joint: number; weight: number }[]>();
  eachWeight(character, node, (vertex, joints, weights) => {
    const by = joints.flatMap((joint, k) =>
      links.has(joint) && weights[k]! > 0 ? [{ joint, weight: weights[k]! }] : [],
    );
    if (by.length > 0) weighed.set(vertex, by);
  });
  return roots.flatMap(({ corners, shares }, guide) => {
    const sums = new Map<number, number>();
    corners.forEach((v, k) => {
      for (const { joint, weight } of weighed.get(v) ?? [])
        sums.set(joint, (sums.get(joint) ?? 0) + shares[k]! * weight);
    });
    const by = [...sums].map(([joint, share]) => ({ anchors: links.get(joint)!, share }));
    return by.length > 0 ? [{ guide, by }] : [];
  });
}
