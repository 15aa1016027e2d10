import { useRef, useState } from 'react';
import { peakAt } from '../../../state/parts/pendulum/readouts';

const W = 268;
const H = 70;
const PAD = 8;

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
}

/** An output over the range with its limits, the input dashed behind it, and a ring on its peak to drag both by. */
export function AnswerCurve({ input, row, low, high, lag, said, onPeak, onLag }: CurveProps) {
  const held = useRef<{ x: number; y: number } | null>(null);
  const [to, setTo] = useState<{ x: number; y: number } | null>(null);
  if (!row || !input || row.length < 2) return <svg viewBox={`0 0 ${W} ${H}`} />;
  const least = Math.min(0, low ?? 0, ...row);
  const most = Math.max(1e-9, high ?? 0, ...row);
  const y = (v: number) => H - PAD - ((v - least) / (most - least)) * (H - 2 * PAD);
  const x = (f: number) => PAD + (f / (row.length - 1)) * (W - 2 * PAD);
  const path = (list: Float32Array, of: (v: number) => number) =>
    Array.from(list, (v, f) => `${f === 0 ? 'M' : 'L'}${x(f).toFixed(1)} ${of(v).toFixed(1)}`).join('');
  // The input has a unit of its own: it is drawn as high as the whole of what it drives.
  const [lo, hi] = [Math.min(...input), Math.max(...input)];
  const scaled = (v: number) => H - PAD - ((v - lo) / (hi - lo || 1)) * (H - 2 * PAD);
  const at = peakAt(row);
  const peak = row[at]!;
  /** From the page to frames and to the output's unit. */
  const reading = (e: React.PointerEvent<SVGElement>) => {
    const r = e.currentTarget.closest('svg')!.getBoundingClientRect();
    const px = ((e.clientX - r.left) / r.width) * W;
    const py = ((e.clientY - r.top) / r.height) * H;
    return { x: px, y: py };
  };
  const letGo = () => {
    const [from, end] = [held.current, to];
    held.current = null;
    setTo(null);
    if (!from || !end) return;
    // Whichever way it was dragged farther.
    if (Math.abs(end.y - from.y) >= Math.abs(end.x - from.x))
      onPeak(Number((((H - PAD - end.y) / (H - 2 * PAD)) * (most - least) + least).toPrecision(3)));
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
          held.current = reading(e);
        }}
        onPointerMove={(e) => held.current && setTo(reading(e))}
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
