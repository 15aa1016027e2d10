import { Tooltip } from '@mantine/core';
import { IconRotate2 } from '@tabler/icons-react';
import { memo, useRef, useState } from 'react';
import {
  CHAIN_SETTING_KEYS,
  CHAIN_SETTINGS,
  partsInOrder,
  SETTING_GROUPS,
  type ChainPart,
  type ChainSettingKey,
  type SettingInfo,
} from '@oscillum/core/model';
import { removeParts, renamePart, sentenceOf, setSetting } from '../../state/edits';
import { selectShot, useAppDispatch, useAppSelector, type Thunk } from '../../state/store';
import { NumberBox, useTyping } from '../common/Fields';
import { FeelCard } from './FeelCard';
import { PartExtras } from './PartExtras';
import { World } from './World';

/** Settings of the selected chains, in working order, and the shot's own time below. */
export function Settings() {
  const dispatch = useAppDispatch();
  const shot = useAppSelector(selectShot)!;
  const chosen = useAppSelector((s) => s.view.parts);
  const [trouble, setTrouble] = useState<string | null>(null);
  const parts = partsInOrder(shot).filter((p) => chosen.includes(p.id));
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
      {parts.length === 0 ? (
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
              {parts.find((p) => p.mutedBecause)?.mutedBecause || 'Muted: it follows its source.'}
            </p>
          )}
          <FeelCard parts={parts} run={run} />
          {SETTING_GROUPS.map((group) => (
            <div key={group}>
              <h3>{group}</h3>
              {CHAIN_SETTING_KEYS.filter((k) => CHAIN_SETTINGS[k].group === group).map((k) => (
                <SettingRow key={k} name={k} parts={parts} run={run} />
              ))}
            </div>
          ))}
          <PartExtras parts={parts} others={others} run={run} />
        </>
      )}
      {trouble && (
        <p className="trouble" role="alert">
          {trouble}
        </p>
      )}
      {parts.length === 0 && <World run={run} />}
    </aside>
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

interface SettingRowProps {
  name: ChainSettingKey;
  parts: ChainPart[];
  run: (t: Thunk) => void;
}

/** While one slider moves the other rows stay as they are. */
const sameRow = (a: SettingRowProps, b: SettingRowProps): boolean =>
  a.parts.length === b.parts.length &&
  a.parts.every(
    (p, i) =>
      p.id === b.parts[i]!.id &&
      p.settings[a.name] === b.parts[i]!.settings[b.name] &&
      p.keys[a.name] === b.parts[i]!.keys[b.name],
  );

const SettingRow = memo(function SettingRow({ name, parts, run }: SettingRowProps) {
  const info: SettingInfo = CHAIN_SETTINGS[name];
  const values = parts.map((p) => p.settings[name]);
  const low = Math.min(...values);
  const high = Math.max(...values);
  const mean = values.reduce((a, b) => a + b, 0) / values.length;
  const spread = high - low > 1e-9;
  const ids = parts.map((p) => p.id);
  // Keys stand in place of the value: moving it would do nothing.
  const keyed = parts.every((p) => p.keys[name]?.length);
  const share = (v: number) =>
    Math.min(100, Math.max(0, ((v - info.sliderMin) / (info.sliderMax - info.sliderMin)) * 100));
  const set = (v: number, final: boolean) => run(setSetting(ids, name, v, final));
  // A slider rounds to its step, so only what a hand has moved is taken from it.
  const moved = useRef(false);
  const letGo = (e: React.SyntheticEvent<HTMLInputElement>) => {
    if (moved.current) set(Number(e.currentTarget.value), true);
    moved.current = false;
  };
  const id = `setting-${name}`;
  const unit = info.unit === 'ratio' ? '' : info.unit;
  return (
    <div className="row">
      <Tooltip
        label={
          keyed
            ? `${info.says} It has keys: change them under Along it and in time.`
            : spread
              ? `${info.says} Now ${round(low)} to ${round(high)} ${unit}.`
              : info.says
        }
        multiline
        w={260}
        position="left"
        openDelay={350}
      >
        <label htmlFor={id}>{info.label}</label>
      </Tooltip>
      <input
        id={id}
        className="slide"
        type="range"
        disabled={keyed}
        data-spread={spread}
        min={info.sliderMin}
        max={info.sliderMax}
        step={info.step}
        value={mean}
        style={{ '--at': `${share(mean)}%` } as React.CSSProperties}
        aria-valuetext={`${round(mean)} ${info.unit}`}
        onChange={(e) => ((moved.current = true), set(Number(e.target.value), false))}
        onPointerUp={letGo}
        onKeyUp={letGo}
        onBlur={letGo}
        onKeyDown={(e) => /Arrow|Home|End/.test(e.key) && e.stopPropagation()}
      />
      <NumberBox
        className="value"
        label={`${info.label} value`}
        value={spread || keyed ? null : mean}
        placeholder={keyed ? 'keyed' : 'mixed'}
        disabled={keyed}
        unit={info.unit}
        onSet={(v) => set(v, true)}
      />
      <span className="unit">{unit}</span>
      <button
        className="plain"
        style={{ padding: 0, visibility: values.some((v) => v !== info.initial) ? 'visible' : 'hidden' }}
        title={`Back to ${info.initial} ${unit}`}
        aria-label={`Reset ${info.label}`}
        onClick={() => set(info.initial, true)}
      >
        <IconRotate2 size={14} />
      </button>
    </div>
  );
}, sameRow);

const round = (v: number) => Number(v.toFixed(2));
