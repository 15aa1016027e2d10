import { jointChildren, rowBetween, rowToTip, type Character } from '@oscillum/core/character';
import type { JointRef } from '@oscillum/core/model';
import { nodesOf, type Shot } from '@oscillum/core/shot';

/** A row of joints that a press of Make chain would take, and where else it could end. */
export interface Offer {
  first: number;
  last: number;
  row: number[];
  /** Childless joints below the first, the longest way first; more than one means there are forks. */
  tips: number[];
  /** Name of the part that moves some of these joints already, or null. */
  taken: string | null;
}

/**
 * Rows for the selected joints. Two joints on one branch are a first and a last; otherwise each is a first and its
 * row runs to the tip, or to `ends[first]` where one was chosen.
 */
export function offersFor(
  character: Character,
  shot: Shot,
  selected: readonly number[],
  ends: Readonly<Record<number, number>>,
): Offer[] {
  const offer = (first: number, last: number | undefined): Offer => {
    const tips = tipsBelow(character, first);
    const row = last === undefined ? rowToTip(character, first) : rowBetween(character, first, last);
    const owner = Object.values(shot.parts).find((p) => nodesOf(p, true).some((n) => row.includes(n)));
    return { first, last: row.at(-1)!, row, tips, taken: owner?.name ?? null };
  };
  if (selected.length === 2) {
    const [a, b] = selected as [number, number];
    if (isAbove(character, a, b)) return [offer(a, b)];
    if (isAbove(character, b, a)) return [offer(b, a)];
  }
  // A joint below another selected one is already on its row.
  const firsts = selected.filter((j) => !selected.some((k) => k !== j && isAbove(character, k, j)));
  return firsts.map((j) => offer(j, ends[j]));
}

function isAbove(character: Character, a: number, b: number): boolean {
  for (let n = character.nodes[b]!.parent; n >= 0; n = character.nodes[n]!.parent) if (n === a) return true;
  return false;
}

function tipsBelow(character: Character, first: number): number[] {
  const tips: { node: number; depth: number }[] = [];
  const walk = (node: number, depth: number) => {
    const kids = jointChildren(character, node);
    if (kids.length === 0) tips.push({ node, depth });
    else if (tips.length < 200) for (const k of kids) walk(k, depth + 1);
  };
  walk(first, 0);
  return tips.sort((a, b) => b.depth - a.depth || a.node - b.node).map((t) => t.node);
}

export function refsOf(character: Character, row: readonly number[]): JointRef[] {
  return row.map((node) => ({ node, name: character.nodes[node]!.name }));
}
