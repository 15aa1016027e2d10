import { nodesOf } from '@oscillum/core/shot';
import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useEffect, useMemo, useRef, useState } from 'react';
import { suggestChains, type Character } from '@oscillum/core/character';
import { selectShot, useAppDispatch, useAppEntries, useAppSelector } from '../../state/store';
import { viewSlice } from '../../state/view';
import { useDesk } from '../kit/desk';

interface Line {
  node: number;
  depth: number;
  kids: boolean;
}

/** A part that a joint moves with, and whether the joint is the first of its. */
interface Owner {
  readonly part: string;
  readonly first: boolean;
}

/** A set with one member more, or less when it was in it. */
function toggled(set: ReadonlySet<number>, one: number): ReadonlySet<number> {
  const next = new Set(set);
  if (!next.delete(one)) next.add(one);
  return next;
}

/** What each joint moves with, from the joints of parts and their names by turns. */
function ownersOf(owned: readonly string[]): Map<number, Owner> {
  const out = new Map<number, Owner>();
  for (let i = 0; i < owned.length; i += 2)
    for (const [k, node] of owned[i]!.split(' ').filter(Boolean).entries())
      out.set(Number(node), { part: owned[i + 1]!, first: k === 0 });
  return out;
}

/** The character's joints as a tree, with a search that shows matches with the way down to them. */
export const JointTree = memo(function JointTree() {
  const { character } = useDesk();
  const dispatch = useAppDispatch();
  const clip = useAppSelector((s) => selectShot(s)!.clip?.index ?? -1);
  // Joints, as text, and names in turn: while a slider moves they stay.
  const owned = useAppEntries((s) =>
    Object.values(selectShot(s)!.parts).flatMap((p) => [nodesOf(p, true).join(' '), p.name]),
  );
  const selected = useAppSelector((s) => s.view.joints);
  const query = useAppSelector((s) => s.view.search);
  const [closed, setClosed] = useState<ReadonlySet<number>>(new Set());
  const scroller = useRef<HTMLDivElement>(null);

  const owner = useMemo(() => ownersOf(owned), [owned]);
  const lines = useMemo(
    () => listLines(character.nodes, new Set(character.joints), query, closed),
    [character, query, closed],
  );
  const rows = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => 22,
    overscan: 12,
  });

  const last = selected.at(-1);
  useEffect(() => {
    const at = lines.findIndex((l) => l.node === last);
    if (at >= 0) rows.scrollToIndex(at, { align: 'auto' });
    // Follows the selection only, not every change of the list.
  }, [last]); // eslint-disable-line react-hooks/exhaustive-deps

  const pick = (node: number, add: boolean) =>
    dispatch(viewSlice.actions.jointsSelected({ joints: [node], add }));
  const onKey = (e: React.KeyboardEvent, at: number) => {
    const move = e.key === 'ArrowDown' ? 1 : e.key === 'ArrowUp' ? -1 : 0;
    if (!move) return;
    e.preventDefault();
    e.stopPropagation();
    const next = lines[at + move];
    if (!next) return;
    pick(next.node, false);
    rows.scrollToIndex(at + move);
    requestAnimationFrame(() =>
      scroller.current?.querySelector<HTMLElement>(`[data-node="${next.node}"]`)?.focus(),
    );
  };
  return (
    <section className="tree" aria-label="Joints of the character">
      <TreeHead character={character} query={query} clip={clip} owner={owner} />
      <div className="list" ref={scroller} role="tree" aria-label="Joints" aria-multiselectable="true">
        {lines.length === 0 && <p className="empty">No joint of that name.</p>}
        <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
          {rows.getVirtualItems().map((item) => {
            const l = lines[item.index]!;
            const chosen = selected.includes(l.node);
            return (
              <Joint
                key={l.node}
                line={l}
                name={character.nodes[l.node]!.name}
                chosen={chosen}
                focusable={chosen || (selected.length === 0 && item.index === 0)}
                owner={owner.get(l.node)}
                closed={closed.has(l.node)}
                top={item.start}
                onPick={(add) => pick(l.node, add)}
                onFold={() => setClosed((c) => toggled(c, l.node))}
                onKey={(e) => onKey(e, item.index)}
              />
            );
          })}
        </div>
      </div>
    </section>
  );
});

/** The search, and presses that select what it found, or rows that only ride along. */
function TreeHead({
  character,
  query,
  clip,
  owner,
}: {
  character: Character;
  query: string;
  clip: number;
  owner: ReadonlyMap<number, Owner>;
}) {
  const dispatch = useAppDispatch();
  const found = useMemo(() => {
    const fits = nameTest(query);
    return fits ? Array.from(character.joints).filter((j) => fits(character.nodes[j]!.name)) : [];
  }, [character, query]);
  const suggested = useMemo(
    () => suggestChains(character, character.clips[clip] ?? null, new Set(owner.keys())),
    [character, clip, owner],
  );
  const select = (joints: readonly number[]) =>
    dispatch(viewSlice.actions.jointsSelected({ joints: [...joints] }));
  return (
    <div className="tree-head">
      <h2 className="unseen">Joints</h2>
      <input
        type="search"
        placeholder="Search joints"
        aria-label="Search joints"
        value={query}
        onChange={(e) => dispatch(viewSlice.actions.searched(e.target.value))}
        onKeyDown={(e) => e.key === 'Enter' && found.length > 0 && select(found)}
      />
      {(found.length > 0 || suggested.length > 0) && (
        <span className="presses">
          {found.length > 0 && (
            <button
              className="mini"
              title="Selects every joint of that name (Enter)"
              onClick={() => select(found)}
            >
              select {found.length} found
            </button>
          )}
          {found.length === 0 && suggested.length > 0 && (
            <button
              className="mini"
              title="Rows of three joints or more that only ride along in this clip, the longest first"
              onClick={() => select(suggested.map((s) => s.row[0]!))}
            >
              suggest {suggested.length} {suggested.length === 1 ? 'chain' : 'chains'}
            </button>
          )}
        </span>
      )}
    </div>
  );
}

interface JointProps {
  line: Line;
  name: string;
  chosen: boolean;
  focusable: boolean;
  /** The part it moves with. */
  owner: Owner | undefined;
  closed: boolean;
  /** px from the top of the list. */
  top: number;
  onPick: (add: boolean) => void;
  onFold: () => void;
  onKey: (e: React.KeyboardEvent) => void;
}

function Joint({
  line: l,
  name,
  chosen,
  focusable,
  owner: of,
  closed,
  top,
  onPick,
  onFold,
  onKey,
}: JointProps) {
  const dispatch = useAppDispatch();
  return (
    <div
      role="treeitem"
      data-node={l.node}
      className="joint"
      title={of && `Moves with ${of.part}`}
      tabIndex={focusable ? 0 : -1}
      aria-selected={chosen}
      aria-level={l.depth + 1}
      aria-expanded={l.kids ? !closed : undefined}
      style={{
        position: 'absolute',
        top,
        left: 0,
        right: 0,
        paddingLeft: 8 + Math.min(l.depth, 12) * 9,
      }}
      onClick={(e) => onPick(e.shiftKey || e.ctrlKey || e.metaKey)}
      onKeyDown={(e) =>
        e.key === 'Enter' || e.key === ' '
          ? (e.preventDefault(), e.stopPropagation(), onPick(e.shiftKey || e.ctrlKey))
          : onKey(e)
      }
      onMouseEnter={() => dispatch(viewSlice.actions.hovered(l.node))}
      onMouseLeave={() => dispatch(viewSlice.actions.hovered(null))}
    >
      <span
        className="twig"
        aria-hidden
        onClick={(e) => {
          if (!l.kids) return;
          e.stopPropagation();
          onFold();
        }}
      >
        {l.kids ? (closed ? '▸' : '▾') : ''}
      </span>
      {name}
      {/* Said once, at its root: beside a deep joint there is no room to say it again. */}
      {of?.first && (
        <span className="of">
          <i />
          <span>{of.part}</span>
        </span>
      )}
      {of && <span className="of-dot" aria-hidden />}
    </div>
  );
}

/**
 * What a search asks of a name: to hold the text, or to fit it whole where a * stands for anything. Null asks nothing.
 */
function nameTest(query: string): ((name: string) => boolean) | null {
  const text = query.trim().toLowerCase();
  if (!text) return null;
  if (!text.includes('*')) return (name) => name.toLowerCase().includes(text);
  const pattern = new RegExp(
    `^${text
      .split('*')
      .map((t) => t.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'))
      .join('.*')}$`,
  );
  return (name) => pattern.test(name.toLowerCase());
}

type Nodes = Character['nodes'];

function listLines(
  nodes: Nodes,
  joints: ReadonlySet<number>,
  query: string,
  closed: ReadonlySet<number>,
): Line[] {
  const shown = new Set<number>();
  const fits = nameTest(query);
  if (fits) {
    for (const j of joints) {
      if (!fits(nodes[j]!.name)) continue;
      for (let n = j; n >= 0 && joints.has(n); n = nodes[n]!.parent) shown.add(n);
    }
  }
  const out: Line[] = [];
  // A joint whose parent is no joint begins a tree of its own. Depth first, without recursion: rigs can be deep.
  const stack = [...joints]
    .filter((j) => !joints.has(nodes[j]!.parent))
    .map((node) => ({ node, depth: 0 }))
    .reverse();
  for (let top = stack.pop(); top; top = stack.pop()) {
    const { node, depth } = top;
    if (fits && !shown.has(node)) continue;
    const kids = nodes[node]!.children.filter((c) => joints.has(c));
    out.push({ node, depth, kids: kids.length > 0 });
    if (fits || !closed.has(node))
      for (let i = kids.length - 1; i >= 0; i--) stack.push({ node: kids[i]!, depth: depth + 1 });
  }
  return out;
}
