import { inOrder, withKey, type AddedMotion } from '@oscillum/core/model';
import { actionRange, type Shot } from '@oscillum/core/shot';
import { motionAmount } from '@oscillum/core/simulate';
import { addMotion, addPreset, MOTION_PRESETS } from '../../state/addedMotion';
import { change, preview, setShot, type Recipe } from '../../state/edits';
import { selectShot, useAppDispatch, useAppSelector, type Thunk } from '../../state/store';
import { viewSlice } from '../../state/view';
import { useDesk } from '../kit/desk';
import { KeysCurve } from '../kit/KeysCurve';
import { CheckRow, ChoiceRow, NumberRow } from '../kit/Rows';

const kindsOf = ({ path }: AddedMotion) =>
  [
    ['swing', 'to and fro'],
    ['turn', path === 'rotation' ? 'turns steadily' : 'moves steadily'],
    ['circle', 'round in a circle'],
    ['keys', 'by keys of its own'],
  ] as const;
const unitOf = ({ path }: AddedMotion) => (path === 'rotation' ? '°' : 'm');

const AXES: Record<string, [number, number, number]> = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] };
const axisName = (axis: readonly number[]): string =>
  Object.keys(AXES).find((k) => AXES[k]!.every((x, i) => x === axis[i])) ?? 'own';

/** Whether a motion ends where it begins, so that a loop can close. */
function closes(m: AddedMotion): boolean {
  const whole = (x: number) => Math.abs(x - Math.round(x)) < 1e-6;
  if (m.kind === 'turn') return m.path === 'rotation' ? whole((m.amount * m.count) / 360) : m.amount === 0;
  if (m.kind !== 'keys') return whole(m.count);
  const keys = [...m.keys].sort((a, b) => a.frame - b.frame);
  return keys.length < 2 || keys[0]!.value === keys.at(-1)!.value;
}

/** Motion added to the clip where it has too little for chains to follow: by a helper, or keyed on the stage. */
export function AddedMotionList({ run }: { run: (t: Thunk) => void }) {
  const { character } = useDesk();
  const dispatch = useAppDispatch();
  const shot = useAppSelector(selectShot)!;
  const joint = useAppSelector((s) => s.view.joints.at(-1));
  const open = useAppSelector((s) => (s.view.thing?.kind === 'motion' ? s.view.thing.id : ''));
  const choose = (id: string) => dispatch(viewSlice.actions.thingChosen(id ? { kind: 'motion', id } : null));
  const edit: Edit = (name, id, recipe, final = true) => {
    const on: Recipe = (d) => void (d.addedMotions[id] && recipe(d.addedMotions[id] as AddedMotion));
    run(final ? change(name, on) : preview(on));
  };
  const name = joint === undefined ? '' : character.nodes[joint]!.name || `joint ${joint}`;
  return (
    <>
      <h3>Added motion</h3>
      <CheckRow
        label="In place"
        value={shot.inPlace}
        says="Takes out how the clip travels over the range, so that it can loop where it stands."
        onSet={(inPlace) => run(setShot(inPlace ? 'Keep it in place' : 'Let it travel', { inPlace }))}
      />
      <div className="presses" role="group" aria-label="Add motion">
        {MOTION_PRESETS.map((preset) => (
          <button
            key={preset.name}
            className="mini"
            title={`${preset.says}${joint === undefined ? '' : ` Of ${name}.`}`}
            onClick={() => run(addPreset(character, shot, preset, joint))}
          >
            {preset.name}
          </button>
        ))}
        <button
          className="mini"
          disabled={joint === undefined}
          title="The selected joint turns, on top of the clip"
          onClick={() => run(addMotion(character, shot, joint!, name, {}))}
        >
          turn
        </button>
        <button
          className="mini"
          disabled={joint === undefined}
          title="The selected joint moves, on top of the clip"
          onClick={() =>
            run(
              addMotion(character, shot, joint!, name, {
                path: 'translation',
                amount: 0.05,
                axis: [0, 1, 0],
              }),
            )
          }
        >
          move
        </button>
      </div>
      {joint === undefined && <p className="muted small">Select a joint for a turn or a move of its own.</p>}
      {inOrder(shot.addedMotions).map((m) => (
        <details key={m.id} open={open === m.id} className="thing">
          <summary
            onClick={(e) => {
              e.preventDefault();
              choose(open === m.id ? '' : m.id);
            }}
          >
            <b>{m.name}</b> <span className="muted">{kindsOf(m).find(([kind]) => kind === m.kind)![1]}</span>
          </summary>
          <MotionRows motion={m} shot={shot} edit={edit} />
          <button
            className="plain muted"
            onClick={() => run(change('Remove added motion', (d) => void delete d.addedMotions[m.id]))}
          >
            Remove
          </button>
        </details>
      ))}
    </>
  );
}

/** A change of one motion; not final while a hand is still on it. */
type Edit = (name: string, id: string, recipe: (m: AddedMotion) => void, final?: boolean) => void;

/** How a motion goes, and whether it ends as it begins. */
function MotionRows({ motion: m, shot, edit }: { motion: AddedMotion; shot: Shot; edit: Edit }) {
  const turns = m.path === 'rotation';
  return (
    <>
      <CheckRow
        label="Muted"
        value={m.muted}
        onSet={(muted) => edit('Mute added motion', m.id, (x) => void (x.muted = muted))}
      />
      <ChoiceRow
        label="Goes"
        value={m.kind}
        choices={kindsOf(m)}
        onSet={(kind) => edit('Choose how it goes', m.id, (x) => void (x.kind = kind))}
      />
      <ChoiceRow
        label={m.kind === 'circle' ? 'Round' : turns ? 'About' : 'Along'}
        value={axisName(m.axis)}
        says="Or drag the end of the dashed line on the stage."
        choices={[
          ['x', turns ? 'its x axis' : 'x, sideways'],
          ['y', turns ? 'its y axis' : 'y, up'],
          ['z', turns ? 'its z axis' : 'z, forward'],
          ...(axisName(m.axis) === 'own' ? ([['own', 'an axis of its own']] as const) : []),
        ]}
        onSet={(v) => AXES[v] && edit('Set axis', m.id, (x) => void (x.axis = AXES[v]!))}
      />
      {m.kind === 'keys' ? (
        <KeyedMotion motion={m} shot={shot} edit={edit} />
      ) : (
        <HelperRows motion={m} edit={edit} />
      )}
      <p className="muted small">
        {closes(m) ? (
          'It ends as it begins, so a loop can close.'
        ) : (
          <>
            It does not end as it begins.{' '}
            {m.kind !== 'keys' && (
              <button className="plain" onClick={() => edit('Close the motion', m.id, close)}>
                <u>Close it</u>
              </button>
            )}
          </>
        )}
      </p>
    </>
  );
}

/** A motion that goes by itself. */
function HelperRows({ motion: m, edit }: { motion: AddedMotion; edit: Edit }) {
  return (
    <>
      <NumberRow
        label="Amount"
        unit={unitOf(m)}
        value={m.amount}
        onSet={(v) => edit('Set amount', m.id, (x) => void (x.amount = v))}
      />
      <NumberRow
        label="Times over the range"
        value={m.count}
        onSet={(v) => edit('Set count', m.id, (x) => void (x.count = v))}
      />
      <NumberRow
        label="Ahead by, times"
        value={m.phase}
        says="Phase: a quarter is 0.25"
        onSet={(v) => edit('Set phase', m.id, (x) => void (x.phase = v))}
      />
    </>
  );
}

/** The nearest count (or whole turns) with which a motion ends as it begins. */
function close(m: AddedMotion): void {
  if (m.kind === 'turn' && m.path === 'rotation')
    m.amount = 360 * Math.max(1, Math.round(Math.abs(m.amount) / 360)) * (Math.sign(m.amount) || 1);
  if (m.kind === 'turn' && m.path === 'translation') m.kind = 'swing';
  m.count = Math.max(1, Math.round(Math.abs(m.count))) * (Math.sign(m.count) || 1);
}

function KeyedMotion({ motion: m, shot, edit }: { motion: AddedMotion; shot: Shot; edit: Edit }) {
  const frame = useAppSelector((s) => Math.round(s.view.frame));
  const now = Number(motionAmount(m, actionRange(shot))(frame).toFixed(4));
  return (
    <>
      <NumberRow
        label={`On frame ${frame}`}
        unit={unitOf(m)}
        says="Sets a key on this frame; or drag the handle at the joint on the stage."
        value={now}
        onSet={(v) =>
          edit(`Key the motion on frame ${frame}`, m.id, (x) => void (x.keys = withKey(x.keys, frame, v)))
        }
      />
      <KeysCurve
        label="Keys of the motion"
        unit={unitOf(m)}
        keys={m.keys}
        still={0}
        limits={[-1e6, 1e6]}
        onSet={(keys, final) => edit('Key the motion', m.id, (x) => void (x.keys = keys), final)}
      />
      <CheckRow
        label="Begins again after its last key"
        value={m.cycles}
        onSet={(cycles) => edit('Cycle the motion', m.id, (x) => void (x.cycles = cycles))}
      />
    </>
  );
}
