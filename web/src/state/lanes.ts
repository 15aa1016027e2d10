import type { PartBase } from '@oscillum/core/model';

/** What a part has on a frame: an anchor pose, keys of its settings, or both. */
export interface Mark {
  readonly part: string;
  readonly frame: number;
}

/** What was copied, with frames counted from the first of them. */
export interface CopiedMarks {
  readonly parts: readonly (Pick<PartBase, 'id' | 'anchors'> & { readonly keys: PartBase['keys'] })[];
}

/** Frames on which some setting of a part has a key. */
export const keyedFrames = (keys: PartBase['keys']): number[] => [
  ...new Set(Object.values(keys).flatMap((list) => list?.map((k) => k.frame) ?? [])),
];

/** The marks of a part, by frame. */
export const marksOf = (part: PartBase): Mark[] =>
  [...new Set([...part.anchors.map((a) => a.frame), ...keyedFrames(part.keys)])].map((frame) => ({
    part: part.id,
    frame,
  }));

/** How lanes are listed. */
export interface LaneListing {
  readonly filter: string;
  readonly sort: 'order' | 'trouble' | 'off source';
  readonly grouped: boolean;
}

/** Lanes that belong together, under one name; one of a single part stands for itself. */
export interface LaneGroup<P extends PartBase = PartBase> {
  readonly name: string;
  readonly parts: readonly P[];
}

/** "Fringe 3", "Crest, left" and "lappet_L" without what tells them from their likes. */
export const groupName = (name: string): string =>
  name
    .replace(/[\s,._-]*(?<![A-Za-z])(left|right|middle|front|back|upper|lower|l|r|\d+)(?![A-Za-z])/gi, '')
    .trim() || name;

/** The lanes to show, in order: filtered, sorted by what is worst, put in groups of like names. */
export function listLanes<P extends PartBase>(
  parts: readonly P[],
  { filter, sort, grouped }: LaneListing,
  worst: Readonly<Record<string, { readonly troubles: number; readonly offSource: number }>>,
): LaneGroup<P>[] {
  const words = filter.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = parts.filter((p) => words.every((w) => p.name.toLowerCase().includes(w)));
  const rank = (p: P) => {
    const w = worst[p.id] ?? { troubles: 0, offSource: 0 };
    return sort === 'trouble' ? 1000 * w.troubles + w.offSource : sort === 'off source' ? w.offSource : 0;
  };
  const sorted = sort === 'order' ? shown : [...shown].sort((a, b) => rank(b) - rank(a));
  if (!grouped) return sorted.map((p) => ({ name: p.name, parts: [p] }));
  const groups = new Map<string, P[]>();
  for (const p of sorted) {
    const name = groupName(p.name);
    groups.set(name, [...(groups.get(name) ?? []), p]);
  }
  return [...groups].map(([name, list]) => ({ name, parts: list }));
}
