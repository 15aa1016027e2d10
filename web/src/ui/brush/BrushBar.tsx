import { useEffect, useMemo } from 'react';
import { useStore } from 'react-redux';
import {
  BRUSHES,
  fromColours,
  fromJoint,
  fromMaterial,
  fromRims,
  grown,
  gradient,
  inverted,
  mirrored,
  softened,
  sourcesOf,
  toVertices,
  type PaintMesh,
} from '@oscillum/core/maps';
import {
  isPainted,
  keepShares,
  otherMaps,
  spanOf,
  labelOf,
  paintMeshFor,
  sharesOf,
  symmetryOf,
  type PaintedPart,
} from '../../state/paint';
import { BrushTool } from './brushTool';
import { selectShot, useAppDispatch, useAppSelector, type State } from '../../state/store';
import { viewSlice } from '../../state/view';
import { useDesk } from '../kit/desk';
import { NumberBox } from '../kit/Fields';

const DOES = [...BRUSHES, 'gradient', 'lasso', 'from point'] as const;
const SAYS: Record<(typeof DOES)[number], string> = {
  paint: 'Paints the value',
  erase: 'Paints 0',
  soften: 'Evens out steps (Shift while painting)',
  level: 'Spreads the value it is put down on',
  gradient: 'Draw a line: from 0 where it begins to the value where it ends',
  lasso: 'Draw round what gets the value: only what faces you',
  'from point': 'Press on the mesh: from 0 there to the value farthest from it along the surface',
};

/** The brush, over the stage, while a map is painted. */
export function BrushBar() {
  const painting = useAppSelector((s) => s.view.painting);
  const part = useAppSelector((s) => (painting ? selectShot(s)?.parts[painting.part] : undefined));
  if (!painting || !isPainted(part)) return null;
  return <Bar part={part} mapped={painting.key} />;
}

interface BarProps {
  part: PaintedPart;
  mapped: string;
}

function Bar({ part, mapped }: BarProps) {
  const dispatch = useAppDispatch();
  const { character, stage } = useDesk();
  const store = useStore<State>();
  const brush = useAppSelector((s) => s.view.brush);
  const { node } = part.mesh;
  const mesh = useMemo(() => paintMeshFor(character, node), [character, node]);
  const shares = useMemo(() => sharesOf(character, part, mapped), [character, part, mapped]);
  useEffect(() => {
    const drawn = stage.current;
    drawn?.surface.paint({ node, shares: toVertices(mesh, shares) });
    return () => drawn?.surface.paint(null);
  }, [stage, node, mesh, shares]);
  useEffect(() => {
    const drawn = stage.current;
    const tool = drawn && new BrushTool(drawn.host, drawn, character, store);
    return () => tool?.dispose();
  }, [stage, character, store]);
  const name = labelOf(part, mapped);
  return (
    <div className="float brush-bar" role="region" aria-label={`Paint ${name}`}>
      <span className="brush-row">
        <b>{name[0]!.toUpperCase() + name.slice(1)}</b> of {part.name}
        <span className="presses">
          {DOES.map((does) => (
            <button
              key={does}
              className="plain"
              title={SAYS[does]}
              aria-pressed={brush.does === does}
              onClick={() => dispatch(viewSlice.actions.brushSet({ does }))}
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
      <Numbers part={part} mapped={mapped} />
      <Fills part={part} mapped={mapped} mesh={mesh} shares={shares} />
    </div>
  );
}

/** What the brush paints, how large and strong it is, and whether it paints both sides. */
function Numbers({ part, mapped }: BarProps) {
  const dispatch = useAppDispatch();
  const { character } = useDesk();
  const brush = useAppSelector((s) => s.view.brush);
  const frame = useAppSelector((s) => s.view.frame);
  const { node } = part.mesh;
  const { partners, alone } = useMemo(() => symmetryOf(character, node), [character, node]);
  const { low, high, unit } = spanOf(part, mapped, frame);
  const set = (to: Partial<typeof brush>) => dispatch(viewSlice.actions.brushSet(to));
  return (
    <span className="brush-row">
      value
      <NumberBox
        label={`Value, ${unit}`}
        value={Number((low + brush.value * (high - low)).toPrecision(4))}
        onSet={(v) => set({ value: high > low ? Math.min(1, Math.max(0, (v - low) / (high - low))) : 0 })}
      />
      {unit} · radius
      <NumberBox label="Radius, m" value={brush.radius} onSet={(v) => set({ radius: Math.max(1e-4, v) })} />m
      · strength
      <NumberBox
        label="Strength, %"
        value={Math.round(100 * brush.strength)}
        onSet={(v) => set({ strength: Math.min(1, Math.max(0.01, v / 100)) })}
      />
      %
      <label title={`${alone} of ${partners.length} points have none across the middle`}>
        <input type="checkbox" checked={brush.mirror} onChange={(e) => set({ mirror: e.target.checked })} />
        mirror{alone > 0 ? `, ${alone} alone` : ''}
      </label>
    </span>
  );
}

/** Fills the map from what the mesh carries: weights of its joints, materials, other maps, vertex colours. */
function FillFrom({ part, mapped, mesh }: BarProps & { mesh: PaintMesh }) {
  const dispatch = useAppDispatch();
  const { character } = useDesk();
  const { value } = useAppSelector((s) => s.view.brush);
  const { node } = part.mesh;
  const sources = useMemo(() => sourcesOf(character, node), [character, node]);
  const choices: readonly (readonly [string, () => Float64Array])[] = [
    ...sources.joints.map((j) => [j.name, () => fromJoint(character, node, mesh, j.node)] as const),
    ...sources.materials.map(
      (m) => [m.name, () => fromMaterial(character, node, mesh, m.primitive)] as const,
    ),
    ...otherMaps(part, mapped).map(
      (key) => [`the map of ${labelOf(part, key)}`, () => sharesOf(character, part, key)] as const,
    ),
    ...(sources.colours ? [['vertex colours', () => fromColours(character, node, mesh)] as const] : []),
  ];
  if (choices.length === 0) return null;
  return (
    <select
      aria-label="Fill from"
      title="Fills the map from a joint’s weights, a material, another map or vertex colours, times the value"
      value=""
      onChange={(e) => {
        const [name, make] = choices[Number(e.target.value)]!;
        const shares = make().map((s) => s * value);
        dispatch(
          keepShares(character, part.id, mapped, `Fill ${labelOf(part, mapped)} from ${name}`, shares),
        );
      }}
    >
      <option value="" disabled>
        fill from…
      </option>
      {choices.map(([name], k) => (
        <option key={k} value={k}>
          {name}
        </option>
      ))}
    </select>
  );
}

/** Presses that change the whole map. */
function Fills({ part, mapped, mesh, shares }: BarProps & { mesh: PaintMesh; shares: Float64Array }) {
  const dispatch = useAppDispatch();
  const { character } = useDesk();
  const { value } = useAppSelector((s) => s.view.brush);
  const byRim = () => {
    const far = fromRims(mesh, 0).map((d) => (d < Infinity ? d : 0));
    const most = far.reduce((m, d) => Math.max(m, d), 0);
    return most > 0 ? gradient(far, 0, most).map((s) => s * value) : shares;
  };
  const copied = () => mirrored(mesh, shares, symmetryOf(character, part.mesh.node).partners, 0, true);
  const fills: readonly (readonly [string, string, () => Float64Array])[] = [
    ['Fill', 'Gives every vertex the value', () => shares.map(() => value)],
    ['Invert', 'Turns high and low round', () => inverted(shares)],
    ['Grow', 'High values spread over their neighbours', () => grown(mesh, shares, true)],
    ['Shrink', 'Low values spread over their neighbours', () => grown(mesh, shares, false)],
    ['Soften all', 'Evens out all of it once', () => softened(mesh, shares)],
    ['From rim', 'From 0 at the shortest rim to the value farthest from it', byRim],
    ['Left to right', 'Copies the left half over the right one', copied],
  ];
  return (
    <span className="brush-row presses">
      <FillFrom part={part} mapped={mapped} mesh={mesh} />
      {fills.map(([name, title, make]) => (
        <button
          key={name}
          className="mini"
          title={title}
          onClick={() =>
            dispatch(keepShares(character, part.id, mapped, `${name}: ${labelOf(part, mapped)}`, make()))
          }
        >
          {name.toLowerCase()}
        </button>
      ))}
    </span>
  );
}
