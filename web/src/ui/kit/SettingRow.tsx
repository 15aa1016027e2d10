import { Tooltip } from '@mantine/core';
import { IconRotate2 } from '@tabler/icons-react';
import { memo, useRef, type ReactNode } from 'react';
import {
  lengthUnit,
  shareAlong,
  sliderOf,
  valueAlong,
  type PartBase,
  type Profile,
  type SettingInfo,
} from '@oscillum/core/model';
import { setKeys, setProfile, setSetting, toggleKey } from '../../state/edits';
import { settingAt } from '../../state/settingAt';
import { useAppSelector, type State, type Thunk } from '../../state/store';
import { viewSlice } from '../../state/view';
import { amountText } from './amount';
import { NumberBox } from './Fields';
import { KeysCurve } from './KeysCurve';
import { ProfileEditor, profilePath, type JointPlace } from './ProfileEditor';

interface SettingRowProps {
  name: string;
  info: SettingInfo;
  /** What a new part of this size has. */
  initial: number;
  parts: readonly PartBase[];
  /** Length of the longest of them, m. */
  longest: number;
  /** Whether differences between parts are kept. */
  apart: boolean;
  /** Whether its profile and keys are unfolded below it. */
  open: boolean;
  onOpen: (name: string | null) => void;
  /** A drawing of what it does. */
  sketch?: ReactNode;
  /** Why it has no effect as things stand. */
  inert: string | null;
  /** The joints it is shared out over, for kinds that have them. */
  joints: readonly JointPlace[];
  run: (t: Thunk) => void;
}

/** Share from root to tip, for kinds that have one. */
const profileOf = (part: PartBase, name: string): Profile | undefined =>
  (part as { profiles?: Record<string, Profile | undefined> }).profiles?.[name];

/** While one slider moves the other rows stay as they are. */
const sameRow = (a: SettingRowProps, b: SettingRowProps): boolean =>
  a.apart === b.apart &&
  a.open === b.open &&
  a.longest === b.longest &&
  a.inert === b.inert &&
  a.joints === b.joints &&
  a.parts.length === b.parts.length &&
  a.parts.every((p, i) => {
    const q = b.parts[i]!;
    return (
      p.id === q.id &&
      p.settings[a.name] === q.settings[b.name] &&
      p.keys[a.name] === q.keys[b.name] &&
      profileOf(p, a.name) === profileOf(q, b.name)
    );
  });

/** What a row shows of its setting and does to it, in the unit of the row. */
function useSetting({ name, info, parts, longest, apart, run }: SettingRowProps) {
  // Lengths are shown in the unit that suits the part.
  const { unit, metres: per } =
    info.unit === 'm' ? lengthUnit(longest) : { unit: info.unit === 'ratio' ? '' : info.unit, metres: 1 };
  const inUnit = (v: number) => Number((v / per).toPrecision(12));
  const fromUnit = (v: number) => Number((v * per).toPrecision(12));
  const keyed = parts.some((p) => p.keys[name]?.length);
  // Only a keyed value depends on the frame; the others need not be drawn again while it plays.
  const frame = useAppSelector((s) => (keyed ? Math.round(s.view.frame) : 0));
  const values = parts.map((p) => settingAt(p, name, frame));
  const low = Math.min(...values);
  const high = Math.max(...values);
  const spread = high - low > 1e-9;
  const ids = parts.map((p) => p.id);
  /** Where a setting is set: on the frame of that moment. */
  const at = (state: State) => ({ ids, key: name, frame: Math.round(state.view.frame) });
  return {
    ...{ unit, inUnit, fromUnit, keyed, values, low, high, spread, ids },
    shown: (v: number) => amountText(inUnit(v), 3),
    mean: values.reduce((a, b) => a + b, 0) / values.length,
    onKey: parts.every((p) => p.keys[name]?.some((k) => k.frame === frame)),
    set: (v: number, final: boolean) =>
      run((dispatch, getState) => void dispatch(setSetting(at(getState()), v, final, apart && spread))),
    /** Gives all parts one value. */
    reset: (v: number) => run((dispatch, getState) => void dispatch(setSetting(at(getState()), v, true))),
    toggleKey: () => run((dispatch, getState) => void dispatch(toggleKey(at(getState())))),
  };
}

type Setting = ReturnType<typeof useSetting>;

/** Places along a slider: half of them are for the values used most. */
const TRACK = 1000;

/** The slider: it moves all parts, a tenth as far with Alt held. */
function Slide({
  id,
  info,
  longest,
  initial,
  setting,
}: Pick<SettingRowProps, 'info' | 'longest' | 'initial'> & { id: string; setting: Setting }) {
  const { mean, low, high, spread, unit, shown, set } = setting;
  const slider = sliderOf(info, longest);
  const share = (v: number) => 100 * shareAlong(slider, v);
  // A slider rounds to its step, so only what a hand has moved is taken from it.
  const moved = useRef<number | null>(null);
  const fine = useRef<{ x: number; value: number } | null>(null);
  const letGo = () => {
    if (moved.current !== null) set(moved.current, true);
    moved.current = fine.current = null;
  };
  const slide = (e: React.ChangeEvent<HTMLInputElement>) => {
    if (fine.current) return;
    moved.current = valueAlong(slider, Number(e.target.value) / TRACK);
    set(moved.current, false);
  };
  /** An arrow key goes by one step, wherever the slider stands. */
  const stepBy = (e: React.KeyboardEvent<HTMLInputElement>) => {
    if (/Arrow|Home|End/.test(e.key)) e.stopPropagation();
    const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[e.key];
    if (by === undefined) return;
    e.preventDefault();
    const next = (moved.current ?? mean) + by * slider.step;
    moved.current = Number(Math.min(slider.max, Math.max(slider.min, next)).toPrecision(6));
    set(moved.current, false);
  };
  const slideFinely = (e: React.PointerEvent<HTMLInputElement>) => {
    if (!(e.buttons & 1)) return;
    if (!e.altKey) return void (fine.current = null);
    fine.current ??= { x: e.clientX, value: moved.current ?? mean };
    const by = (e.clientX - fine.current.x) / e.currentTarget.clientWidth / 10;
    const to = shareAlong(slider, fine.current.value) + by;
    const finer = { ...slider, step: slider.step / 10 };
    moved.current = valueAlong(finer, Math.min(1, Math.max(0, to)));
    set(moved.current, false);
  };
  const style = {
    '--at': `${share(mean)}%`,
    '--low': `${share(low)}%`,
    '--high': `${share(high)}%`,
    '--tick': share(initial) / 100,
  };
  return (
    <input
      id={id}
      className="slide"
      type="range"
      data-spread={spread}
      title="Alt moves it finely"
      min={0}
      max={TRACK}
      value={Math.round(TRACK * shareAlong(slider, mean))}
      style={style as React.CSSProperties}
      aria-valuetext={`${shown(mean)} ${unit || info.unit}`}
      onChange={slide}
      onPointerMove={slideFinely}
      onPointerUp={letGo}
      onKeyUp={letGo}
      onBlur={letGo}
      onKeyDown={stepBy}
    />
  );
}

/** The marks at the end of a row: a key on this frame, what is below, back to what a new part has. */
function RowMarks({ row, setting, profile }: { row: SettingRowProps; setting: Setting; profile: Profile }) {
  const { name, info, initial, open, onOpen } = row;
  const { onKey, keyed, unit, shown, values } = setting;
  return (
    <>
      <button
        className="plain keymark"
        aria-pressed={onKey}
        data-keyed={keyed}
        aria-label={`Key ${info.label}`}
        title={onKey ? 'Remove the key on this frame' : 'Key it on this frame'}
        onClick={setting.toggleKey}
      >
        <i />
      </button>
      <button
        className="plain bow"
        data-set={profile.length > 0}
        aria-expanded={open}
        aria-label={`More of ${info.label}`}
        title={info.profile ? 'Profile from root to tip, and keys' : 'Keys'}
        onClick={() => onOpen(open ? null : name)}
      >
        <svg viewBox="0 0 20 14">
          <path d={profilePath(profile, 20, 14, 1.5)} />
        </svg>
      </button>
      <button
        className="plain back"
        style={{ visibility: values.some((v) => v !== initial) ? 'visible' : 'hidden' }}
        title={`Back to ${shown(initial)} ${unit}, as a new one has it`}
        aria-label={`Reset ${info.label}`}
        onClick={() => setting.reset(initial)}
      >
        <IconRotate2 size={13} />
      </button>
    </>
  );
}

/** What unfolds below a row: what it does, its profile, its keys. */
function RowMore({ row, setting, profile }: { row: SettingRowProps; setting: Setting; profile: Profile }) {
  const { name, info, parts, sketch, joints, run } = row;
  const { ids, inUnit, fromUnit, unit } = setting;
  return (
    <div className="more">
      <p className="muted small">{info.says}</p>
      <button
        className="mini"
        disabled={setting.mean === 0}
        title={
          setting.mean === 0
            ? 'It is 0: there is nothing to halve'
            : 'What it does, side by side on the stage'
        }
        onClick={() =>
          run((dispatch) => void dispatch(viewSlice.actions.stripSet({ of: 'setting', key: name, ids })))
        }
      >
        half, now and double
      </button>
      {sketch}
      {info.profile && (
        <ProfileEditor
          label={info.label}
          profile={profile}
          joints={joints}
          value={inUnit(setting.mean)}
          unit={unit}
          onChange={(p, final) => run(setProfile(ids, name, p, final))}
        />
      )}
      <KeysCurve
        label={`${info.label} over time`}
        unit={unit}
        keys={(parts[0]!.keys[name] ?? []).map((k) => ({ ...k, value: inUnit(k.value) }))}
        still={inUnit(parts[0]!.settings[name]!)}
        limits={[inUnit(info.min), inUnit(info.max)]}
        onSet={(keys, final) => {
          const own = keys.map((k) => ({ ...k, value: fromUnit(k.value) }));
          run(setKeys(ids, name, own, final));
        }}
      />
    </div>
  );
}

/** One setting of the selected parts: drag it, type it, reset it, key it, share it out from root to tip. */
export const SettingRow = memo(function SettingRow(row: SettingRowProps) {
  const { name, info, parts, longest, open, sketch, inert } = row;
  const setting = useSetting(row);
  const { unit, shown, spread, low, high, mean, inUnit, fromUnit, set } = setting;
  const profile = profileOf(parts[0]!, name) ?? [];
  const id = `setting-${name}`;
  return (
    <>
      <div className="row" data-open={open} data-inert={inert !== null}>
        <Tooltip
          label={
            <span className="said">
              {info.says}
              {inert && ` No effect now: ${inert}`}
              {spread && ` Now ${shown(low)} to ${shown(high)} ${unit}.`}
              {sketch}
              {sketch && <i>a little dashed, much drawn out</i>}
            </span>
          }
          events={{ hover: true, focus: true, touch: false }}
          multiline
          w={260}
          position="left"
          openDelay={350}
        >
          <label htmlFor={id}>{info.label}</label>
        </Tooltip>
        <Slide id={id} info={info} longest={longest} initial={row.initial} setting={setting} />
        <span className="amount">
          <NumberBox
            className="value"
            label={`${info.label} value`}
            value={spread ? null : inUnit(mean)}
            unit={unit || info.unit}
            onSet={(v) => set(fromUnit(v), true)}
          />
          {unit && <span className="unit">{unit}</span>}
        </span>
        <RowMarks row={row} setting={setting} profile={profile} />
      </div>
      {inert && <p className="inert muted small">No effect now. {inert}</p>}
      {open && <RowMore row={row} setting={setting} profile={profile} />}
    </>
  );
}, sameRow);
