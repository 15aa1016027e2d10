import { useRef, useState } from 'react';
import { profileAt, type Profile } from '@oscillum/core/model';

const W = 260;
const H = 84;
const PAD = 8;

/** Shapes a hand wants most, as multipliers from root to tip. */
const SHAPES: readonly (readonly [string, string, Profile])[] = [
  ['even', 'The same from root to tip', []],
  [
    'base',
    'Most at the root, falling to the tip',
    [
      [0, 1.5],
      [0.4, 0.8],
      [1, 0.2],
    ],
  ],
  [
    'tip',
    'Little at the root, rising to the tip',
    [
      [0, 0.2],
      [0.6, 0.8],
      [1, 1.5],
    ],
  ],
  [
    'middle',
    'Most half way along',
    [
      [0, 0.4],
      [0.5, 1.4],
      [1, 0.4],
    ],
  ],
];

/** Top of the drawing: a little above the highest point. */
const topOf = (profile: Profile) => Math.max(2, ...profile.map((p) => p[1] * 1.15));

export function profilePath(profile: Profile, w: number, h: number, pad: number): string {
  const top = topOf(profile);
  return Array.from({ length: 41 }, (_, i) => {
    const x = pad + ((w - 2 * pad) * i) / 40;
    const y = h - pad - ((h - 2 * pad) * Math.min(top, profileAt(profile, i / 40))) / top;
    return `${i ? 'L' : 'M'}${x.toFixed(1)} ${y.toFixed(1)}`;
  }).join('');
}

/**
 * How a setting is shared out from root (left) to tip (right). Points are dragged, a press on the curve sets a new one,
 * Delete or a double press takes one away; arrows move the one that has the focus.
 */
export function ProfileEditor({
  label,
  profile,
  onChange,
}: {
  label: string;
  profile: Profile;
  onChange: (profile: Profile, final: boolean) => void;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const [held, setHeld] = useState<number | null>(null);
  const top = topOf(profile);
  const x = (at: number) => PAD + at * (W - 2 * PAD);
  const y = (v: number) => H - PAD - (Math.min(v, top) / top) * (H - 2 * PAD);
  const points: Profile = profile.length ? profile : [];
  const placeOf = (e: React.PointerEvent): [number, number] => {
    const r = svg.current!.getBoundingClientRect();
    const px = ((e.clientX - r.left) / r.width) * W;
    const py = ((e.clientY - r.top) / r.height) * H;
    return [
      Math.min(1, Math.max(0, (px - PAD) / (W - 2 * PAD))),
      Math.min(10, Math.max(0, ((H - PAD - py) / (H - 2 * PAD)) * top)),
    ];
  };
  const round = (v: number) => Number(v.toFixed(2));
  /** A point moved, kept between its neighbours. */
  const moved = (i: number, at: number, v: number): Profile =>
    points.map((p, k) => {
      if (k !== i) return p;
      const low = i > 0 ? points[i - 1]![0] + 0.01 : 0;
      const high = i + 1 < points.length ? points[i + 1]![0] - 0.01 : 1;
      return [round(Math.min(high, Math.max(low, at))), round(Math.min(10, Math.max(0, v)))];
    });
  const without = (i: number) => points.filter((_, k) => k !== i);
  const press = (e: React.PointerEvent) => {
    if (e.target instanceof SVGCircleElement) return;
    const [at, v] = placeOf(e);
    const base: Profile = points.length
      ? points
      : [
          [0, 1],
          [1, 1],
        ];
    const near = base.findIndex((p) => Math.abs(p[0] - at) < 0.03);
    const next: Profile =
      near >= 0
        ? base.map((p, k) => (k === near ? [p[0], round(v)] : p))
        : [...base, [round(at), round(v)] as [number, number]].sort((a, b) => a[0] - b[0]);
    onChange(next, true);
  };
  return (
    <div className="profile">
      <svg
        ref={svg}
        viewBox={`0 0 ${W} ${H}`}
        role="group"
        aria-label={`Profile of ${label}, root to tip`}
        onPointerDown={press}
      >
        <line x1={PAD} x2={W - PAD} y1={y(1)} y2={y(1)} className="even" />
        <path d={profilePath(profile, W, H, PAD)} />
        {points.map(([at, v], i) => (
          <circle
            key={i}
            cx={x(at)}
            cy={y(v)}
            r={5}
            tabIndex={0}
            role="slider"
            aria-label={`Point ${i + 1}`}
            aria-valuenow={v}
            aria-valuetext={`${v} times at ${Math.round(at * 100)} % of the length`}
            onPointerDown={(e) => {
              e.stopPropagation();
              e.currentTarget.setPointerCapture(e.pointerId);
              setHeld(i);
            }}
            onPointerMove={(e) => held === i && onChange(moved(i, ...placeOf(e)), false)}
            onPointerUp={(e) => {
              if (held === i) onChange(moved(i, ...placeOf(e)), true);
              setHeld(null);
            }}
            onDoubleClick={() => onChange(without(i), true)}
            onKeyDown={(e) => {
              const step = {
                ArrowUp: [0, 0.05],
                ArrowDown: [0, -0.05],
                ArrowLeft: [-0.02, 0],
                ArrowRight: [0.02, 0],
              }[e.key];
              if (step) onChange(moved(i, at + step[0]!, v + step[1]!), true);
              else if (e.key === 'Delete' || e.key === 'Backspace') onChange(without(i), true);
              else return;
              e.preventDefault();
              e.stopPropagation();
            }}
          />
        ))}
      </svg>
      <div className="presses">
        <span className="muted small">root</span>
        {SHAPES.map(([name, says, shape]) => (
          <button key={name} className="mini" title={says} onClick={() => onChange(shape, true)}>
            {name}
          </button>
        ))}
        <button
          className="mini"
          title="Takes the sharpest corners out of the curve"
          disabled={points.length < 3}
          onClick={() => onChange(smoothed(points), true)}
        >
          smooth
        </button>
        <span className="muted small" style={{ marginLeft: 'auto' }}>
          tip
        </span>
      </div>
    </div>
  );
}

/** Each point half way to the mean of its neighbours; the ends stay. */
export const smoothed = (profile: Profile): Profile =>
  profile.map((p, i) =>
    i === 0 || i === profile.length - 1
      ? p
      : [p[0], Number((p[1] / 2 + (profile[i - 1]![1] + profile[i + 1]![1]) / 4).toFixed(3))],
  );
