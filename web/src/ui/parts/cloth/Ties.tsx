import { useMemo, useState } from 'react';
import type { ClothPart, Tie } from '@oscillum/core/cloth';
import { findRims, regionsOf, sheetOf } from '@oscillum/core/sheets';
import { changeCloths } from '../../../state/parts/cloth/edits';
import { selectShot, useAppSelector, type Thunk } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { JointRow } from '../../kit/JointRow';
import { CheckRow, ChoiceRow } from '../../kit/Rows';

/** Rims that are offered at most, the shortest first. */
const MOST_RIMS = 12;

/** What a tie takes, in words. */
const nameOf = ({ what }: Tie): string =>
  what.by === 'rim' ? `rim ${what.rim + 1}` : `what ${what.joint.name} weighs`;

/** What of a cloth goes with something else: a joint, a chain’s tip, another cloth. */
export function Ties({ part, run }: { part: ClothPart; run: (t: Thunk) => void }) {
  const { character } = useDesk();
  const parts = useAppSelector((s) => selectShot(s)!.parts);
  const others = Object.values(parts).filter((p) => p.kind === 'cloth' && p.id !== part.id);
  const choices = useMemo(() => {
    const { node } = part.mesh;
    const rims = findRims(sheetOf(character, node))
      .slice(0, MOST_RIMS)
      .map((points, rim): [Tie['what'], string] => [
        { by: 'rim', rim },
        `rim ${rim + 1}, ${points.length} points`,
      ]);
    const joints = regionsOf(character, node).flatMap(({ region, name }): [Tie['what'], string][] =>
      region.by === 'joint' ? [[{ by: 'joint', joint: region.joint, from: 0.5 }, `what ${name} weighs`]] : [],
    );
    return [...rims, ...joints];
  }, [character, part.mesh]);
  const [chosen, setChosen] = useState(0);
  const set = (name: string, recipe: (ties: Tie[]) => Tie[]) =>
    run(changeCloths([part.id], name, (p) => void (p.ties = recipe(p.ties))));
  const tie = (to: Tie['to']) => {
    const what = choices[chosen]?.[0];
    if (what) set('Tie it', (all) => [...all, { what, to, pulls: false }]);
  };
  const toName = ({ to }: Tie) => (to.by === 'joint' ? to.joint.name : (parts[to.part]?.name ?? 'nothing'));
  return (
    <>
      <h3>Tied</h3>
      {part.ties.map((t, i) => (
        <div key={i} role="group" aria-label={`Tie ${i + 1}`}>
          <div className="painted">
            <span>
              {nameOf(t)} <span className="muted small">to</span> {toName(t)}
            </span>
            <button className="mini" onClick={() => set('Untie it', (all) => all.filter((_, k) => k !== i))}>
              untie
            </button>
          </div>
          <CheckRow
            label="Pulls at what it is tied to"
            says="A chain or a cloth that it is tied to feels it; other joints cannot"
            value={t.pulls}
            onSet={(pulls) => set('Set whether it pulls', (all) => all.with(i, { ...t, pulls }))}
          />
        </div>
      ))}
      {choices.length > 0 && (
        <>
          <ChoiceRow
            label="Tie"
            value={String(chosen)}
            choices={choices.map(([, name], k) => [String(k), name] as const)}
            onSet={(k) => setChosen(Number(k))}
          />
          <JointRow
            label="to a joint"
            says="The last joint of a chain is its tip"
            value={null}
            onSet={(joint) => joint && tie({ by: 'joint', joint })}
          />
          {others.length > 0 && (
            <ChoiceRow
              label="or to a cloth"
              value={'' as string}
              choices={[['', 'choose a cloth'], ...others.map((o) => [o.id, o.name] as const)]}
              onSet={(id) => id && tie({ by: 'cloth', part: id as ClothPart['id'] })}
            />
          )}
        </>
      )}
    </>
  );
}
