import { profileAt, type Profile } from '@oscillum/core/model';
import { NumberBox } from './Fields';
import { curvePath, PointCurve, type Point } from './PointCurve';

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

/** Chains of more joints show theirs as dots only. */
const MOST_BOXES = 24;

/** Top of the drawing: a little above the highest point. */
const topOf = (profile: Profile) => Math.max(2, ...profile.map((p) => p[1] * 1.15));

const PLACES: Point = [0, 1];

/** A profile as an SVG path in a drawing of the given size. */
export const profilePath = (profile: Profile, w: number, h: number, pad: number): string =>
  curvePath((at) => profileAt(profile, at), PLACES, [0, topOf(profile)], [w, h, pad]);

/** A joint of a chain, and where along it its link has its middle. */
export interface JointPlace {
  readonly name: string;
  readonly at: number;
}

/** How a setting is shared out from root (left) to tip (right), by points to be dragged. */
export function ProfileEditor({
  label,
  profile: points,
  joints,
  value: setting,
  unit,
  onChange,
}: {
  label: string;
  profile: Profile;
  joints: readonly JointPlace[];
  /** What the setting is, in the unit that is shown. */
  value: number;
  unit: string;
  onChange: (profile: Profile, final: boolean) => void;
}) {
  const round = (v: number) => Number(v.toFixed(2));
  const value = (v: number) => round(Math.min(10, Math.max(0, v)));
  /** A point moved, kept between its neighbours. */
  const move = (i: number, [at, v]: Point, final: boolean) => {
    const low = i > 0 ? points[i - 1]![0] + 0.01 : 0;
    const high = i + 1 < points.length ? points[i + 1]![0] - 0.01 : 1;
    const to: [number, number] = [round(Math.min(high, Math.max(low, at))), value(v)];
    onChange(points.with(i, to), final);
  };
  const press = ([at, v]: Point, within = 0.03) => {
    const base: Profile = points.length
      ? points
      : [
          [0, 1],
          [1, 1],
        ];
    const near = base.findIndex((p) => Math.abs(p[0] - at) < within);
    const next: Profile =
      near >= 0
        ? base.with(near, [base[near]![0], value(v)])
        : [...base, [Number(at.toFixed(4)), value(v)] as [number, number]].sort((a, b) => a[0] - b[0]);
    onChange(next, true);
  };
  return (
    <div className="profile">
      <PointCurve
        label={`Profile of ${label}, root to tip`}
        points={points}
        along={PLACES}
        up={[0, topOf(points)]}
        at={(at) => profileAt(points, at)}
        guide={1}
        step={[0.02, 0.05]}
        dots={joints.map(({ name, at }) => ({
          at,
          says: `${name}: ${round(setting * profileAt(points, at))} ${unit}`,
        }))}
        say={([at, v]) => `${v} times at ${Math.round(at * 100)} % of the length`}
        onMove={move}
        onPress={press}
        onRemove={(i) =>
          onChange(
            points.filter((_, k) => k !== i),
            true,
          )
        }
      />
      <Shapes points={points} onChange={onChange} />
      <JointValues
        label={label}
        joints={joints}
        value={setting}
        unit={unit}
        profile={points}
        onSet={(at, by) => press([at, by], 1e-6)}
      />
    </div>
  );
}

/** Whole shapes of a curve at a press. */
function Shapes({
  points,
  onChange,
}: {
  points: Profile;
  onChange: (profile: Profile, final: boolean) => void;
}) {
  return (
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
  );
}

/** What a setting is at each joint, to be typed. */
function JointValues({
  label,
  joints,
  value,
  unit,
  profile,
  onSet,
}: {
  label: string;
  joints: readonly JointPlace[];
  value: number;
  unit: string;
  profile: Profile;
  /** A multiplier at a place. */
  onSet: (at: number, by: number) => void;
}) {
  if (joints.length < 2 || joints.length > MOST_BOXES || value === 0) return null;
  return (
    <div className="joint-values" role="group" aria-label={`${label} of each joint`}>
      {joints.map(({ name, at }) => (
        <NumberBox
          key={at}
          label={`${label} of ${name}`}
          value={value * profileAt(profile, at)}
          unit={unit}
          digits={2}
          onSet={(v) => onSet(at, v / value)}
        />
      ))}
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
