import { memo, useRef, useState, type ReactNode } from 'react';
import { useStore } from 'react-redux';
import type { AskedFeel, Feel } from '@oscillum/core/measure';
import type { Part } from '@oscillum/core/shot';
import { fitTogether } from '../../state/edits';
import { selectShot, useAppSelector, type State, type Thunk } from '../../state/store';
import { useDesk, usePicture } from './desk';
import { amountText } from './amount';
import { NumberBox } from './Fields';
import {
  commonReadout,
  HEIGHT,
  MARGIN,
  responseChart,
  roughly,
  WIDTH,
  type Readout,
  type ResponseChart,
} from './responseChart';
import { sayTrouble } from './say';

const READOUTS = [
  ['lag', 'Lag', 'frames', 'Frames the tip trails the source after a quick turn.'],
  ['overshoot', 'Overshoot', '%', 'How far past the pose the first swing goes.'],
  ['settle', 'Settle', 'frames', 'Frames after the stop until it stays within 5 % of the turn.'],
] as const;
interface CardProps<P extends Part = Part> {
  parts: readonly P[];
  /** Settings that answer a dragged handle at once: stiffer by a factor, damped by another. */
  roughly: (part: P, frame: number, faster: number, damped: number) => Record<string, number>;
  /** What the curve shows, and what is said where the shot gives nothing to measure. */
  what: string;
  still: string;
  run: (t: Thunk) => void;
}

const sameCard = (a: CardProps, b: CardProps): boolean =>
  a.parts.length === b.parts.length && a.parts.every((p, i) => p.id === b.parts[i]!.id);

/** What was so when a handle was taken hold of: a rough answer on the way changes the other numbers too. */
interface Grabbed {
  readonly feel: Feel;
  readonly parts: readonly Part[];
  readonly lag: number | null;
  readonly overshoot: number | null;
}

/** Asks for readouts of parts: roughly while a handle is held, exactly when it is let go or a number is typed. */
function useAsking<P extends Part>({ parts, roughly: settings, run }: CardProps<P>, feels: readonly Feel[]) {
  const { simulation } = useDesk();
  const store = useStore<State>();
  const shotNow = () => selectShot(store.getState())!;
  const [why, setWhy] = useState('');
  const [fitting, setFitting] = useState(false);
  /** What a hand is asking for, while it is on a handle. */
  const [asked, setAsked] = useState<{ key: Readout; value: number } | null>(null);
  const grabbed = useRef<Grabbed | null>(null);
  const common = (key: Readout) => commonReadout(feels, key);

  const ask = async (key: Readout, wanted: number) => {
    // What is not being changed stays as it is: lag with overshoot, overshoot with lag.
    const other = key === 'overshoot' ? 'lag' : 'overshoot';
    const kept = grabbed.current ? grabbed.current[other] : common(other);
    grabbed.current = null;
    const wish: AskedFeel = { [key]: wanted, ...(kept !== null && { [other]: kept }) };
    setFitting(true);
    const shot = shotNow();
    try {
      const fits = await simulation.fitFeel(
        shot,
        parts.map((p) => p.id),
        wish,
      );
      setWhy(Object.values(fits).find((f) => f.why)?.why ?? '');
      const found = Object.fromEntries(Object.entries(fits).map(([id, f]) => [id, f.settings]));
      run(fitTogether(`Fit ${key}`, found, shot.range.first, true));
    } catch (e) {
      sayTrouble(e instanceof Error ? e.message : String(e));
    } finally {
      setFitting(false);
      setAsked(null);
    }
  };
  /** Takes hold of a handle. The card is not drawn again while only settings change, so the parts are read anew. */
  const grab = () => {
    const now = parts.flatMap((p) => shotNow().parts[p.id] ?? []);
    grabbed.current = { feel: feels[0]!, parts: now, lag: common('lag'), overshoot: common('overshoot') };
  };
  const pull = (key: Readout, value: number) => {
    if (!grabbed.current) return;
    setAsked({ key, value });
    const { feel, parts: were } = grabbed.current;
    const { faster, damped } = roughly(key, value, feel);
    const at = shotNow().range.first;
    const fits = Object.fromEntries(were.map((p) => [p.id, settings(p as P, at, faster, damped)]));
    run(fitTogether('', fits, at, false));
  };
  const letGo = () => {
    if (asked) void ask(asked.key, asked.value);
    else grabbed.current = null;
  };
  const shown = (key: Readout) => (asked?.key === key ? asked.value : common(key));
  return { ask, grab, pull, letGo, shown, why, fitting };
}

type Asking = ReturnType<typeof useAsking>;

/** The handle of one readout on the drawn answer. */
function Handle({
  readout,
  chart,
  asking,
}: {
  readout: (typeof READOUTS)[number];
  chart: ResponseChart;
  asking: Asking;
}) {
  const [key, label, unit] = readout;
  const [cx, cy] = chart.places![key];
  const value = asking.shown(key) ?? 0;
  return (
    <circle
      cx={cx}
      cy={cy}
      r={5.5}
      tabIndex={0}
      role="slider"
      aria-label={`${label} handle`}
      aria-valuenow={value}
      aria-valuetext={`${value.toFixed(1)} ${unit}`}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        asking.grab();
      }}
      onPointerMove={(e) => {
        if (!(e.buttons & 1)) return;
        const r = e.currentTarget.closest('svg')!.getBoundingClientRect();
        const x = ((e.clientX - r.left) / r.width) * WIDTH;
        const y = ((e.clientY - r.top) / r.height) * HEIGHT;
        asking.pull(key, chart.reading(key, x, y));
      }}
      onPointerUp={asking.letGo}
      onKeyDown={(e) => {
        const step = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[e.key];
        const now = asking.shown(key);
        if (step === undefined || now === null) return;
        e.preventDefault();
        e.stopPropagation();
        void asking.ask(key, Math.max(0, now + step * (key === 'overshoot' ? 2 : 0.5)));
      }}
    >
      <title>{`${label}: drag ${key === 'overshoot' ? 'up or down' : 'left or right'}`}</title>
    </circle>
  );
}

/**
 * How the selected parts answer one quick turn, with a handle for lag, overshoot and settle. A handle that
 * is dragged moves the settings roughly at once, and exactly when it is let go; typing a number does the same.
 */
export const ResponseCard = memo(function ResponseCard(props: CardProps) {
  const { parts, what, still } = props;
  const fps = useAppSelector((s) => selectShot(s)!.fps);
  const advice = usePicture((p) => p.advice);
  const feels = parts.flatMap((p) => advice?.feels[p.id] ?? []);
  const own = parts.flatMap((p) => advice?.shots[p.id] ?? [])[0];
  const asking = useAsking(props, feels);
  const chart = responseChart(feels, fps);
  const known = feels.length > 0;
  return (
    <div className="card-response" role="group" aria-label="Feel" aria-busy={asking.fitting}>
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`}>
        <path className="turn" d={chart.turn} />
        {feels.slice(1).map((f, i) => (
          <path key={i} className="other" d={chart.path(f)} />
        ))}
        {known && <path className="answer" d={chart.path(feels[0]!)} />}
        <text x={WIDTH - MARGIN} y={HEIGHT - 3} textAnchor="end">
          {what}, {Math.round(chart.span)} frames
        </text>
        {known && READOUTS.map((r) => <Handle key={r[0]} readout={r} chart={chart} asking={asking} />)}
      </svg>
      <div className="feel">
        {READOUTS.map(([key, label, unit, says]) => (
          <label key={key} title={says}>
            <NumberBox
              label={label}
              value={asking.shown(key)}
              digits={1}
              unit={unit}
              placeholder={known ? 'mixed' : '…'}
              disabled={!known}
              onSet={(v) => void asking.ask(key, Math.max(0, v))}
            />
            <span>
              {label}, {unit}
            </span>
          </label>
        ))}
      </div>
      <p className="muted small" title="Measured on the shot itself, beside the standard quick turn above">
        {!own
          ? 'On this shot: …'
          : Number.isFinite(own.lag)
            ? `On this shot: lag ${own.lag.toFixed(1)} frames, overshoot ${amountText(own.overshoot, 0)} %`
            : still}
      </p>
      {asking.why && <p className="notice small">Nearest found: {asking.why}.</p>}
    </div>
  );
}, sameCard) as <P extends Part>(props: CardProps<P>) => ReactNode;
