import { useEffect, useState } from 'react';
import { nodesOf, partsInOrder, playsKeys, type Part } from '@oscillum/core/shot';
import { called, removeParts, renamePart, sentenceOf, setMuted } from '../../../state/edits';
import { selectShot, useAppDispatch, useAppSelector, type Thunk } from '../../../state/store';
import { useTyping } from '../../kit/Fields';
import { LoopHint } from '../../desk/CycleRows';
import { BakeInto } from '../../desk/BakeInto';
import { uiOf } from '../../parts';
import { Hint } from './Hint';
import { Takes } from './Takes';
import { World } from './World';

type About = 'parts' | 'world' | 'takes';

const TABS: readonly (readonly [About, string])[] = [
  ['parts', 'Parts'],
  ['world', 'World'],
  ['takes', 'Takes'],
];

function Tabs({ about, onChoose }: { about: About; onChoose: (about: About) => void }) {
  return (
    <div className="tabs" role="tablist">
      {TABS.map(([value, name]) => (
        <button
          key={value}
          className="plain"
          role="tab"
          aria-selected={about === value}
          onClick={() => onChoose(value)}
        >
          {name}
        </button>
      ))}
    </div>
  );
}

/** What is set of the selected parts. */
function Selected({ parts, run }: { parts: readonly Part[]; run: (t: Thunk) => void }) {
  const all = partsInOrder(useAppSelector(selectShot)!);
  const alike = parts.every((p) => p.kind === parts[0]?.kind);
  const Panel = parts[0] && alike ? uiOf(parts[0]).Panel : null;
  const ids = parts.map((p) => p.id);
  const others = all.filter((p) => !ids.includes(p.id));
  return (
    <>
      <div style={{ display: 'flex', alignItems: 'baseline', gap: 8 }}>
        {parts.length === 1 ? <PartName key={ids[0]} part={parts[0]!} run={run} /> : <h2>{called(parts)}</h2>}
        <button
          className="plain muted"
          style={{ marginLeft: 'auto' }}
          title="Remove (Del)"
          onClick={() => run(removeParts(ids))}
        >
          Remove
        </button>
      </div>
      <InTheClip parts={parts} run={run} />
      <LoopHint run={run} />
      {Panel ? (
        <Panel parts={parts} others={others} run={run} />
      ) : (
        <p className="muted small">
          These are of several kinds. Select parts of one kind to tune them together.
        </p>
      )}
    </>
  );
}

/** Settings of the selected parts, the shot's own time and surroundings, and takes. */
export function Settings() {
  const dispatch = useAppDispatch();
  const shot = useAppSelector(selectShot)!;
  const chosen = useAppSelector((s) => s.view.parts);
  const [trouble, setTrouble] = useState<string | null>(null);
  /** What the panel shows while parts are selected. */
  const [about, setAbout] = useState<About>('parts');
  const taken = useAppSelector((s) => (s.view.thing?.kind === 'collider' ? s.view.thing.id : null));
  // A collider taken on the stage is worked on in the world's panel.
  useEffect(() => {
    if (taken) setAbout('world');
  }, [taken]);
  const parts = partsInOrder(shot).filter((p) => chosen.includes(p.id));
  const run = (thunk: Thunk) => {
    try {
      dispatch(thunk);
      setTrouble(null);
    } catch (e) {
      setTrouble(sentenceOf(e));
    }
  };
  return (
    <aside className="panel" aria-label="Settings">
      <Tabs about={about} onChoose={setAbout} />
      <Hint />
      {about === 'world' ? (
        <World run={run} />
      ) : about === 'takes' ? (
        <Takes run={run} />
      ) : parts.length === 0 ? (
        <>
          <h2>{Object.keys(shot.parts).length ? 'Nothing selected' : 'Nothing moves yet'}</h2>
          <p className="muted" style={{ margin: 0 }}>
            {Object.keys(shot.parts).length
              ? 'Click a lane below to tune its part. Shift-click to tune several together.'
              : 'Click the first joint of what should move, then press Make chain.'}
          </p>
        </>
      ) : (
        <Selected parts={parts} run={run} />
      )}
      {trouble && (
        <p className="trouble" role="alert">
          {trouble}
        </p>
      )}
    </aside>
  );
}

/** Bakes what moves into the shot's clip; says why what is muted does not move, and brings back what was baked. */
function InTheClip({ parts, run }: { parts: readonly Part[]; run: (t: Thunk) => void }) {
  const clip = useAppSelector((s) => selectShot(s)!.clip);
  const played = parts.filter((p) => playsKeys({ clip }, p));
  // What moves nothing of the file has no keys there: hair.
  const held = parts.filter((p) => !p.muted && nodesOf(p).length > 0);
  return (
    <>
      {played.length > 0 && (
        <p className="notice" style={{ margin: 0 }}>
          Baked into “{clip!.name}”: {played.length === 1 ? 'its' : 'their'} keys play, and other parts move
          on top.{' '}
          <button
            className="soft"
            onClick={() =>
              run(
                setMuted(
                  played.map((p) => p.id),
                  false,
                ),
              )
            }
          >
            Back to live
          </button>
        </p>
      )}
      {played.length === 0 && parts.some((p) => p.muted) && (
        <p className="notice" style={{ margin: 0 }}>
          {mutedSentence(parts)}
        </p>
      )}
      {held.length > 0 && (
        <BakeInto
          ids={held.map((p) => p.id)}
          title="Keys take its place, and the rest of the shot moves on top of them. One press brings it back."
          label="Bake into the clip"
        />
      )}
    </>
  );
}

/** Why parts that are muted do not move. */
function mutedSentence(parts: readonly Part[]): string {
  const clip = parts.find((p) => p.muted && p.bakedInto !== null)?.bakedInto;
  return clip == null
    ? 'Muted: it follows its source.'
    : `Muted because its motion was baked into “${clip}”. Unmute to simulate again.`;
}

function PartName({ part, run }: { part: Part; run: (t: Thunk) => void }) {
  const { typed, box } = useTyping((text) => {
    if (text.trim() && text !== part.name) run(renamePart(part.id, text));
    return true;
  });
  return (
    <input
      aria-label="Name of the part"
      style={{
        font: '600 16px "Fraunces Variable", serif',
        border: 0,
        background: 'none',
        width: '100%',
        color: 'var(--ink)',
        padding: 0,
      }}
      value={typed ?? part.name}
      {...box}
    />
  );
}
