import { refsOf } from '../../../state/rows';
import { makePendulum, type Purpose } from '../../../state/parts/pendulum/edits';
import { sentenceOf } from '../../../state/edits';
import { useAppDispatch, useAppSelector } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { sayTrouble } from '../../kit/say';

const PURPOSES: readonly (readonly [Purpose, string, string, least: number])[] = [
  [
    'breathe',
    'Breathe',
    'They swell or lift with a drawn breath, each a little later than the one before.',
    1,
  ],
  ['sway', 'Sway', 'They rock to and fro about their z axis, each a little later.', 1],
  ['follow', 'Follow the first', 'The others turn as the first does, later and softer.', 2],
];

/** What else the selected joints could do, with one press: answer a signal together, as a pendulum. */
export function MakePendulum() {
  const dispatch = useAppDispatch();
  const { character } = useDesk();
  const joints = useAppSelector((s) => s.view.joints);
  if (joints.length === 0) return null;
  const make = (purpose: Purpose) => {
    try {
      dispatch(makePendulum(character.nodes, refsOf(character, joints), purpose));
    } catch (e) {
      sayTrouble(sentenceOf(e));
    }
  };
  return (
    <div className="float offer" role="region" aria-label="Make pendulum">
      <span>
        Or drive {joints.length === 1 ? 'it' : `these ${joints.length}`} by a <b>pendulum</b>:
      </span>
      <span className="presses">
        {PURPOSES.filter(([, , , least]) => joints.length >= least).map(([purpose, label, says]) => (
          <button key={purpose} className="mini" title={says} onClick={() => make(purpose)}>
            {label}
          </button>
        ))}
      </span>
    </div>
  );
}
