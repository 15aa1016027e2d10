import { useMemo } from 'react';
import {
  BODY_MAPS,
  BODY_PRESETS,
  BODY_SETTINGS,
  bodyInert,
  BodySettings,
  CELLS,
  densityOf,
  FULL_HOLD,
  youngOf,
  type BodyPart,
  type BodySettingKey,
} from '@oscillum/core/body';
import { lengthText } from '@oscillum/core/model';
import { cellsOf } from '@oscillum/core/simulate';
import { boxAbout } from '@oscillum/core/sheets';
import {
  bodySize,
  changeBodies,
  linkedWith,
  paintBody,
  putBodyPreset,
  removeBodyMap,
  startBodies,
} from '../../../state/parts/body/edits';
import { settingAt } from '../../../state/settingAt';
import { selectShot, useAppSelector } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { ResponseCard } from '../../kit/ResponseCard';
import { NumberRow } from '../../kit/Rows';
import { SettingGroups } from '../../kit/SettingGroups';
import { AnchorRows } from '../AnchorRows';
import { Breathe } from '../Breathe';
import type { PanelProps } from '../kind';
import { Copies } from './Copies';
import { TouchRows } from '../MindsRows';
import { PaintedRows } from '../PaintedRows';
import { PresetRow } from '../PresetRow';
import { StringRows } from './StringRows';
import { Tints } from '../Tints';

type BodyProps = Pick<PanelProps<BodyPart>, 'parts' | 'run'>;

const INITIAL = BodySettings.parse({});
const FIRST = ['amount', 'hold', 'droop', 'damping'] as const;
/** µs that a cell and a point of the surface take in a step, as measured (docs/performance.md), and steps a second. */
const PRICE = { cell: 3, point: 2.5 };
const RATE = 200;

/** A first answer to a dragged handle: held faster by as much, and damped by as much. */
const roughly = (part: BodyPart, at: number, faster: number, damped: number) => ({
  hold: Math.min(FULL_HOLD, Math.max(0.2, settingAt(part, 'hold', at) * faster)),
  holdDamping: Math.min(4, Math.max(0.01, settingAt(part, 'holdDamping', at) * damped)),
});

/** What the selected soft bodies are made of, how finely, and what they touch. */
export function BodyPanel({ parts, others, run }: PanelProps<BodyPart>) {
  const { character } = useDesk();
  const shot = useAppSelector(selectShot)!;
  const ids = parts.map((p) => p.id);
  const one = parts[0]!;
  const metres = shot.character.metresPerUnit;
  const size = useMemo(() => bodySize(character, one.mesh.node, metres), [character, one.mesh.node, metres]);
  return (
    <>
      <PresetRow presets={BODY_PRESETS} onPut={(preset) => run(putBodyPreset(ids, preset))} />
      <ResponseCard
        parts={parts}
        roughly={roughly}
        what="its middle after a quick step aside"
        still="Read the lane for what it does on this shot."
        run={run}
      />
      <SettingGroups
        table={BODY_SETTINGS}
        initial={INITIAL}
        parts={parts}
        length={size}
        first={FIRST}
        inert={(name) => bodyInert(one, shot, name as BodySettingKey)}
        extras={{
          Swing: <Cells parts={parts} run={run} />,
          Contact: (
            <TouchRows
              kinds={['chain', 'body']}
              parts={parts}
              onSet={(recipe) => run(changeBodies(ids, 'Set what it collides with', recipe))}
            />
          ),
        }}
        run={run}
      />
      <NumberRow
        label="Begins higher"
        says="Lifts its beginning alone; its animation stays as it is"
        unit="m"
        value={one.lift}
        onSet={(lift) =>
          run(changeBodies(ids, 'Set how high it begins', (p) => void (p.lift = Math.max(0, lift))))
        }
      />
      <Start parts={parts} run={run} />
      {parts.length === 1 && <StringRows part={one} run={run} />}
      <Tints tints={TINTS} />
      {parts.length === 1 && <Painted part={one} run={run} />}
      {parts.length === 1 && <Copies part={one} others={others} run={run} />}
      {parts.length === 1 && <Breathe part={parts[0]!} run={run} />}
      <AnchorRows parts={parts} run={run} />
    </>
  );
}

/** When they start, and what they are linked with. */
function Start({ parts, run }: BodyProps) {
  const shot = useAppSelector(selectShot)!;
  const ids = parts.map((p) => p.id);
  const one = parts[0]!;
  const linked = linkedWith(shot, one);
  return (
    <>
      <NumberRow
        label="Starts later by, frames"
        says="Its animation and its keys come so many frames later. Linked bodies go along with the first of them."
        whole
        value={one.start}
        onSet={(start) => run(startBodies(ids, start))}
      />
      {linked.length > 0 && (
        <p className="small">
          Linked with {linked.map((p) => p.name).join(', ')}: what is set here holds for all.{' '}
          <button
            className="mini"
            onClick={() => run(changeBodies(ids, 'Unlink', (p) => void (p.link = null)))}
          >
            unlink
          </button>
        </p>
      )}
    </>
  );
}

const TINTS = [
  [null, 'none', 'The mesh in its own colours'],
  ['stray', 'from its animation', 'How far each place is from its animation: darkest at a tenth of its size'],
  ['cells', 'cells', 'The cells it is filled with, where its animation has them'],
] as const;

/** How finely they are filled, what that costs, and how firm that makes them. */
function Cells({ parts, run }: BodyProps) {
  const { character } = useDesk();
  const shot = useAppSelector(selectShot)!;
  const frame = useAppSelector((s) => s.view.frame);
  const one = parts[0]!;
  const metres = shot.character.metresPerUnit;
  const { mesh, cells } = one;
  const filled = useMemo(() => cellsOf(character, { mesh, cells }, metres), [character, mesh, cells, metres]);
  const { lo, hi } = boxAbout(filled.lattice.rest);
  const density = densityOf(settingAt(one, 'density', frame));
  const young = youngOf(settingAt(one, 'droop', frame), density, hi[1]! - lo[1]!);
  const frames = shot.range.last - shot.range.first + 1;
  const each = filled.lattice.cells * PRICE.cell + filled.touch.points * PRICE.point;
  const seconds = (each * 1e-6 * RATE * frames) / shot.fps;
  return (
    <>
      <p className="muted small">
        {`Its stuff has a modulus of ${Number((young / 1000).toPrecision(2))} kPa; it weighs ${Number(
          (filled.volume * density).toPrecision(2),
        )} kg.`}
      </p>
      <NumberRow
        label="Cells along it"
        says="More cells bend and wrinkle finer, and take longer"
        whole
        value={cells}
        onSet={(n) =>
          run(
            changeBodies(
              parts.map((p) => p.id),
              'Set how finely it is filled',
              (p) => void (p.cells = Math.min(CELLS.most, Math.max(CELLS.least, n))),
            ),
          )
        }
      />
      <p className="muted small">
        {`${filled.lattice.cells} cells of ${lengthText(filled.lattice.size)}: about ${Number(seconds.toPrecision(1))} s for this shot.`}
      </p>
    </>
  );
}

/** What is painted over its mesh. */
function Painted({ part, run }: { part: BodyPart; run: PanelProps['run'] }) {
  const { character } = useDesk();
  return (
    <PaintedRows
      id={part.id}
      maps={BODY_MAPS.map((key) => ({
        key,
        label: key === 'hold' ? 'Hold' : 'Firmness',
        says: part.maps[key] ? null : 'the same everywhere',
      }))}
      onPaint={(key) => run(paintBody(character, part.id, key))}
      onRemove={(key) => run(removeBodyMap(part.id, key))}
    />
  );
}
