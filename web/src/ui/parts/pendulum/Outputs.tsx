import { useEffect, useState } from 'react';
import type { Output, PendulumPart } from '@oscillum/core/pendulum';
import {
  addOutput,
  addSetting,
  changeOutput,
  fitLag,
  fitPeak,
  removeOutput,
  type Fit,
} from '../../../state/parts/pendulum/edits';
import { extremeOf } from '../../../state/parts/pendulum/extreme';
import {
  lagBehind,
  nameOf,
  peakAt,
  perUnit,
  readingsOf,
  unitOf,
  type Readings,
} from '../../../state/parts/pendulum/readouts';
import { answered } from '../../../sim/picture';
import { selectShot, useAppSelector, type Thunk } from '../../../state/store';
import { useDesk, usePicture } from '../../kit/desk';
import { NumberBox } from '../../kit/Fields';
import { JointRow } from '../../kit/JointRow';
import { ChoiceRow, NumberRow, Row } from '../../kit/Rows';
import { AnswerCurve } from './AnswerCurve';
import { AXES, morphChoices, readMorph, readSetting, settingChoices, writeMorph } from './choices';

/** What a pendulum drives: each with its curve, on which its peak and its lag can be dragged. */
export function Outputs({ part, run }: { part: PendulumPart; run: (t: Thunk) => void }) {
  const { character } = useDesk();
  const { fps, parts } = useAppSelector((s) => selectShot(s)!);
  const readings = useReadings(part.id);
  const settings = settingChoices(parts);
  const [open, setOpen] = useState<string | null>(null);
  return (
    <>
      <h3>Drives</h3>
      {part.outputs.length === 0 && <p className="muted small">Nothing yet: add a joint below.</p>}
      {part.outputs.map((o) => (
        <OutputCard
          key={o.id}
          part={part}
          output={o}
          readings={readings}
          open={open === o.id}
          onOpen={() => setOpen(open === o.id ? null : o.id)}
          run={run}
        />
      ))}
      <JointRow
        label="Add a joint"
        value={null}
        onSet={(joint) => joint && run(addOutput(part.id, character.nodes, joint, fps))}
      />
      {settings.length > 0 && (
        <ChoiceRow
          label="Add a setting"
          says="A setting of a soft part or a cloth that it drives too, as a breath fills a belly"
          value=""
          choices={[['', 'choose one'], ...settings]}
          onSet={(v) => v && run(addSetting(part.id, parts, readSetting(v)))}
        />
      )}
    </>
  );
}

/** What the part did over the whole range; until an edit has its answer, what it did before. */
function useReadings(partId: string): Readings | null {
  const frames = usePicture(answered);
  const version = usePicture((p) => p.version);
  const [readings, setReadings] = useState<Readings | null>(null);
  // The arrays of a run are written over by later ones: what is read is read again for each.
  useEffect(() => {
    if (frames) setReadings(readingsOf(frames, partId));
  }, [frames, version, partId]);
  return readings;
}

/** Asks for something once the last edit has its answer: what is fitted is fitted to that. The last asked counts. */
function useAsk(readings: Readings | null, ask: (what: 'peak' | 'lag', wanted: number) => void) {
  const { simulation } = useDesk();
  const [later, setLater] = useState<{ what: 'peak' | 'lag'; wanted: number } | null>(null);
  useEffect(() => {
    if (!later || simulation.waits) return;
    setLater(null);
    ask(later.what, later.wanted);
    // Asked when there are other readings, not when the function is another.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [later, readings]);
  return (what: 'peak' | 'lag') => (wanted: number) => setLater({ what, wanted });
}

interface CardProps {
  part: PendulumPart;
  output: Output;
  readings: Readings | null;
  open: boolean;
  onOpen: () => void;
  run: (t: Thunk) => void;
}

/** One output: its curve with two handles, its numbers, and the rest when it is opened. */
function OutputCard({ part, output: o, readings, open, onOpen, run }: CardProps) {
  const { fps, parts } = useAppSelector((s) => selectShot(s)!);
  const [missed, setMissed] = useState('');
  const row = readings?.outputs.get(o.id);
  const at = row ? peakAt(row) : 0;
  const peak = row?.[at] ?? NaN;
  const lag = row && readings ? lagBehind(readings.input, row, o.gain < 0, 3 * fps) : NaN;
  const unit = unitOf(o, parts);
  const name = nameOf(o, parts);
  const per = perUnit(o);
  const put = (what: string, { set, missed: why }: Fit) => {
    setMissed(why);
    if (Object.keys(set).length > 0) run(changeOutput(part.id, o.id, what, set));
  };
  const ask = useAsk(readings, (what, wanted) => {
    if (!readings || !row) return;
    if (what === 'peak') put('Fit the peak', peakFit(part, o, readings, at, wanted));
    else if (Number.isFinite(lag)) put('Fit the lag', fitLag(o, lag, wanted));
  });
  const [askPeak, askLag] = [ask('peak'), ask('lag')];
  return (
    <div className="card-response" role="group" aria-label={name}>
      <button className="plain fold" aria-expanded={open} onClick={onOpen}>
        {open ? '▾' : '▸'} <b>{name}</b>
      </button>
      <AnswerCurve
        input={readings?.input ?? null}
        row={row ?? null}
        low={o.low}
        high={o.high}
        lag={lag}
        onPeak={askPeak}
        said={Number.isFinite(peak) ? `${(peak * per).toPrecision(3)} ${unit}` : ''}
        onLag={askLag}
        onLimit={(side, limit, final) =>
          run(
            changeOutput(
              part.id,
              o.id,
              limit === null ? 'Remove a limit' : 'Draw a limit',
              { [side]: limit },
              final,
            ),
          )
        }
      />
      <div className="feel">
        <label title="Farthest it is driven. Drag the ring up or down, or type.">
          <NumberBox
            label={`Peak of ${name}`}
            value={Number.isFinite(peak) ? Number((peak * per).toPrecision(3)) : null}
            placeholder="…"
            unit={unit}
            onSet={(v) => askPeak(v / per)}
          />
          <span>Peak{unit && `, ${unit}`}</span>
        </label>
        <label title="Frames by which it follows the input. Drag the ring left or right, or type.">
          <NumberBox
            label={`Lag of ${name}`}
            value={Number.isFinite(lag) ? Number(lag.toFixed(1)) : null}
            placeholder="…"
            unit="frames"
            onSet={askLag}
          />
          <span>Lag, frames</span>
        </label>
        <label title="How much of the way to its limit is still free at the peak">
          <span className="headroom">{headroom(o, peak)}</span>
          <span>Headroom</span>
        </label>
      </div>
      {missed && <p className="notice small">{missed}</p>}
      {open && <OutputRows part={part} output={o} run={run} />}
    </div>
  );
}

/** What gives an output a peak, which it has on frame `at` of the readings. */
function peakFit(part: PendulumPart, o: Output, readings: Readings, at: number, wanted: number): Fit {
  const late = Math.round(at - o.delay - part.settings.delay);
  const answers = readings.answers[o.pendulum - 1]!;
  const answer = answers[Math.min(answers.length - 1, Math.max(0, late))]!;
  return fitPeak(o, answer, part.settings.amount / 100, wanted);
}

/** What is left to the limit on the side of the peak. */
function headroom(o: Output, peak: number): string {
  const limit = peak >= 0 ? o.high : o.low;
  if (limit === null || !Number.isFinite(peak)) return 'free';
  return limit === 0 ? '0 %' : `${Math.max(0, 100 * (1 - peak / limit)).toFixed(0)} %`;
}

/** Everything else that an output has. */
function OutputRows({ part, output: o, run }: Pick<CardProps, 'part' | 'output' | 'run'>) {
  const unit = unitOf(
    o,
    useAppSelector((s) => selectShot(s)!.parts),
  );
  const per = perUnit(o);
  const shown = (v: number) => Number((v * per).toPrecision(6));
  const set: SetOutput = (name, values) => run(changeOutput(part.id, o.id, name, values));
  const { target } = o;
  return (
    <div className="more">
      {o.target.does !== 'setting' && <TargetRows output={o} set={set} />}
      <ChoiceRow
        label="Takes"
        value={String(o.pendulum) as '1' | '2'}
        choices={[
          ['1', 'the first'],
          ['2', 'the second'],
        ]}
        onSet={(v) => set('Choose its pendulum', { pendulum: v === '1' ? 1 : 2 })}
      />
      {(target.does === 'turn' || target.does === 'scale') && (
        <ChoiceRow
          label="Order"
          value={o.order}
          says="Where a joint above it is driven as well: on top adds to that, instead takes it out first."
          choices={[
            ['on top', 'on top'],
            ['instead', 'instead'],
          ]}
          onSet={(order) => set('Set its order', { order })}
        />
      )}
      <NumberRow
        label="Gain"
        unit={unit}
        says="How far it goes for each unit of what is followed"
        value={shown(o.gain)}
        onSet={(v) => set('Set its gain', { gain: v / per })}
      />
      <NumberRow
        label="Offset"
        unit={unit}
        value={shown(o.offset)}
        onSet={(v) => set('Set its offset', { offset: v / per })}
      />
      <NumberRow
        label="Waits"
        unit="frames"
        value={o.delay}
        onSet={(delay) => set('Set its delay', { delay })}
      />
      <LimitRows output={o} set={set} />
      <button className="plain muted" onClick={() => run(removeOutput(part.id, o.id))}>
        Remove this output
      </button>
    </div>
  );
}

type SetOutput = (name: string, values: Partial<Output>) => void;

/** What an output does, to what. */
function TargetRows({ output: o, set }: { output: Output; set: SetOutput }) {
  const { character } = useDesk();
  const { target } = o;
  const morphs = morphChoices(character);
  const joint = 'joint' in target ? target.joint : null;
  const does = (to: Output['target']['does']) => {
    if (to === target.does) return;
    if (to === 'morph') {
      if (morphs[0])
        set('Set what it drives', { target: { does: to, morph: readMorph(morphs[0][0], character) } });
      return;
    }
    const node = joint?.node ?? character.joints[0]!;
    const ref = { node, name: character.nodes[node]!.name };
    const gain = to === 'turn' ? 5 : to === 'place' ? 0.01 : 0.05;
    const axis = to === 'scale' ? ('all' as const) : ('x' as const);
    const next = { does: to, joint: ref, axis } as Output['target'];
    set('Set what it drives', { target: next, gain, offset: 0, low: null, high: null });
  };
  return (
    <>
      <ChoiceRow
        label="Does"
        value={target.does}
        choices={[
          ['turn', 'turn'],
          ['place', 'move'],
          ['scale', 'scale'],
          ...(morphs.length > 0 ? [['morph', 'shape of a mesh'] as const] : []),
        ]}
        onSet={does}
      />
      {target.does === 'morph' ? (
        <ChoiceRow
          label="Shape"
          value={writeMorph(target.morph)}
          choices={morphs}
          onSet={(v) =>
            set('Set what it drives', { target: { does: 'morph', morph: readMorph(v, character) } })
          }
        />
      ) : target.does === 'setting' ? null : (
        <ChoiceRow
          label="Axis"
          value={target.axis}
          choices={target.does === 'scale' ? [...AXES, ['all', 'all three']] : AXES}
          onSet={(axis) => set('Set its axis', { target: { ...target, axis } as Output['target'] })}
        />
      )}
    </>
  );
}

/** The limits it slows down before, typed or as the clip's pose has them. */
function LimitRows({ output: o, set }: { output: Output; set: SetOutput }) {
  const { character } = useDesk();
  const shot = useAppSelector((s) => selectShot(s)!);
  const frame = useAppSelector((s) => Math.round(s.view.frame));
  const unit = unitOf(o, shot.parts);
  const per = perUnit(o);
  const shown = (v: number) => Number((v * per).toPrecision(6));
  const extreme = (side: 'low' | 'high') => {
    const value = Number(extremeOf(character, shot, o, frame).toPrecision(4));
    set(`Take its ${side === 'low' ? 'lower' : 'upper'} extreme`, { [side]: value });
  };
  return (
    <>
      {(['low', 'high'] as const).map((side) => (
        <Row
          key={side}
          label={`${side === 'low' ? 'Lower' : 'Upper'} limit${unit && `, ${unit}`}`}
          says="It slows down before this, and never passes it."
        >
          <span className="pair">
            <NumberBox
              label={`${side === 'low' ? 'Lower' : 'Upper'} limit`}
              value={o[side] === null ? null : shown(o[side])}
              placeholder="none"
              unit={unit}
              onSet={(v) => set('Set a limit', { [side]: v / per })}
            />
            <button
              className="mini"
              title="As the clip's pose has it on this frame"
              onClick={() => extreme(side)}
            >
              pose
            </button>
            {o[side] !== null && (
              <button className="mini" onClick={() => set('Remove a limit', { [side]: null })}>
                none
              </button>
            )}
          </span>
        </Row>
      ))}
    </>
  );
}
