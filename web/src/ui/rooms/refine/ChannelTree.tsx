import { memo, useMemo, useState } from 'react';
import type { Character } from '@oscillum/core/character';
import { nodesOf, partsInOrder, type Shot } from '@oscillum/core/shot';
import type { Curves } from '@oscillum/core/refine';
import { useAppDispatch, useAppSelector } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { useDesk } from '../../kit/desk';

const { jointsSelected, partsSelected } = viewSlice.actions;

/**
 * Joints that have curves: by chain, root to tip, then all that the clip itself moves. Not drawn anew while a hand is
 * at the curves.
 */
export const ChannelTree = memo(function ChannelTree({
  base,
  nodes,
}: {
  base: Curves;
  nodes: readonly number[];
}) {
  const { character } = useDesk();
  const dispatch = useAppDispatch();
  const shot = useAppSelector((s) => s.shot.shot)!;
  const nameOf = (node: number) => character.nodes[node]?.name ?? `joint ${node}`;
  const [query, setQuery] = useState('');
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const refined = useMemo(
    () => new Set(shot.refine.steps.flatMap((s) => (s.muted ? [] : s.channels.map((c) => c.joint.node)))),
    [shot.refine.steps],
  );
  const groups = useMemo(() => groupsOf(base, shot, character), [base, shot, character]);
  const fits = (node: number) => nameOf(node).toLowerCase().includes(query.trim().toLowerCase());
  const [from, setFrom] = useState<number | null>(null);
  const listed = groups.flatMap((g) => g.joints);
  const pick = (node: number, e: React.MouseEvent) => {
    if (e.shiftKey && from !== null) {
      const [a, b] = [listed.indexOf(from), listed.indexOf(node)].sort((x, y) => x - y) as [number, number];
      dispatch(partsSelected({ parts: [] }));
      dispatch(jointsSelected({ joints: listed.slice(a, b + 1) }));
      return;
    }
    setFrom(node);
    const add = e.ctrlKey || e.metaKey;
    // A joint shown with its chain is taken out by choosing the others one by one.
    const now = add ? nodes.filter((n) => n !== node) : [];
    dispatch(partsSelected({ parts: [] }));
    dispatch(jointsSelected({ joints: add && nodes.includes(node) ? now : [...now, node] }));
  };
  const toggle = (id: string) =>
    setOpen((o) => new Set(o.has(id) ? [...o].filter((x) => x !== id) : [...o, id]));
  return (
    <section className="tree channels" aria-label="Joints with curves">
      <div className="tree-head">
        <h2>Curves</h2>
        <input
          type="search"
          placeholder="Search joints"
          aria-label="Search joints"
          value={query}
          onChange={(e) => setQuery(e.target.value)}
          onKeyDown={(e) => e.stopPropagation()}
        />
      </div>
      <div className="channel-list">
        {groups.map((g) => {
          const joints = g.joints.filter(fits);
          if (joints.length === 0) return null;
          const unfolded = query.trim() !== '' || open.has(g.id) || g.joints.some((n) => nodes.includes(n));
          return (
            <Group
              key={g.id}
              group={g}
              joints={joints}
              nodes={nodes}
              refined={refined}
              unfolded={unfolded}
              nameOf={nameOf}
              onToggle={() => toggle(g.id)}
              onPick={pick}
            />
          );
        })}
        {groups.length === 0 && (
          <p className="empty">This clip has no curves. Make a chain in Tune, and its bake shows here.</p>
        )}
      </div>
    </section>
  );
});

/** Joints that have curves, by the chain they are of; those of none last. */
function groupsOf(base: Curves, shot: Shot, character: Character) {
  const moved = new Set([...base.values()].map((c) => c.node));
  const chains = partsInOrder(shot).map((p) => ({
    ...{ id: p.id as string, name: p.name },
    joints: nodesOf(p).filter((n) => moved.has(n)),
  }));
  const inChain = new Set(chains.flatMap((c) => c.joints));
  const others = Array.from(character.order).filter((n) => moved.has(n) && !inChain.has(n));
  return [...chains, { id: '', name: 'The clip’s own joints', joints: others }].filter(
    (g) => g.joints.length > 0,
  );
}

interface GroupProps {
  group: { readonly id: string; readonly name: string; readonly joints: readonly number[] };
  /** Those of its joints that are listed. */
  joints: readonly number[];
  /** Joints whose curves are shown. */
  nodes: readonly number[];
  refined: ReadonlySet<number>;
  unfolded: boolean;
  nameOf: (node: number) => string;
  onToggle: () => void;
  onPick: (node: number, e: React.MouseEvent) => void;
}

/** A chain with its joints, or the joints of none. */
function Group({ group: g, joints, nodes, refined, unfolded, nameOf, onToggle, onPick }: GroupProps) {
  const dispatch = useAppDispatch();
  return (
    <div role="group" aria-label={g.name}>
      <div className="channel-head">
        <button
          className="plain"
          aria-expanded={unfolded}
          aria-label={`${unfolded ? 'Fold' : 'Unfold'} ${g.name}`}
          onClick={onToggle}
        >
          {unfolded ? '▾' : '▸'}
        </button>
        <button
          className="plain name"
          aria-pressed={g.joints.every((n) => nodes.includes(n))}
          title={`Show all ${g.joints.length}`}
          onClick={() => {
            dispatch(jointsSelected({ joints: g.id ? [] : [...g.joints] }));
            dispatch(partsSelected({ parts: g.id ? [g.id] : [] }));
          }}
        >
          <b>{g.name}</b> <span className="muted">{g.joints.length}</span>
        </button>
      </div>
      {unfolded &&
        joints.map((node) => (
          <button
            key={node}
            className="channel"
            aria-pressed={nodes.includes(node)}
            title={refined.has(node) ? `${nameOf(node)}: refined` : nameOf(node)}
            onClick={(e) => onPick(node, e)}
          >
            <i data-refined={refined.has(node)} aria-hidden />
            {nameOf(node)}
          </button>
        ))}
    </div>
  );
}
