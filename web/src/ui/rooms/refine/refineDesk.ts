import { randomId } from '../../../api/ids';
import { createContext, useContext } from 'react';
import type { CopiedKey, Refinement, RefineTool } from '@oscillum/core/model';
import { channelKey } from '@oscillum/core/refine';
import type { Refining } from './useRefining';

/** Frames of chosen keys by channel. */
export type Chosen = Readonly<Record<string, readonly number[]>>;

/** What was copied: keys of joints, by node. */
export interface Copied {
  readonly path: 'rotation' | 'translation';
  readonly keys: ReadonlyMap<number, readonly CopiedKey[]>;
}

/** What the parts of the Refine room share. */
export interface RefineDesk extends Refining {
  /** Joints whose curves are shown. */
  readonly nodes: readonly number[];
  readonly path: 'rotation' | 'translation';
  readonly nameOf: (node: number) => string;
  readonly chosen: Chosen;
  setChosen: (chosen: Chosen) => void;
  /** A span of frames taken on the strip; null for that of the chosen keys. */
  readonly span: { readonly first: number; readonly last: number } | null;
  setSpan: (span: RefineDesk['span']) => void;
  readonly range: { readonly first: number; readonly last: number };
  /** The bake is shown as it came. */
  readonly untouched: boolean;
  readonly snap: boolean;
  readonly copied: Copied | null;
  setCopied: (copied: Copied) => void;
}

export const RefineContext = createContext<RefineDesk | null>(null);

export function useRefineDesk(): RefineDesk {
  const desk = useContext(RefineContext);
  if (!desk) throw new Error('No curves are open');
  return desk;
}

/** The frames a tool works on: the span, that of the chosen keys, or all. */
export function toolSpan({ span, chosen, range }: RefineDesk): { first: number; last: number } {
  if (span) return span;
  const frames = Object.values(chosen).flat();
  const first = frames.reduce((a, b) => Math.min(a, b), Infinity);
  const last = frames.reduce((a, b) => Math.max(a, b), -Infinity);
  return last > first ? { first, last } : range;
}

const ids = (): string => `r${randomId(12)}`;

/** "lappet left 2", or how many joints. */
const what = (desk: RefineDesk, nodes: readonly number[]): string =>
  nodes.length === 1 ? desk.nameOf(nodes[0]!).slice(0, 60) : `${nodes.length} joints`;

/** A shape tool on all curves that are shown. */
export function shapeStep(desk: RefineDesk, name: string, does: RefineTool, ease: number): Refinement | null {
  const nodes = desk.nodes.filter((n) => desk.now.has(channelKey(n, desk.path)));
  if (nodes.length === 0) return null;
  const { first, last } = toolSpan(desk);
  return {
    ...{ id: ids(), name: `${name} ${what(desk, nodes)}, frames ${first}–${last}`, muted: false },
    channels: nodes.map((node) => ({ joint: { node, name: desk.nameOf(node) }, path: desk.path })),
    ...{ first, last, ease, does },
  };
}

/** A key tool on the chosen keys, or on those given. `does` is given their frames, channel by channel. */
export function keyStep(
  desk: RefineDesk,
  name: string,
  does: (keys: number[][]) => RefineTool,
  chosen: Chosen = desk.chosen,
): Refinement | null {
  const list = desk.nodes.flatMap((node) => {
    const frames = chosen[channelKey(node, desk.path)] ?? [];
    return frames.length > 0 ? [{ node, frames: [...frames] }] : [];
  });
  if (list.length === 0) return null;
  const all = list.flatMap((l) => l.frames);
  const count = all.length;
  const first = all.reduce((a, b) => Math.min(a, b));
  const last = all.reduce((a, b) => Math.max(a, b));
  const keys = count === 1 ? 'a key' : `${count} keys`;
  return {
    ...{ id: ids(), muted: false, ease: 0, first, last },
    name: `${name} ${keys} of ${what(
      desk,
      list.map((l) => l.node),
    )}`,
    channels: list.map(({ node }) => ({ joint: { node, name: desk.nameOf(node) }, path: desk.path })),
    does: does(list.map((l) => l.frames)),
  };
}
