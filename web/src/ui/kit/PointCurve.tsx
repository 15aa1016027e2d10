import { useRef, useState } from 'react';

/** Room that the drawing is laid out in, unless another is said; it is scaled to the panel. */
const SIZE: Point = [260, 84];
const PAD = 8;

/** A point of a curve: how far along, and how high. */
export type Point = readonly [number, number];

interface PointCurveProps {
  label: string;
  points: readonly Point[];
  /** What the width and the height of the drawing stand for, least and most. */
  along: Point;
  up: Point;
  /** The height of the curve at each place along. */
  at: (along: number) => number;
  /** A height that is marked with a dotted line. */
  guide: number;
  /** How far an arrow key moves a point, along and up. */
  step: Point;
  say: (point: Point) => string;
  /** A point is moved; not final while a hand still holds it. */
  onMove: (i: number, to: Point, final: boolean) => void;
  /** A place on the drawing is pressed where no point is. */
  onPress: (to: Point) => void;
  onRemove: (i: number) => void;
  /** A point is taken hold of. */
  onHold?: (i: number) => void;
  size?: Point;
  /** Room left and right of the drawing, in its own units; above and below there is always some. */
  pad?: number;
  /** A place along that is marked with a line. */
  now?: number;
  /** Places along at which the curve is read, with what is said of each. */
  dots?: readonly { readonly at: number; readonly says: string }[];
}

/** A curve as an SVG path of 81 points, in a drawing of the given size. */
export function curvePath(
  at: (along: number) => number,
  along: Point,
  up: Point,
  [w, h, pad]: readonly [number, number, number],
  side = pad,
): string {
  return Array.from({ length: 81 }, (_, i) => {
    const v = Math.min(up[1], Math.max(up[0], at(along[0] + ((along[1] - along[0]) * i) / 80)));
    const y = h - pad - ((h - 2 * pad) * (v - up[0])) / (up[1] - up[0] || 1);
    return `${i ? 'L' : 'M'}${(side + ((w - 2 * side) * i) / 80).toFixed(1)} ${y.toFixed(1)}`;
  }).join('');
}

/**
 * A curve through points. Points are dragged, a press on the drawing sets a new one, Delete or a double press takes one
 * away; arrows move the one that has the focus.
 */
export function PointCurve(props: PointCurveProps) {
  const { label, points, at, guide, step, say, onMove, onPress, onRemove, onHold, now, dots } = props;
  const [W, H] = props.size ?? SIZE;
  const side = props.pad ?? PAD;
  const svg = useRef<SVGSVGElement>(null);
  // While a point is held the drawing keeps its scale, however far the point goes.
  const [held, setHeld] = useState<{ i: number; along: Point; up: Point } | null>(null);
  const { along, up } = held ?? props;
  const x = (v: number) => side + ((v - along[0]) / (along[1] - along[0] || 1)) * (W - 2 * side);
  const y = (v: number) => H - PAD - ((v - up[0]) / (up[1] - up[0] || 1)) * (H - 2 * PAD);
  const inside = (v: number, [low, high]: Point) => Math.min(high, Math.max(low, v));
  const placeOf = (e: React.PointerEvent): Point => {
    const r = svg.current!.getBoundingClientRect();
    const px = (((e.clientX - r.left) / r.width) * W - side) / (W - 2 * side);
    const py = (H - PAD - ((e.clientY - r.top) / r.height) * H) / (H - 2 * PAD);
    return [inside(along[0] + px * (along[1] - along[0]), along), inside(up[0] + py * (up[1] - up[0]), up)];
  };
  const press = (e: React.PointerEvent) => {
    if (!(e.target instanceof SVGCircleElement)) onPress(placeOf(e));
  };
  return (
    <svg ref={svg} viewBox={`0 0 ${W} ${H}`} role="group" aria-label={label} onPointerDown={press}>
      <line x1={side} x2={W - side} y1={y(guide)} y2={y(guide)} className="even" />
      {now !== undefined && now >= along[0] && now <= along[1] && (
        <line x1={x(now)} x2={x(now)} y1={0} y2={H} className="now" />
      )}
      <path d={curvePath(at, along, up, [W, H, PAD], side)} />
      {dots?.map((d) => (
        <rect key={d.at} className="dot" x={x(d.at) - 2} y={y(inside(at(d.at), up)) - 2} width={4} height={4}>
          <title>{d.says}</title>
        </rect>
      ))}
      {points.map((p, i) => (
        <circle
          key={i}
          cx={x(p[0])}
          cy={y(inside(p[1], up))}
          r={5}
          tabIndex={0}
          role="slider"
          aria-label={`Point ${i + 1}`}
          aria-valuenow={p[1]}
          aria-valuetext={say(p)}
          onPointerDown={(e) => {
            e.stopPropagation();
            e.currentTarget.setPointerCapture(e.pointerId);
            setHeld({ i, along, up });
            onHold?.(i);
          }}
          onPointerMove={(e) => held?.i === i && onMove(i, placeOf(e), false)}
          onPointerUp={(e) => {
            if (held?.i === i) onMove(i, placeOf(e), true);
            setHeld(null);
          }}
          onFocus={() => onHold?.(i)}
          onDoubleClick={() => onRemove(i)}
          onKeyDown={(e) => {
            const go = { ArrowUp: [0, 1], ArrowDown: [0, -1], ArrowLeft: [-1, 0], ArrowRight: [1, 0] }[e.key];
            if (go) onMove(i, [p[0] + go[0]! * step[0], p[1] + go[1]! * step[1]], true);
            else if (e.key === 'Delete' || e.key === 'Backspace') onRemove(i);
            else return;
            e.preventDefault();
            e.stopPropagation();
          }}
        />
      ))}
    </svg>
  );
}
