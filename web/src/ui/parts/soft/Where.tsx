import { Slider } from '@mantine/core';
import { meshesOf } from '@oscillum/core/sheets';
import { lengthText } from '@oscillum/core/model';
import type { RegionPart, Where as Place } from '@oscillum/core/soft';
import { changeRegions, paintRegion, previewRegions } from '../../../state/parts/soft/edits';
import { useAppSelector, type Thunk } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { JointRow } from '../../kit/JointRow';
import { CheckRow, ChoiceRow, NumberRow, Row } from '../../kit/Rows';

interface WhereProps {
  part: RegionPart;
  /** How large it is, m. */
  size: number;
  run: (t: Thunk) => void;
}

/** Where a region is soft: a ball, a joint's weights or its own paint, and the meshes it spans. */
export function Where({ part, size, run }: WhereProps) {
  const { character } = useDesk();
  const painting = useAppSelector((s) => s.view.painting?.part === part.id);
  const { where } = part;
  const put = (name: string, to: Place) =>
    run(changeRegions([part.id], name, (p) => void (p.where = structuredClone(to))));
  const ball: Place = { by: 'ball', at: [0, 0, 0], inner: size / 8, outer: size / 2, mirrored: false };
  return (
    <>
      <h3>Where it is soft</h3>
      <ChoiceRow
        label="Soft by"
        value={where.by}
        choices={[
          ['ball', 'a ball'],
          ['joint', 'what a joint weighs'],
          ['map', 'its paint'],
        ]}
        onSet={(by) => {
          if (by === 'map') return run(paintRegion(character, part.id));
          if (by === 'ball') return put('Soft within a ball', where.by === 'ball' ? where : ball);
          const node = character.skins[character.nodes[part.mesh.node]!.skin]?.joints[0] ?? part.mesh.node;
          put('Soft by a joint', { by: 'joint', joint: { node, name: character.nodes[node]!.name } });
        }}
      />
      {where.by === 'ball' && <BallRows part={part} where={where} size={size} run={run} />}
      {where.by === 'joint' && (
        <JointRow
          label="Joint"
          value={where.joint.node}
          onSet={(joint) => joint && put('Soft by a joint', { by: 'joint', joint })}
        />
      )}
      <div className="presses">
        <button
          className="mini"
          aria-pressed={painting}
          aria-label="Paint softness"
          title="From then on its paint says what moves, on its first mesh alone"
          onClick={() => run(paintRegion(character, part.id))}
        >
          paint it
        </button>
      </div>
      {where.by !== 'map' && <Spans part={part} run={run} />}
    </>
  );
}

/** The middle of a ball and its reaches, which are dragged while it plays. */
function BallRows({ part, where, size, run }: WhereProps & { where: Extract<Place, { by: 'ball' }> }) {
  const set = (name: string, to: Partial<typeof where>, final = true) => {
    const recipe = (p: RegionPart) => {
      if (p.where.by === 'ball') Object.assign(p.where, to);
    };
    run(final ? changeRegions([part.id], name, recipe) : previewRegions([part.id], recipe));
  };
  const most = Number((2 * Math.max(size, where.outer)).toPrecision(2));
  const reaches = [
    ['inner', 'Inner reach', 'Fully soft up to here'],
    ['outer', 'Outer reach', 'Glued from here on'],
  ] as const;
  const moved = (key: 'inner' | 'outer', v: number) =>
    key === 'inner'
      ? { inner: v, outer: Math.max(v, where.outer) }
      : { outer: v, inner: Math.min(v, where.inner) };
  return (
    <>
      {reaches.map(([key, label, says]) => (
        <Row key={key} label={label} says={says}>
          <span className="reach">
            <Slider
              aria-label={label}
              thumbLabel={label}
              size="xs"
              min={0}
              max={most}
              step={most / 200}
              label={null}
              value={where[key]}
              onChange={(v) => set(`Set the ${label.toLowerCase()}`, moved(key, v), false)}
              onChangeEnd={(v) => set(`Set the ${label.toLowerCase()}`, moved(key, Number(v.toPrecision(3))))}
            />
            <span className="muted small">{lengthText(where[key])}</span>
          </span>
        </Row>
      ))}
      {(['x', 'y', 'z'] as const).map((axis, a) => (
        <NumberRow
          key={axis}
          label={`Middle, ${axis}`}
          unit="m"
          value={where.at[a]!}
          onSet={(v) => set('Move its ball', { at: where.at.with(a, v) as typeof where.at })}
        />
      ))}
      <CheckRow
        label="On both sides"
        says="Another ball across the middle of the character, where x is 0"
        value={where.mirrored}
        onSet={(mirrored) => set('Set whether it is on both sides', { mirrored })}
      />
    </>
  );
}

/** Further meshes that the same ball or joint takes. */
function Spans({ part, run }: Pick<WhereProps, 'part' | 'run'>) {
  const { character } = useDesk();
  const others = meshesOf(character).filter((m) => m.node !== part.mesh.node);
  if (others.length === 0) return null;
  return (
    <details className="regions">
      <summary>
        Meshes it spans <span className="muted small">{1 + part.also.length}</span>
      </summary>
      <div className="minds" role="group" aria-label="Meshes it spans">
        {others.map(({ node, name }) => (
          <CheckRow
            key={node}
            label={name}
            value={part.also.some((m) => m.node === node)}
            onSet={(on) =>
              run(
                changeRegions([part.id], 'Set the meshes it spans', (p) => {
                  p.also = on ? [...p.also, { node, name }] : p.also.filter((m) => m.node !== node);
                }),
              )
            }
          />
        ))}
      </div>
    </details>
  );
}
