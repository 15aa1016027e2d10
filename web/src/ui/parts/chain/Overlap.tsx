import { useState } from 'react';
import { overlapFor, overlapOf, type Arrival, type ChainPart } from '@oscillum/core/chain';
import { change, fitTogether } from '../../../state/edits';
import { useAppSelector, type Thunk } from '../../../state/store';
import { NumberBox } from '../../kit/Fields';
import { ChoiceRow } from '../../kit/Rows';

const W = 268;
const H = 84;
const PAD = 12;

interface ArrivalsProps {
  parts: readonly ChainPart[];
  /** Lengths of the links of the first of them. */
  lengths: Float64Array;
  run: (t: Thunk) => void;
}

/** Whose swing is handed down, and how it arrives. */
export function Overlap(props: ArrivalsProps) {
  const { parts, run } = props;
  const part = parts[0]!;
  const on = part.settings.overlap > 0 || (part.keys.overlap?.length ?? 0) > 0;
  return (
    <>
      <ChoiceRow
        label="Swing of"
        value={part.overlapFrom}
        says="Whose swing runs down the chain: what it turns away from its own mean."
        choices={[
          ['above', 'the joint above it'],
          ['first', 'its first joint'],
        ]}
        onSet={(v) =>
          run(
            change('Choose whose swing is handed down', (d) => {
              for (const p of parts) (d.parts[p.id] as ChainPart).overlapFrom = v;
            }),
          )
        }
      />
      {on && <Arrivals {...props} />}
    </>
  );
}

/** How a swing arrives at each joint: later to the right, larger upward. The tip is dragged, or typed. */
function Arrivals({ parts, lengths, run }: ArrivalsProps) {
  const frame = useAppSelector((s) => Math.round(s.view.frame));
  const joints = overlapOf(parts[0]!, lengths, frame);
  const tip = joints.at(-1)!;
  const ask = (wanted: Arrival, final: boolean) => {
    const { size: overlapGain, lag: overlapLag } = overlapFor(parts[0]!, lengths, frame, wanted);
    const fit = {
      overlapGain: Math.min(300, Math.max(0, overlapGain)),
      overlapLag: Math.min(30, Math.max(0, overlapLag)),
    };
    const fits = Object.fromEntries(parts.map((p) => [p.id, fit]));
    run(fitTogether('Set how a swing arrives', fits, frame, final));
  };
  return (
    <div className="card-response overlap" role="group" aria-label="How a swing arrives">
      <Drawn joints={joints} ask={ask} />
      <div className="feel">
        <label title="How large the tip swings beside the joint whose swing is handed down">
          <NumberBox
            label="Size at the tip"
            value={tip.size}
            digits={2}
            unit="×"
            onSet={(size) => ask({ ...tip, size: Math.max(0.01, size) }, true)}
          />
          <span>Tip’s swing, ×</span>
        </label>
        <label title="How much later the tip swings">
          <NumberBox
            label="Lag at the tip"
            value={tip.lag}
            digits={1}
            unit="frames"
            onSet={(lag) => ask({ ...tip, lag: Math.max(0, lag) }, true)}
          />
          <span>Later, frames</span>
        </label>
      </div>
    </div>
  );
}

/** What an arrow key does to the tip: frames later, times as large. */
const STEPS: Record<string, readonly [number, number]> = {
  ArrowRight: [0.5, 1],
  ArrowLeft: [-0.5, 1],
  ArrowUp: [0, 1.05],
  ArrowDown: [0, 1 / 1.05],
};

function Drawn({
  joints,
  ask,
}: {
  joints: readonly Arrival[];
  ask: (wanted: Arrival, final: boolean) => void;
}) {
  // The drawing keeps its scale while the tip is held.
  const [held, setHeld] = useState<Arrival | null>(null);
  const tip = joints.at(-1)!;
  const most = held ?? {
    lag: Math.max(4, tip.lag * 1.3),
    size: Math.max(1.5, ...joints.map((j) => j.size * 1.25)),
  };
  const x = (lag: number) => PAD + (lag / most.lag) * (W - 2 * PAD);
  const y = (size: number) => H - PAD - (Math.min(size, most.size) / most.size) * (H - 2 * PAD);
  const drag = (e: React.PointerEvent<SVGCircleElement>, final: boolean) => {
    if (!held) return;
    const r = e.currentTarget.ownerSVGElement!.getBoundingClientRect();
    const lag = ((((e.clientX - r.left) / r.width) * W - PAD) / (W - 2 * PAD)) * most.lag;
    const size = ((H - PAD - ((e.clientY - r.top) / r.height) * H) / (H - 2 * PAD)) * most.size;
    ask({ lag: Math.max(0, lag), size: Math.max(0.01, size) }, final);
    if (final) setHeld(null);
  };
  return (
    <svg viewBox={`0 0 ${W} ${H}`}>
      <line className="turn" x1={PAD} x2={W - PAD} y1={y(1)} y2={y(1)} />
      <path
        className="answer"
        d={`M${x(0)} ${y(1)}${joints.map((j) => `L${x(j.lag)} ${y(j.size)}`).join('')}`}
      />
      {joints.slice(0, -1).map((j, i) => (
        <rect key={i} className="dot" x={x(j.lag) - 2} y={y(j.size) - 2} width={4} height={4} />
      ))}
      <circle
        cx={x(tip.lag)}
        cy={y(tip.size)}
        r={5.5}
        tabIndex={0}
        role="slider"
        aria-label="Swing at the tip"
        aria-valuenow={tip.size}
        aria-valuetext={`${tip.size.toFixed(2)} times, ${tip.lag.toFixed(1)} frames later`}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          setHeld(most);
        }}
        onPointerMove={(e) => drag(e, false)}
        onPointerUp={(e) => drag(e, true)}
        onKeyDown={(e) => {
          const by = STEPS[e.key];
          if (!by) return;
          e.preventDefault();
          e.stopPropagation();
          ask({ lag: Math.max(0, tip.lag + by[0]), size: tip.size * by[1] }, true);
        }}
      >
        <title>Drag right for later, up for larger</title>
      </circle>
      <text x={W - PAD} y={H - 2} textAnchor="end">
        later, frames →
      </text>
    </svg>
  );
}
