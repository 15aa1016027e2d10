import { useEffect, useMemo } from 'react';
import type { ClothPart, MapKey } from '@oscillum/core/cloth';
import {
  BRUSHES,
  fromRims,
  grown,
  gradient,
  inverted,
  mirrored,
  softened,
  toVertices,
} from '@oscillum/core/maps';
import {
  keepShares,
  spanOf,
  labelOf,
  paintMeshFor,
  sharesOf,
  symmetryOf,
} from '../../../state/parts/cloth/maps';
import { selectShot, useAppDispatch, useAppSelector } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { useDesk } from '../../kit/desk';
import { NumberBox } from '../../kit/Fields';

const DOES = [...BRUSHES, 'gradient'] as const;
const SAYS: Record<(typeof DOES)[number], string> = {
  paint: 'Paints the value',
  erase: 'Paints 0',
  soften: 'Evens out steps (Shift while painting)',
  level: 'Spreads the value it is put down on',
  gradient: 'Draw a line: from 0 where it begins to the value where it ends',
};

/** The brush, over the stage, while a map is painted. */
export function BrushBar() {
  const painting = useAppSelector((s) => s.view.painting);
  const part = useAppSelector((s) => (painting ? selectShot(s)?.parts[painting.part] : undefined));
  if (!painting || part?.kind !== 'cloth') return null;
  return <Bar part={part} mapped={painting.key as MapKey} />;
}

function Bar({ part, mapped }: { part: ClothPart; mapped: MapKey }) {
  const dispatch = useAppDispatch();
  const { character, stage } = useDesk();
  const brush = useAppSelector((s) => s.view.brush);
  const frame = useAppSelector((s) => s.view.frame);
  const { node } = part.mesh;
  const mesh = useMemo(() => paintMeshFor(character, node), [character, node]);
  const symmetry = useMemo(() => symmetryOf(character, node), [character, node]);
  const shares = useMemo(() => sharesOf(character, part, mapped), [character, part, mapped]);
  useEffect(() => {
    const drawn = stage.current;
    drawn?.surface.paint({ node, shares: toVertices(mesh, shares) });
    return () => drawn?.surface.paint(null);
  }, [stage, node, mesh, shares]);
  const { low, high, unit } = spanOf(part, mapped, frame);
  const name = labelOf(mapped);
  const set = (to: Partial<typeof brush>) => dispatch(viewSlice.actions.brushSet(to));
  const put = (name: string, values: Float64Array) =>
    dispatch(keepShares(character, part.id, mapped, `${name} ${labelOf(mapped)}`, values));
  const fills: readonly (readonly [string, string, () => Float64Array])[] = [
    ['fill', 'Gives every vertex the value', () => shares.map(() => brush.value)],
    ['invert', 'Turns high and low round', () => inverted(shares)],
    ['grow', 'High values spread over their neighbours', () => grown(mesh, shares, true)],
    ['shrink', 'Low values spread over their neighbours', () => grown(mesh, shares, false)],
    ['soften all', 'Evens out all of it once', () => softened(mesh, shares)],
    ['from rim', 'From 0 at the shortest rim to the value farthest from it', () => byRim()],
    [
      'left to right',
      'Copies the left half over the right one',
      () => mirrored(mesh, shares, symmetry.partners, 0, true),
    ],
  ];
  const byRim = () => {
    const far = fromRims(mesh, 0).map((d) => (d < Infinity ? d : 0));
    const most = far.reduce((m, d) => Math.max(m, d), 0);
    return most > 0 ? gradient(far, 0, most).map((s) => s * brush.value) : shares;
  };
  return (
    <div className="float brush-bar" role="region" aria-label={`Paint ${labelOf(mapped)}`}>
      <span className="brush-row">
        <b>{name[0]!.toUpperCase() + name.slice(1)}</b> of {part.name}
        <span className="presses">
          {DOES.map((does) => (
            <button
              key={does}
              className="plain"
              title={SAYS[does]}
              aria-pressed={brush.does === does}
              onClick={() => set({ does })}
            >
              {does}
            </button>
          ))}
        </span>
        <button
          className="plain"
          title="Ends painting (Esc)"
          onClick={() => dispatch(viewSlice.actions.paintingSet(null))}
        >
          done
        </button>
      </span>
      <span className="brush-row">
        value
        <NumberBox
          label={`Value, ${unit}`}
          value={Number((low + brush.value * (high - low)).toPrecision(4))}
          onSet={(v) => set({ value: high > low ? Math.min(1, Math.max(0, (v - low) / (high - low))) : 0 })}
        />
        {unit} radius
        <NumberBox
          label="Radius, m"
          value={brush.radius}
          onSet={(v) => set({ radius: Math.max(1e-4, v) })}
        />{' '}
        m strength
        <NumberBox
          label="Strength, %"
          value={Math.round(100 * brush.strength)}
          onSet={(v) => set({ strength: Math.min(1, Math.max(0.01, v / 100)) })}
        />
        %
        <label title={`${symmetry.alone} of ${mesh.points} points have none across the middle`}>
          <input type="checkbox" checked={brush.mirror} onChange={(e) => set({ mirror: e.target.checked })} />
          mirror{symmetry.alone > 0 ? `, ${symmetry.alone} alone` : ''}
        </label>
      </span>
      <span className="brush-row presses">
        {fills.map(([name, title, make]) => (
          <button
            key={name}
            className="mini"
            title={title}
            onClick={() => put(name[0]!.toUpperCase() + name.slice(1), make())}
          >
            {name}
          </button>
        ))}
      </span>
    </div>
  );
}
