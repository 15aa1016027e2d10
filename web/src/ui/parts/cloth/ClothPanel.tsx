import { CLOTH_SETTINGS, MAPPED, type ClothPart, type Hold } from '@oscillum/core/cloth';
import type { JointRef } from '@oscillum/core/model';
import { changeCloths } from '../../../state/parts/cloth/edits';
import { paint, removeMap, setRelease } from '../../../state/parts/cloth/maps';
import { useAppSelector, type Thunk } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { JointRow } from '../../kit/JointRow';
import { CheckRow, NumberRow } from '../../kit/Rows';
import { PullsRow } from '../PullsRow';
import type { PanelProps } from '../kind';
import { PaintedRows } from '../PaintedRows';
import { Tints } from '../Tints';
import { Ties } from './Ties';
import { SheetRows } from './SheetRows';

/** What the selected cloths are made of, what holds them, and what they touch. */
export function ClothPanel({ parts, run }: PanelProps<ClothPart>) {
  return (
    <>
      <SheetRows parts={parts} run={run} />
      <Tints tints={TINTS} />
      {parts.length === 1 && <Painted part={parts[0]!} run={run} />}
      {parts.length === 1 && <Holds part={parts[0]!} run={run} />}
      {parts.length === 1 && <Ties part={parts[0]!} run={run} />}
      {parts.length === 1 && <PullsRow parts={parts} run={run} />}
    </>
  );
}

const TINTS = [
  [null, 'none', 'The mesh in its own colours'],
  ['stray', 'from its skin', 'How far it is from its skin: darkest at half its length'],
  [
    'leash',
    'leash',
    'How much of its leash it uses: darkest where the leash stops it, which is drawn as a shell',
  ],
  ['stretch', 'stretch', 'How much longer its edges are than at rest: darkest at 10 %'],
  ['contact', 'contact', 'Where it rests on what it touches: darker is deeper in its thickness'],
  ['layers', 'layers', 'Where its layers come near each other: darkest where they go through'],
] as const;

/** Settings that are painted over its mesh: each vertex has a share of the setting. */
function Painted({ part, run }: { part: ClothPart; run: (t: Thunk) => void }) {
  const { character } = useDesk();
  const plain = (key: string) => (key === 'leash' ? '0 holds a vertex to its skin' : 'the same everywhere');
  return (
    <PaintedRows
      id={part.id}
      maps={MAPPED.map((key) => ({
        key,
        label: CLOTH_SETTINGS[key].label,
        says: part.maps[key] ? null : plain(key),
      }))}
      onPaint={(key) => run(paint(character, part.id, key))}
      onRemove={(key) => run(removeMap(part.id, key))}
    />
  );
}

/** When what is held lets go: between two frames, by a painted map. */
function Release({ part, run }: { part: ClothPart; run: (t: Thunk) => void }) {
  const { character } = useDesk();
  const painting = useAppSelector((s) => s.view.painting);
  const { release } = part;
  const set = (to: Partial<NonNullable<ClothPart['release']>>) =>
    run(changeCloths([part.id], 'Set when it lets go', (p) => void Object.assign(p.release!, to)));
  return (
    <>
      <CheckRow
        label="Lets go in time"
        says="What is held is let go vertex by vertex, and keeps the speed it has"
        value={release !== null}
        onSet={(on) => run(setRelease(character, part.id, on))}
      />
      {release && (
        <>
          <NumberRow
            label="First lets go on frame"
            whole
            value={release.first}
            onSet={(first) => set({ first, last: Math.max(first, release.last) })}
          />
          <NumberRow
            label="Last lets go on frame"
            whole
            value={release.last}
            onSet={(last) => set({ last, first: Math.min(last, release.first) })}
          />
          <button
            className="mini"
            title="Draw a line over the mesh: it sweeps along it"
            aria-pressed={painting?.part === part.id && painting.key === 'release'}
            onClick={() => run(paint(character, part.id, 'release'))}
          >
            paint the order
          </button>
        </>
      )}
    </>
  );
}

/** What holds it to the skin: rims and joints. */
function Holds({ part, run }: { part: ClothPart; run: (t: Thunk) => void }) {
  const set = (name: string, recipe: (holds: Hold[]) => Hold[]) =>
    run(changeCloths([part.id], name, (p) => void (p.holds = recipe(p.holds))));
  const add = (joint: JointRef | null) =>
    joint && set('Hold it by a joint', (h) => [...h, { by: 'joint', joint, from: 0.5 }]);
  return (
    <>
      <h3>Held by</h3>
      {part.holds.length === 0 && (
        <p className="muted small">
          {part.maps.leash ? 'Its painted leash: where it is 0.' : 'Nothing holds it.'}
        </p>
      )}
      {part.holds.map((h, i) => (
        <div key={i}>
          {h.by === 'joint' ? (
            <NumberRow
              label={`${h.joint.name}, from a weight of`}
              value={h.from}
              says="Points that this joint weighs at least so much, 0 to 1"
              onSet={(from) => set('Set from what weight it is held', (all) => all.with(i, { ...h, from }))}
            />
          ) : (
            <NumberRow
              label="Rim, the shortest is 1"
              whole
              value={h.rim + 1}
              onSet={(n) =>
                set('Choose the rim that holds it', (all) => all.with(i, { ...h, rim: Math.max(0, n - 1) }))
              }
            />
          )}
          <button
            className="mini"
            onClick={() => set('Let it go there', (all) => all.filter((_, k) => k !== i))}
          >
            let go
          </button>
        </div>
      ))}
      <JointRow label="Hold by a joint" value={null} onSet={add} />
      <div className="presses">
        <button
          className="mini"
          onClick={() => set('Hold it by a rim', (h) => [...h, { by: 'rim', rim: 0 }])}
        >
          + rim
        </button>
      </div>
      <Release part={part} run={run} />
    </>
  );
}
