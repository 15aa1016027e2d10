import type { Character, Clip } from './character';
import { jointChildren } from './rows';
import { rowLength } from './size';

/** A row of joints that moves stiffly and could become a chain. */
export interface Suggestion {
  /** Nodes, root to tip. */
  readonly row: readonly number[];
  /** Length at rest, in the file's units. */
  readonly length: number;
}

/** Rows need this many joints to swing. */
const LEAST_JOINTS = 3;
/** Values of a channel that differ by no more than this are one value. */
const STILL = 1e-4;

const LIMB =
  /\b(thigh|shin|calf|leg|knee|foot|toe|toes|shoulder|arm|forearm|elbow|hand|finger|thumb)(\b|_|\d)/i;

/** The first joint of a row whose name says that it is a limb's, which is animated rather than simulated; or null. */
export const limbIn = (character: Character, row: readonly number[]): string | null =>
  row.map((n) => character.nodes[n]!.name).find((name) => LIMB.test(name.replace(/[_.:-]/g, ' '))) ?? null;

/**
 * Rows that only ride along: joints down to a tip, without forks, that the clip does not turn and that no name calls a
 * limb. Longest first, since those look stiffest. Joints in `taken` belong to something else.
 */
export function suggestChains(
  character: Character,
  clip: Clip | null,
  taken: ReadonlySet<number>,
): Suggestion[] {
  const joints = new Set(character.joints);
  const moved = new Set<number>();
  for (const { node, path, values } of clip?.channels ?? []) {
    if (path !== 'rotation' && path !== 'translation') continue;
    const width = path === 'rotation' ? 4 : 3;
    for (let k = width; k < values.length; k++)
      if (Math.abs(values[k]! - values[k % width]!) > STILL) {
        moved.add(node);
        break;
      }
  }
  const out: Suggestion[] = [];
  for (const tip of character.joints) {
    if (jointChildren(character, tip).length > 0) continue;
    const row: number[] = [];
    for (let n = tip; joints.has(n); n = character.nodes[n]!.parent) {
      if (moved.has(n) || taken.has(n) || (n !== tip && jointChildren(character, n).length > 1)) break;
      row.unshift(n);
    }
    // What carries the whole figure is no row of its own.
    if (row.length < LEAST_JOINTS || character.nodes[row[0]!]!.parent < 0) continue;
    if (limbIn(character, row) !== null) continue;
    out.push({ row, length: rowLength(character, row) });
  }
  return out.sort((a, b) => b.length - a.length || a.row[0]! - b.row[0]!);
}

/** First joints of every unforked row to a tip below a joint, itself the first when nothing forks. */
export function branchesBelow(character: Character, from: number): number[] {
  const kids = jointChildren(character, from);
  const branch = (first: number): number[] => {
    let n = first;
    for (let below = jointChildren(character, n); below.length > 0; below = jointChildren(character, n)) {
      if (below.length > 1) return below.flatMap(branch);
      n = below[0]!;
    }
    return [first];
  };
  return kids.length > 1 ? kids.flatMap(branch) : branch(from);
}
