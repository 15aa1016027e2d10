import { useRef, useState } from 'react';
import { peakAt } from '../../../state/parts/pendulum/readouts';

const W = 268;
const H = 70;
const PAD = 8;

/** What the bottom and the top of the drawing stand for, in the output's unit. */
interface Scale {
  readonly least: number;
  readonly most: number;
}
const valueAt = (y: number, { least, most }: Scale) =>
  Number((((H - PAD - y) / (H - 2 * PAD)) * (most - least) + least).toPrecision(3));

/** From the page to the drawing. */
function placeOn(e: React.PointerEvent<SVGElement>): { x: number; y: number } {
  const r = e.currentTarget.closest('svg')!.getBoundingClientRect();
  return { x: ((e.clientX - r.left) / r.width) * W, y: ((e.clientY - r.top) / r.height) * H };
}

interface CurveProps {
  /** What is followed and what is driven, by frame; null while nothing is known. */
  input: Float32Array | null;
  row: Float32Array | null;
  low: number | null;
  high: number | null;
  /** Frames by which the one follows the other. */
  lag: number;
  /** Its peak in words. */
  said: string;
  onPeak: (wanted: number) => void;
  onLag: (wanted: number) => void;
  /** A limit is drawn, or taken away with null; not final while a hand still holds it. */
  onLimit: (side: 'low' | 'high', limit: number | null, final: boolean) => void;
}

/**
 * An output over the range, the input dashed behind it, and a ring on its peak to drag both by. Its limits are lines to
 * drag by the grip at their end; while there is none the grip waits at the edge, and put back there it takes it away.
 */
export function AnswerCurve(props: CurveProps) {
  const { input, row, low, high, lag, said, onPeak, onLag, onLimit } = props;
  const held = useRef<{ x: number; y: number } | null>(null);
  const [to, setTo] = useState<{ x: number; y: number } | null>(null);
  const [limitHeld, setLimitHeld] = useState<Scale | null>(null);
  if (!row || !input || row.length < 2) return <svg viewBox={`0 0 ${W} ${H}`} />;
  const span = { least: Math.min(0, low ?? 0, ...row), most: Math.max(1e-9, high ?? 0, ...row) };
  const room = 0.15 * (span.most - span.least);
  // While a limit is held the drawing keeps its scale, however far the limit goes.
  const { least, most } = limitHeld ?? { least: span.least - room, most: span.most + room };
  const y = (v: number) => H - PAD - ((v - least) / (most - least)) * (H - 2 * PAD);
  const x = (f: number) => PAD + (f / (row.length - 1)) * (W - 2 * PAD);
  const path = (list: Float32Array, of: (v: number) => number) =>
    Array.from(list, (v, f) => `${f === 0 ? 'M' : 'L'}${x(f).toFixed(1)} ${of(v).toFixed(1)}`).join('');
  // The input has a unit of its own: it is drawn as high as the whole of what it drives.
  const [lo, hi] = [Math.min(...input), Math.max(...input)];
  const scaled = (v: number) => H - PAD - ((v - lo) / (hi - lo || 1)) * (H - 2 * PAD);
  const at = peakAt(row);
  const peak = row[at]!;
  const letGo = () => {
    const [from, end] = [held.current, to];
    held.current = null;
    setTo(null);
    if (!from || !end) return;
    // Whichever way it was dragged farther.
    if (Math.abs(end.y - from.y) >= Math.abs(end.x - from.x)) onPeak(valueAt(end.y, { least, most }));
    else onLag(Number((lag + ((end.x - from.x) / (W - 2 * PAD)) * (row.length - 1)).toFixed(1)));
  };
  const ring = to ?? { x: x(at), y: y(peak) };
  return (
    <svg viewBox={`0 0 ${W} ${H}`}>
      <path className="turn" d={path(input, scaled)} />
      {[low, high].map(
        (limit, k) =>
          limit !== null && <path key={k} className="limit" d={`M${PAD} ${y(limit)}H${W - PAD}`} />,
      )}
      {(['low', 'high'] as const).map((side) => (
        <Grip
          key={side}
          side={side}
          limit={side === 'low' ? low : high}
          other={side === 'low' ? high : low}
          scale={{ least, most }}
          onHold={setLimitHeld}
          onLimit={onLimit}
        />
      ))}
      <path className="answer" d={path(row, y)} />
      <circle
        cx={ring.x}
        cy={ring.y}
        r={5.5}
        tabIndex={0}
        role="slider"
        aria-label="Peak and lag"
        aria-valuenow={peak}
        aria-valuetext={`${said}, ${lag.toFixed(1)} frames later`}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          held.current = placeOn(e);
        }}
        onPointerMove={(e) => held.current && setTo(placeOn(e))}
        onPointerUp={letGo}
        onKeyDown={(e) => {
          const step = { ArrowUp: 0.05, ArrowDown: -0.05 }[e.key];
          const later = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
          if (step === undefined && later === undefined) return;
          e.preventDefault();
          e.stopPropagation();
          if (step !== undefined) onPeak(Number((peak * (1 + step)).toPrecision(3)));
          else if (later !== undefined) onLag(Number((lag + later).toFixed(1)));
        }}
      >
        <title>Drag up or down for its peak, left or right for its lag</title>
      </circle>
    </svg>
  );
}

interface GripProps {
  side: 'low' | 'high';
  limit: number | null;
  /** The limit of the other side, which this one may not pass. */
  other: number | null;
  scale: Scale;
  onHold: (scale: Scale | null) => void;
  onLimit: CurveProps['onLimit'];
}

/** What a limit is drawn by. */
function Grip({ side, limit, other, scale, onHold, onLimit }: GripProps) {
  const { least, most } = scale;
  const low = side === 'low';
  const edge = low ? H - 3 : 3;
  const y = limit === null ? edge : H - PAD - ((limit - least) / (most - least)) * (H - 2 * PAD);
  const put = (value: number, final: boolean) => {
    const apart = (most - least) / 50;
    const kept =
      other === null ? value : low ? Math.min(value, other - apart) : Math.max(value, other + apart);
    onLimit(side, Number(kept.toPrecision(4)), final);
  };
  /** At the edge of the drawing there is none. */
  const at = (e: React.PointerEvent<SVGElement>, final: boolean) => {
    const to = placeOn(e).y;
    if (low ? to > H - 4 : to < 4) onLimit(side, null, final);
    else put(valueAt(to, scale), final);
  };
  const name = low ? 'Lower limit' : 'Upper limit';
  return (
    <path
      className="grip"
      data-set={limit !== null}
      d={`M${W - PAD} ${y}l7 -4v8z`}
      tabIndex={0}
      role="slider"
      aria-label={`${name}, drawn`}
      aria-valuenow={limit ?? 0}
      aria-valuetext={limit === null ? 'none' : String(limit)}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        onHold(scale);
      }}
      onPointerMove={(e) => e.currentTarget.hasPointerCapture(e.pointerId) && at(e, false)}
      onPointerUp={(e) => {
        at(e, true);
        onHold(null);
      }}
      onKeyDown={(e) => {
        const step = { ArrowUp: 1, ArrowDown: -1 }[e.key];
        if (step !== undefined) put((limit ?? (low ? least : most)) + (step * (most - least)) / 40, true);
        else if (e.key === 'Delete' || e.key === 'Backspace') onLimit(side, null, true);
        else return;
        e.preventDefault();
        e.stopPropagation();
      }}
    >
      <title>{name}: drag it to where this must never pass; put it back to the edge for none</title>
    </path>
  );
}
