import { keepShake, regripped } from '../../../state/shake';
import type { ShakeHow } from '../../../state/shaken';
import { sentenceOf } from '../../../state/edits';
import { shotSlice } from '../../../state/shot';
import { selectShot, useAppDispatch, useAppSelector } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { NumberBox } from '../../kit/Fields';
import { sayTrouble } from '../../kit/say';

const TAKES = [
  [
    'joint',
    'a joint',
    'Takes the joint that is pressed: a chain’s, hair or a cloth is pulled, any other moves with the hand',
  ],
  ['figure', 'the whole figure', 'Takes the figure, wherever it is pressed'],
] as const;
const BY = [
  ['move', 'moves', 'The joint goes where the hand goes'],
  ['turn', 'turns', 'A drag sideways turns it about up, a drag up or down tips it'],
] as const;

/** How the hand takes hold, while nothing is shaken yet. */
function HowRows() {
  const dispatch = useAppDispatch();
  const how = useAppSelector((s) => s.view.shakeHow);
  const set = (change: Partial<ShakeHow>) => dispatch(viewSlice.actions.shakeSet(change));
  return (
    <div
      className="float offer shake"
      role="group"
      aria-label="How to shake"
      title="Press and drag on the stage: it plays, and what hangs from it answers."
    >
      <span className="presses">
        <span className="muted small">Press and drag: takes</span>
        {TAKES.map(([takes, name, says]) => (
          <button
            key={takes}
            className="mini"
            title={says}
            aria-pressed={how.takes === takes}
            onClick={() => set({ takes })}
          >
            {name}
          </button>
        ))}
        <span className="muted small">and</span>
        {BY.map(([by, name, says]) => (
          <button
            key={by}
            className="mini"
            title={says}
            aria-pressed={how.by === by}
            onClick={() => set({ by })}
          >
            {name}
          </button>
        ))}
        <button
          className="mini"
          title="The clip stands in its pose while you shake"
          aria-pressed={how.still}
          onClick={() => set({ still: !how.still })}
        >
          on a still pose
        </button>
      </span>
      <Grip />
    </div>
  );
}

/** How firmly a chain is held. */
function Grip() {
  const dispatch = useAppDispatch();
  const { strength, slip } = useAppSelector((s) => s.view.shakeHow);
  const shake = useAppSelector((s) => s.view.shake);
  const set = (change: Partial<Pick<ShakeHow, 'strength' | 'slip'>>) => {
    dispatch(viewSlice.actions.shakeSet(change));
    if (shake?.kind !== 'pull') return;
    dispatch(regripped(shake, change));
    dispatch(viewSlice.actions.shaken({ ...shake, pull: { ...shake.pull, ...change } }));
  };
  return (
    <span className="presses">
      <label className="muted small" title="How stiffly the hand holds a chain, hair or a cloth">
        grip{' '}
        <NumberBox
          label="Grip"
          unit="Hz"
          value={strength}
          onSet={(v) => set({ strength: Math.min(30, Math.max(0.1, v)) })}
        />{' '}
        Hz
      </label>
      <label className="muted small" title="It slips out of the hand when it is farther away; 0 for never">
        slips at{' '}
        <NumberBox
          label="Slips at"
          unit="m"
          value={slip >= 1e5 ? null : slip}
          placeholder="never"
          onSet={(v) => set({ slip: v > 0 ? Math.min(1e5, v) : 1e5 })}
        />{' '}
        m
      </label>
    </span>
  );
}

/** Shaking by hand: how it is done, and after it whether it is kept. */
export function ShakeCard() {
  const dispatch = useAppDispatch();
  const shot = useAppSelector(selectShot)!;
  const shake = useAppSelector((s) => s.view.shake);
  const shaking = useAppSelector((s) => s.view.shaking);
  const name = shake && (shake.kind === 'pull' ? shot.parts[shake.partId]?.name : shake.name);
  if (!shake || name === undefined) return shaking ? <HowRows /> : null;
  const [first, count] =
    shake.kind === 'pull'
      ? [shake.pull.first, shake.pull.path.length]
      : [shake.drawn.first, shake.drawn.values.length];
  const keep = () => {
    try {
      dispatch(keepShake(shake));
      dispatch(viewSlice.actions.shaken(null));
    } catch (e) {
      sayTrouble(sentenceOf(e));
    }
  };
  return (
    <div className="float offer" role="region" aria-label="Shaken by hand">
      <span>
        <b>{name}</b> shaken on frames {first} to {first + count - 1}
        {shake.kind === 'body' && '; it comes back to the clip in 8 frames'}
      </span>
      {shake.kind === 'pull' && <Grip />}
      <button className="press" onClick={keep}>
        {shake.kind === 'pull' ? 'Keep it' : 'Keep as keys'}
      </button>
      <button
        className="soft"
        onClick={() => {
          dispatch(shotSlice.actions.previewed(null));
          dispatch(viewSlice.actions.shaken(null));
        }}
      >
        Let it go
      </button>
    </div>
  );
}
