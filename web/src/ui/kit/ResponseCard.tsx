import { memo, useRef, useState, type ReactNode } from 'react';
import { useStore } from 'react-redux';
import type { AskedFeel, Feel } from '@oscillum/core/measure';
import type { Part } from '@oscillum/core/shot';
import { fitTogether } from '../../state/edits';
import { selectShot, useAppSelector, type State, type Thunk } from '../../state/store';
import { useDesk, usePicture } from './desk';
import { NumberBox } from './Fields';
import { sayTrouble } from './say';

const READOUTS = [
  ['lag', 'Lag', 'frames', 'Frames the tip trails the source after a quick turn.'],
  ['overshoot', 'Overshoot', '%', 'How far past the pose the first swing goes.'],
  ['settle', 'Settle', 'frames', 'Frames after the stop until it stays within 5 % of the turn.'],
] as const;
type Readout = (typeof READOUTS)[number][0];

const W = 268;
const H = 92;
const PAD = 9;
/** Time the standard turn takes, s: see core/measure. */
const TURN_TIME = 1 / 6;

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

/**
 * How the selected parts answer one quick turn, with a handle for lag, overshoot and settle. A handle that
 * is dragged moves the settings roughly at once, and exactly when it is let go; typing a number does the same.
 */
export const ResponseCard = memo(function ResponseCard({ parts, roughly, what, still, run }: CardProps) {
  const { simulation } = useDesk();
  const store = useStore<State>();
  const shotNow = () => selectShot(store.getState())!;
  /** The parts as they are now: the card is not drawn again while only their settings change. */
  const partsNow = () => parts.flatMap((p) => shotNow().parts[p.id] ?? []);
  const fps = useAppSelector((s) => selectShot(s)!.fps);
  const advice = usePicture((p) => p.advice);
  const [why, setWhy] = useState('');
  const [fitting, setFitting] = useState(false);
  /** What a hand is asking for, while it is on a handle. */
  const [asked, setAsked] = useState<{ key: Readout; value: number } | null>(null);
  /** What was so when a handle was taken hold of: a rough answer on the way changes the other numbers too. */
  const grabbed = useRef<{
    feel: Feel;
    parts: readonly Part[];
    lag: number | null;
    overshoot: number | null;
  } | null>(null);
  const feels = parts.flatMap((p) => advice?.feels[p.id] ?? []);
  const own = parts.flatMap((p) => advice?.shots[p.id] ?? []);
  const known = feels.length > 0;
  const mean = (key: Readout): number | null => {
    const all = feels.map((f) => f[key]).filter(Number.isFinite);
    const m = all.reduce((a, b) => a + b, 0) / all.length;
    return all.length > 0 && all.every((v) => Math.abs(v - m) < 0.05 * m + 0.05) ? m : null;
  };
  const ids = parts.map((p) => p.id);

  const ask = async (key: Readout, wanted: number) => {
    // What is not being changed stays as it is: lag with overshoot, overshoot with lag.
    const other = key === 'overshoot' ? 'lag' : 'overshoot';
    const kept = grabbed.current ? grabbed.current[other] : mean(other);
    grabbed.current = null;
    const wish: AskedFeel = { [key]: wanted, ...(kept !== null && { [other]: kept }) };
    setFitting(true);
    const shot = shotNow();
    try {
      const fits = await simulation.fitFeel(shot, ids, wish);
      setWhy(Object.values(fits).find((f) => f.why)?.why ?? '');
      const settings = Object.fromEntries(Object.entries(fits).map(([id, f]) => [id, f.settings]));
      run(fitTogether(`Fit ${key}`, settings, shot.range.first, true));
    } catch (e) {
      sayTrouble(e instanceof Error ? e.message : String(e));
    } finally {
      setFitting(false);
      setAsked(null);
    }
  };

  /** A first answer without measuring. */
  const rough = (key: Readout, wanted: number) => {
    const at = shotNow().range.first;
    const { feel, parts: were } = grabbed.current!;
    const faster = key === 'overshoot' ? 1 : feel[key] / Math.max(0.05, wanted);
    const damped =
      key === 'overshoot'
        ? Math.log(100 / Math.min(99, Math.max(0.1, wanted))) /
          Math.log(100 / Math.min(99, Math.max(0.1, feel.overshoot)))
        : 1;
    const fits = Object.fromEntries(were.map((p) => [p.id, roughly(p, at, faster, damped)]));
    run(fitTogether('', fits, at, false));
  };

  const first = feels[0];
  const turn = TURN_TIME * fps;
  const settle = first && Number.isFinite(first.settle) ? first.settle : 4 * turn;
  const span = Math.max(3 * turn, Math.min(240, 1.25 * (turn + settle)));
  const most = Math.max(1.25, ...feels.map((f) => 1.12 + f.overshoot / 100));
  const least = Math.min(-0.05, ...feels.flatMap((f) => Array.from(f.curve)));
  const x = (frame: number) => PAD + (Math.min(frame, span) / span) * (W - 2 * PAD);
  const y = (share: number) => H - PAD - ((share - least) / (most - least)) * (H - 2 * PAD);
  /** Through the frames' values, rounded at each. */
  const path = (f: Feel) => {
    const p = Array.from(f.curve.subarray(0, Math.ceil(span) + 1), (v, k) => [x(k), y(v)] as const);
    const middle = (k: number) =>
      `${((p[k]![0] + p[k + 1]![0]) / 2).toFixed(1)} ${((p[k]![1] + p[k + 1]![1]) / 2).toFixed(1)}`;
    return p
      .map(([px, py], k) =>
        k === 0
          ? `M${px.toFixed(1)} ${py.toFixed(1)}`
          : k === p.length - 1
            ? `L${px.toFixed(1)} ${py.toFixed(1)}`
            : `Q${px.toFixed(1)} ${py.toFixed(1)} ${middle(k)}`,
      )
      .join('');
  };
  const places: Record<Readout, [number, number]> | null = first
    ? {
        lag: [x(turn / 2 + Math.min(span, first.lag)), y(0.5)],
        overshoot: [x(first.curve.indexOf(Math.max(...first.curve))), y(1 + first.overshoot / 100)],
        settle: [x(turn + settle), y(1)],
      }
    : null;
  const reading = (key: Readout, e: React.PointerEvent<SVGElement>): number => {
    const r = e.currentTarget.closest('svg')!.getBoundingClientRect();
    const frame = ((((e.clientX - r.left) / r.width) * W - PAD) / (W - 2 * PAD)) * span;
    const share = ((H - PAD - ((e.clientY - r.top) / r.height) * H) / (H - 2 * PAD)) * (most - least) + least;
    const v = key === 'lag' ? frame - turn / 2 : key === 'settle' ? frame - turn : (share - 1) * 100;
    return Math.max(key === 'overshoot' ? 0 : 0.2, Number(v.toFixed(1)));
  };
  const shown = (key: Readout) => (asked?.key === key ? asked.value : mean(key));
  return (
    <div className="card-response" role="group" aria-label="Feel" aria-busy={fitting}>
      <svg viewBox={`0 0 ${W} ${H}`}>
        <path
          className="turn"
          d={`M${x(0)} ${y(0)}L${x(turn / 2)} ${y(0.5)}L${x(turn)} ${y(1)}L${x(span)} ${y(1)}`}
        />
        {feels.slice(1).map((f, i) => (
          <path key={i} className="other" d={path(f)} />
        ))}
        {first && <path className="answer" d={path(first)} />}
        <text x={W - PAD} y={H - 3} textAnchor="end">
          {what}, {Math.round(span)} frames
        </text>
        {places &&
          READOUTS.map(([key, label, unit]) => (
            <circle
              key={key}
              cx={places[key][0]}
              cy={places[key][1]}
              r={5.5}
              tabIndex={0}
              role="slider"
              aria-label={`${label} handle`}
              aria-valuenow={shown(key) ?? 0}
              aria-valuetext={`${(shown(key) ?? 0).toFixed(1)} ${unit}`}
              onPointerDown={(e) => {
                e.currentTarget.setPointerCapture(e.pointerId);
                grabbed.current = {
                  feel: first!,
                  parts: partsNow(),
                  lag: mean('lag'),
                  overshoot: mean('overshoot'),
                };
              }}
              onPointerMove={(e) => {
                if (!grabbed.current || !(e.buttons & 1)) return;
                const value = reading(key, e);
                setAsked({ key, value });
                rough(key, value);
              }}
              onPointerUp={() => {
                if (asked) void ask(asked.key, asked.value);
                else grabbed.current = null;
              }}
              onKeyDown={(e) => {
                const step = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[e.key];
                const now = mean(key);
                if (step === undefined || now === null) return;
                e.preventDefault();
                e.stopPropagation();
                void ask(key, Math.max(0, now + step * (key === 'overshoot' ? 2 : 0.5)));
              }}
            >
              <title>{`${label}: drag ${key === 'overshoot' ? 'up or down' : 'left or right'}`}</title>
            </circle>
          ))}
      </svg>
      <div className="feel">
        {READOUTS.map(([key, label, unit, says]) => (
          <label key={key} title={says}>
            <NumberBox
              label={label}
              value={shown(key)}
              digits={1}
              unit={unit}
              placeholder={known ? 'mixed' : '…'}
              disabled={!known}
              onSet={(v) => void ask(key, Math.max(0, v))}
            />
            <span>
              {label}, {unit}
            </span>
          </label>
        ))}
      </div>
      <p className="muted small" title="Measured on the shot itself, beside the standard quick turn above">
        {own.length === 0
          ? 'On this shot: …'
          : Number.isFinite(own[0]!.lag)
            ? `On this shot: lag ${own[0]!.lag.toFixed(1)} frames, overshoot ${own[0]!.overshoot.toFixed(0)} %`
            : still}
      </p>
      {why && <p className="notice small">Nearest found: {why}.</p>}
    </div>
  );
}, sameCard) as <P extends Part>(props: CardProps<P>) => ReactNode;
