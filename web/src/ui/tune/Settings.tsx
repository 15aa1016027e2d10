import { useEffect, useMemo, useState } from 'react';
import { rowLength } from '@oscillum/core/character';
import { SETTING_GROUPS, type SettingGroup } from '@oscillum/core/model';
import {
  CHAIN_SETTING_KEYS,
  CHAIN_SETTINGS,
  type ChainPart,
  type ChainSettingKey,
} from '@oscillum/core/chain';
import { partsInOrder } from '@oscillum/core/shot';
import { removeParts, renamePart, sentenceOf } from '../../state/edits';
import { selectShot, useAppDispatch, useAppSelector, type Thunk } from '../../state/store';
import { useDesk } from '../common/desk';
import { useTyping } from '../common/Fields';
import { Presets } from './Presets';
import { ResponseCard } from './ResponseCard';
import { PartExtras } from './PartExtras';
import { SettingRow } from './SettingRow';
import { Takes } from './Takes';
import { World } from './World';

/** Settings of the selected chains, in working order, and the shot's own time below. */
export function Settings() {
  const dispatch = useAppDispatch();
  const { character } = useDesk();
  const shot = useAppSelector(selectShot)!;
  const chosen = useAppSelector((s) => s.view.parts);
  const [trouble, setTrouble] = useState<string | null>(null);
  /** What the panel shows while chains are selected. */
  const [about, setAbout] = useState<'chains' | 'world' | 'takes'>('chains');
  const taken = useAppSelector((s) => (s.view.thing?.kind === 'collider' ? s.view.thing.id : null));
  // A collider taken on the stage is worked on in the world's panel.
  useEffect(() => {
    if (taken) setAbout('world');
  }, [taken]);
  const [open, setOpen] = useState<ChainSettingKey | null>(null);
  const [apart, setApart] = useState(true);
  const parts = partsInOrder(shot).filter((p) => chosen.includes(p.id));
  const { metresPerUnit } = shot.character;
  // As text: the parts are others with every value that is set, their joints hardly ever.
  const rows = JSON.stringify(parts.map((p) => p.joints.map((j) => j.node)));
  const longest = useMemo(
    () =>
      (JSON.parse(rows) as number[][]).reduce((most, row) => Math.max(most, rowLength(character, row)), 0) *
      metresPerUnit,
    [character, rows, metresPerUnit],
  );
  const run = (thunk: Thunk) => {
    try {
      dispatch(thunk);
      setTrouble(null);
    } catch (e) {
      setTrouble(sentenceOf(e));
    }
  };
  const ids = parts.map((p) => p.id);
  const others = partsInOrder(shot).filter((p) => !chosen.includes(p.id));
  return (
    <aside className="panel" aria-label="Settings">
      <div className="tabs" role="tablist">
        {(
          [
            ['chains', 'Chains'],
            ['world', 'World'],
            ['takes', 'Takes'],
          ] as const
        ).map(([value, name]) => (
          <button
            key={value}
            className="plain"
            role="tab"
            aria-selected={about === value}
            onClick={() => setAbout(value)}
          >
            {name}
          </button>
        ))}
      </div>
      {about === 'world' ? (
        <World run={run} />
      ) : about === 'takes' ? (
        <Takes run={run} />
      ) : parts.length === 0 ? (
        <>
          <h2>{Object.keys(shot.parts).length ? 'No chain selected' : 'Nothing moves yet'}</h2>
          <p className="muted" style={{ margin: 0 }}>
            {Object.keys(shot.parts).length
              ? 'Click a lane below to tune its chain. Shift-click to tune several together.'
              : 'Click the first joint of what should move, then press Make chain.'}
          </p>
        </>
      ) : (
        <>
          <div style={{ display: 'flex', alignItems: 'baseline', gap: 8 }}>
            {parts.length === 1 ? (
              <PartName key={ids[0]} part={parts[0]!} run={run} />
            ) : (
              <h2>{parts.length} chains</h2>
            )}
            <button
              className="plain muted"
              style={{ marginLeft: 'auto' }}
              title="Remove (Del)"
              onClick={() => run(removeParts(ids))}
            >
              Remove
            </button>
          </div>
          {parts.some((p) => p.muted) && (
            <p className="notice" style={{ margin: 0 }}>
              {mutedSentence(parts)}
            </p>
          )}
          <Presets parts={parts} run={run} />
          <ResponseCard parts={parts} run={run} />
          {parts.length > 1 && (
            <div className="presses" role="group" aria-label="Several chains at once">
              {(
                [
                  [true, 'keep differences', 'All chains move by as much; what sets them apart stays.'],
                  [false, 'make equal', 'All chains get the same value.'],
                ] as const
              ).map(([value, name, says]) => (
                <button
                  key={name}
                  className="mini"
                  aria-pressed={apart === value}
                  title={says}
                  onClick={() => setApart(value)}
                >
                  {name}
                </button>
              ))}
            </div>
          )}
          {SETTING_GROUPS.map((group) => (
            <Group key={group} name={group} used={inUse(group, parts)}>
              {CHAIN_SETTING_KEYS.filter((k) => CHAIN_SETTINGS[k].group === group).map((k) => (
                <SettingRow
                  key={k}
                  name={k}
                  parts={parts}
                  longest={longest}
                  apart={apart}
                  open={open === k}
                  onOpen={setOpen}
                  run={run}
                />
              ))}
            </Group>
          ))}
          <PartExtras parts={parts} others={others} run={run} />
        </>
      )}
      {trouble && (
        <p className="trouble" role="alert">
          {trouble}
        </p>
      )}
    </aside>
  );
}

/** Groups that every chain is tuned by or that always act on it: they stand open. */
/** Why parts that are muted do not move. */
function mutedSentence(parts: readonly ChainPart[]): string {
  const clip = parts.find((p) => p.muted && p.bakedInto !== null)?.bakedInto;
  return clip == null
    ? 'Muted: it follows its source.'
    : `Muted because its motion was baked into “${clip}”. Unmute to simulate again.`;
}

const ALWAYS: readonly SettingGroup[] = ['Follow', 'Swing', 'Weight and air'];

/** Whether a chain has anything in a group that a new chain does not have. */
const inUse = (group: SettingGroup, parts: readonly ChainPart[]): boolean =>
  ALWAYS.includes(group) ||
  CHAIN_SETTING_KEYS.some(
    (k) =>
      CHAIN_SETTINGS[k].group === group &&
      parts.some(
        (p) => p.settings[k] !== CHAIN_SETTINGS[k].initial || p.keys[k]?.length || p.profiles[k]?.length,
      ),
  );

/** A group of settings; one that is not in use stays folded until it is opened. */
function Group({ name, used, children }: { name: string; used: boolean; children: React.ReactNode }) {
  const [wanted, setWanted] = useState<boolean | null>(null);
  const open = wanted ?? used;
  return (
    <div>
      <h3>
        <button className="plain fold" aria-expanded={open} onClick={() => setWanted(!open)}>
          {name}
          {!open && <span className="muted small"> not in use</span>}
        </button>
      </h3>
      {open && children}
    </div>
  );
}

function PartName({ part, run }: { part: ChainPart; run: (t: Thunk) => void }) {
  const { typed, box } = useTyping((text) => {
    if (text.trim() && text !== part.name) run(renamePart(part.id, text));
    return true;
  });
  return (
    <input
      aria-label="Name of the chain"
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
