import { useMemo } from 'react';
import { branchesBelow, rowLength, suggestChains } from '@oscillum/core/character';
import { otherSide } from '../../../state/otherSide';
import { sentenceOf } from '../../../state/edits';
import { makeChains } from '../../../state/parts/chain/make';
import { offersFor, refsOf } from '../../../state/rows';
import { selectShot, useAppDispatch, useAppSelector } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { useDesk } from '../../kit/desk';
import { sayTrouble } from '../../kit/say';

/** What the selected joints could become, with one press to make it so. */
export function MakeChain() {
  const dispatch = useAppDispatch();
  const { character, ends } = useDesk();
  const shot = useAppSelector(selectShot)!;
  const joints = useAppSelector((s) => s.view.joints);
  const offers = useMemo(() => offersFor(character, shot, joints, ends), [character, shot, joints, ends]);
  const make = (rows: readonly (readonly number[])[]) => {
    try {
      dispatch(
        makeChains(
          rows.map((row) => ({
            joints: refsOf(character, row),
            length: rowLength(character, row) * shot.character.metresPerUnit,
          })),
        ),
      );
    } catch (e) {
      sayTrouble(sentenceOf(e));
    }
  };
  if (offers.length === 0) return Object.keys(shot.parts).length > 0 ? null : <FirstChains make={make} />;
  const free = offers.filter((o) => !o.taken);
  return (
    <div className="float offer" role="region" aria-label="Make chain">
      <ul>
        {offers.map((o) => (
          <OfferLine key={o.first} offer={o} two={joints.length === 2} />
        ))}
      </ul>
      <MorePresses joints={joints} />
      <button className="press" disabled={free.length === 0} onClick={() => make(free.map((o) => o.row))}>
        {free.length > 1 ? `Make ${free.length} chains` : 'Make chain'}
      </button>
    </div>
  );
}

/** How a shot without parts begins: the rows that only ride along, or joints that are clicked. */
function FirstChains({ make }: { make: (rows: readonly (readonly number[])[]) => void }) {
  const { character } = useDesk();
  const clip = useAppSelector((s) => selectShot(s)!.clip?.index ?? -1);
  const rows = useMemo(
    () => suggestChains(character, character.clips[clip] ?? null, new Set()).map((s) => s.row),
    [character, clip],
  );
  const names = rows.map((row) => character.nodes[row[0]!]!.name.replace(/[\s._-]*\d+$/, ''));
  return (
    <div className="float offer" role="region" aria-label="First chains">
      {rows.length > 0 && (
        <>
          <p style={{ margin: 0 }}>
            {rows.length === 1 ? 'One row of joints only rides' : `${rows.length} rows of joints only ride`}{' '}
            along in this clip: <b>{names.slice(0, 8).join(', ')}</b>
            {names.length > 8 && ` and ${names.length - 8} more`}.
          </p>
          <button className="press" onClick={() => make(rows)}>
            {rows.length === 1 ? 'Make it a chain' : `Make ${rows.length} chains`}
          </button>
        </>
      )}
      <p className="muted" style={{ margin: 0 }}>
        {rows.length > 0 ? 'Or click' : 'Click'} the first joint of a tail, an ear or a strap, on the figure
        or in the list. Shift-click for more.
      </p>
    </div>
  );
}

type Offer = ReturnType<typeof offersFor>[number];

/** One row that can become a chain; `two`: its ends were both chosen. */
function OfferLine({ offer: o, two }: { offer: Offer; two: boolean }) {
  const { character, setEnd } = useDesk();
  const name = (n: number) => character.nodes[n]!.name;
  return (
    <li>
      <b>{name(o.first)}</b> to{' '}
      {o.tips.length > 1 && !two ? (
        <select
          aria-label={`Where the chain from ${name(o.first)} ends`}
          value={o.last}
          onChange={(e) => setEnd(o.first, Number(e.target.value))}
        >
          {o.tips.map((t) => (
            <option key={t} value={t}>
              {name(t)}
            </option>
          ))}
        </select>
      ) : (
        <b>{name(o.last)}</b>
      )}
      <span className="muted">
        {o.row.length} {o.row.length === 1 ? 'joint' : 'joints'}
        {o.taken && `, moved by ${o.taken} already`}
      </span>
    </li>
  );
}

/** Presses that choose more joints beside those chosen. */
function MorePresses({ joints }: { joints: readonly number[] }) {
  const dispatch = useAppDispatch();
  const { character } = useDesk();
  const select = (list: readonly number[]) =>
    dispatch(viewSlice.actions.jointsSelected({ joints: [...list] }));
  const branches = useMemo(
    () => [...new Set(joints.flatMap((j) => branchesBelow(character, j)))],
    [character, joints],
  );
  const others = useMemo(
    () =>
      joints.flatMap((j) => {
        const name = otherSide(character.nodes[j]!.name);
        const node = name === null ? -1 : character.nodes.findIndex((n) => n.name === name);
        return node >= 0 && !joints.includes(node) ? [node] : [];
      }),
    [character, joints],
  );
  return (
    <span className="presses">
      {branches.length > joints.length && (
        <button
          className="mini"
          title="Selects the first joint of every row below, to its tip"
          onClick={() => select(branches)}
        >
          each branch below
        </button>
      )}
      {others.length > 0 && (
        <button
          className="mini"
          title="Selects the joints of the other side's names as well"
          onClick={() => select([...joints, ...others])}
        >
          other side too
        </button>
      )}
    </span>
  );
}
