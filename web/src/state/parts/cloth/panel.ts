import { randomId } from '../../../api/ids';
import { restWorld, type Character } from '@oscillum/core/character';
import { clothSettingsFor, makePanelPart } from '@oscillum/core/cloth';
import { PartId, type JointRef } from '@oscillum/core/model';
import { rowLength } from '@oscillum/core/character';
import { partsInOrder, type Part, type Shot } from '@oscillum/core/shot';
import { change } from '../../edits';
import type { Thunk } from '../../store';
import { viewSlice } from '../../view';

/** Rows of a ring stand no farther apart, from the last to the first, than so many times what the others do. */
const RING = 1.6;

type Chain = Extract<Part, { kind: 'chain' }>;

/** The chains among some parts; none where one is of another kind, or there are fewer than two. */
export function chainsOf(shot: Shot, ids: readonly string[]): Chain[] {
  const parts = partsInOrder(shot).filter((p) => ids.includes(p.id));
  return parts.length > 1 && parts.every((p): p is Chain => p.kind === 'chain') ? parts : [];
}

/** Rows in their order across, each beside the one it is nearest to at rest, and whether they close to a ring. */
export function across(
  character: Character,
  rows: readonly JointRef[][],
): { rows: JointRef[][]; closed: boolean } {
  const world = restWorld(character);
  // By their ends: roots may be close together.
  const at = (row: readonly JointRef[]) => {
    const n = row.at(-1)!.node;
    return [world[16 * n + 12]!, world[16 * n + 13]!, world[16 * n + 14]!];
  };
  const apart = (a: readonly JointRef[], b: readonly JointRef[]) => {
    const [p, q] = [at(a), at(b)];
    return Math.hypot(...p.map((x, k) => x - q[k]!));
  };
  const left = [...rows];
  // Begin at an end: the row whose second nearest is farthest away.
  const second = (r: JointRef[]) =>
    rows
      .filter((o) => o !== r)
      .map((o) => apart(r, o))
      .sort((a, b) => a - b)[1] ?? 0;
  const first = left.reduce((m, r) => (second(r) > second(m) ? r : m), left[0]!);
  const out = [left.splice(left.indexOf(first), 1)[0]!];
  while (left.length > 0) {
    const last = out.at(-1)!;
    const next = left.reduce((m, r) => (apart(r, last) < apart(m, last) ? r : m), left[0]!);
    out.push(left.splice(left.indexOf(next), 1)[0]!);
  }
  const steps = out.slice(1).map((r, k) => apart(r, out[k]!));
  const closed = out.length > 3 && apart(out.at(-1)!, out[0]!) <= RING * Math.max(...steps);
  return { rows: out, closed };
}

/** Chains become one panel, whose rows they are, and it is selected. */
export function makePanelOf(character: Character, ids: readonly string[]): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    const chains = shot ? chainsOf(shot, ids) : [];
    if (!shot || chains.length === 0) return;
    const found = across(
      character,
      chains.map((c) => c.joints),
    );
    const { metresPerUnit } = shot.character;
    const lengths = found.rows.map(
      (r) =>
        rowLength(
          character,
          r.map((j) => j.node),
        ) * metresPerUnit,
    );
    const id = PartId.parse(`p${randomId(8)}`);
    // "Poncho 1", "Poncho 2" … become "Poncho".
    const name = chains[0]!.name.replace(/[\s,]*\d+$/, '') || chains[0]!.name;
    dispatch(
      change(`Make a panel of ${chains.length} chains`, (d) => {
        for (const c of chains) delete d.parts[c.id];
        d.parts[id] = makePanelPart({
          ...{ id, name, order: chains[0]!.order, ...found },
          settings: clothSettingsFor(Math.max(...lengths)),
          collidesWith: { colliders: chains[0]!.collidesWith.colliders },
        });
      }),
    );
    dispatch(viewSlice.actions.partsSelected({ parts: [id] }));
  };
}
