import { inOrder, SourceTurn, SourceTurnId, withKey } from '@oscillum/core/model';
import type { Shot } from '@oscillum/core/shot';
import { turnAngle } from '@oscillum/core/simulate';
import { change, setShot } from '../../../state/edits';
import { selectShot, useAppDispatch, useAppSelector, type Thunk } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { useDesk } from '../../kit/desk';
import { freshId, lastOrder } from '../../kit/fresh';
import { KeysText } from '../../kit/ListText';
import { CheckRow, ChoiceRow, NumberRow } from '../../kit/Rows';

const KINDS = [
  ['swing', 'swings to and fro'],
  ['turn', 'turns steadily'],
  ['circle', 'goes round in a circle'],
  ['keys', 'by keys of its own'],
] as const;

const AXES: Record<string, [number, number, number]> = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] };
const axisName = (axis: readonly number[]): string =>
  Object.keys(AXES).find((k) => AXES[k]!.every((x, i) => x === axis[i])) ?? 'own';

/** Whether a turn ends where it begins, so that a loop can close. */
function closes(turn: SourceTurn): boolean {
  const whole = (x: number) => Math.abs(x - Math.round(x)) < 1e-6;
  if (turn.kind === 'turn') return whole((turn.amount * turn.count) / 360);
  if (turn.kind !== 'keys') return whole(turn.count);
  const keys = [...turn.keys].sort((a, b) => a.frame - b.frame);
  return keys.length < 2 || keys[0]!.value === keys.at(-1)!.value;
}

/** Turns added to the clip where it has too little for chains to follow: by a helper, or keyed on the stage. */
export function SourceTurns({ run }: { run: (t: Thunk) => void }) {
  const { character } = useDesk();
  const dispatch = useAppDispatch();
  const shot = useAppSelector(selectShot)!;
  const joint = useAppSelector((s) => s.view.joints.at(-1));
  const open = useAppSelector((s) => (s.view.thing?.kind === 'turn' ? s.view.thing.id : ''));
  const choose = (id: string) => dispatch(viewSlice.actions.thingChosen(id ? { kind: 'turn', id } : null));
  const edit: Edit = (name, id, recipe) =>
    run(change(name, (d) => void (d.sourceTurns[id] && recipe(d.sourceTurns[id] as SourceTurn))));
  const add = () => {
    if (joint === undefined) return;
    const id = freshId('t');
    const name = character.nodes[joint]!.name;
    const turn = SourceTurn.parse({
      id: SourceTurnId.parse(id),
      name: name || `joint ${joint}`,
      order: lastOrder(shot.sourceTurns),
      joint: { node: joint, name },
    });
    run(change(`Add a turn of ${turn.name}`, (d) => void (d.sourceTurns[id] = turn)));
    choose(id);
  };
  return (
    <>
      <h3>Source motion</h3>
      <CheckRow
        label="In place"
        value={shot.inPlace}
        says="Takes out how the clip travels over the range, so that it can loop where it stands."
        onSet={(inPlace) => run(setShot(inPlace ? 'Keep it in place' : 'Let it travel', { inPlace }))}
      />
      <div className="presses">
        <button
          className="press"
          disabled={joint === undefined}
          title="Gives the selected joint a motion of its own on top of the clip, for chains below it to follow"
          onClick={add}
        >
          Add a turn
        </button>
        {joint === undefined && <span className="muted small">Select a joint first.</span>}
      </div>
      {inOrder(shot.sourceTurns).map((t) => (
        <details key={t.id} open={open === t.id} className="thing">
          <summary
            onClick={(e) => {
              e.preventDefault();
              choose(open === t.id ? '' : t.id);
            }}
          >
            <b>{t.name}</b> <span className="muted">{KINDS.find(([kind]) => kind === t.kind)![1]}</span>
          </summary>
          <TurnRows turn={t} shot={shot} edit={edit} />
          <button
            className="plain muted"
            onClick={() => run(change('Remove turn', (d) => void delete d.sourceTurns[t.id]))}
          >
            Remove
          </button>
        </details>
      ))}
    </>
  );
}

type Edit = (name: string, id: string, recipe: (t: SourceTurn) => void) => void;

/** How a turn goes, and whether it ends as it begins. */
function TurnRows({ turn: t, shot, edit }: { turn: SourceTurn; shot: Shot; edit: Edit }) {
  return (
    <>
      <CheckRow
        label="Muted"
        value={t.muted}
        onSet={(muted) => edit('Mute turn', t.id, (x) => void (x.muted = muted))}
      />
      <ChoiceRow
        label="Moves"
        value={t.kind}
        choices={KINDS}
        onSet={(kind) => edit('Choose how it turns', t.id, (x) => void (x.kind = kind))}
      />
      <ChoiceRow
        label={t.kind === 'circle' ? 'Round' : 'About'}
        value={axisName(t.axis)}
        choices={[
          ['x', 'its x axis'],
          ['y', 'its y axis'],
          ['z', 'its z axis'],
          ...(axisName(t.axis) === 'own' ? ([['own', 'an axis of its own']] as const) : []),
        ]}
        onSet={(v) => AXES[v] && edit('Set axis', t.id, (x) => void (x.axis = AXES[v]!))}
      />
      {t.kind === 'keys' ? (
        <KeyedTurn turn={t} shot={shot} edit={edit} />
      ) : (
        <HelperRows turn={t} edit={edit} />
      )}
      <p className="muted small">
        {closes(t) ? (
          'It ends as it begins, so a loop can close.'
        ) : (
          <>
            It does not end as it begins.{' '}
            {t.kind !== 'keys' && (
              <button className="plain" onClick={() => edit('Close the turn', t.id, close)}>
                <u>Close it</u>
              </button>
            )}
          </>
        )}
      </p>
    </>
  );
}

/** A turn that goes by itself. */
function HelperRows({ turn: t, edit }: { turn: SourceTurn; edit: Edit }) {
  return (
    <>
      <NumberRow
        label="Amount"
        unit="°"
        value={t.amount}
        onSet={(v) => edit('Set amount', t.id, (x) => void (x.amount = v))}
      />
      <NumberRow
        label="Times over the range"
        value={t.count}
        onSet={(v) => edit('Set count', t.id, (x) => void (x.count = v))}
      />
      <NumberRow
        label="Ahead by, times"
        value={t.phase}
        says="Phase: a quarter is 0.25"
        onSet={(v) => edit('Set phase', t.id, (x) => void (x.phase = v))}
      />
    </>
  );
}

/** The nearest count (or whole turns) with which a turn ends as it begins. */
function close(t: SourceTurn): void {
  if (t.kind === 'turn')
    t.amount = 360 * Math.max(1, Math.round(Math.abs(t.amount) / 360)) * (Math.sign(t.amount) || 1);
  t.count = Math.max(1, Math.round(Math.abs(t.count))) * (Math.sign(t.count) || 1);
}

function KeyedTurn({ turn, shot, edit }: { turn: SourceTurn; shot: Shot; edit: Edit }) {
  const frame = useAppSelector((s) => Math.round(s.view.frame));
  const angle = Number(turnAngle(turn, shot.range)(frame).toFixed(2));
  return (
    <>
      <NumberRow
        label={`On frame ${frame}`}
        unit="°"
        says="Sets a key on this frame; or drag the handle at the joint on the stage."
        value={angle}
        onSet={(v) =>
          edit(`Key the turn on frame ${frame}`, turn.id, (x) => void (x.keys = withKey(x.keys, frame, v)))
        }
      />
      <KeysText
        label="Keys, °"
        keys={turn.keys}
        onSet={(keys) => edit('Key the turn', turn.id, (x) => void (x.keys = keys))}
      />
      <CheckRow
        label="Begins again after its last key"
        value={turn.cycles}
        onSet={(cycles) => edit('Cycle the turn', turn.id, (x) => void (x.cycles = cycles))}
      />
    </>
  );
}
