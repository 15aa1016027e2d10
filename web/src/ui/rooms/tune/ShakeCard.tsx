import { keepShake, sentenceOf } from '../../../state/edits';
import { shotSlice } from '../../../state/shot';
import { selectShot, useAppDispatch, useAppSelector } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { sayTrouble } from '../../kit/say';

/** After a chain was shaken by hand: keep the pull, or let it go. */
export function ShakeCard() {
  const dispatch = useAppDispatch();
  const shot = useAppSelector(selectShot)!;
  const shake = useAppSelector((s) => s.view.shake);
  const shaking = useAppSelector((s) => s.view.shaking);
  const part = shake && shot.parts[shake.partId];
  if (!shake || !part)
    return shaking ? (
      <p className="float offer" style={{ margin: 0 }}>
        Press on a joint of a chain and drag: it plays, and the chain answers your hand.
      </p>
    ) : null;
  const { first, path } = shake.pull;
  const keep = () => {
    try {
      dispatch(keepShake(shake.partId, shake.pull));
    } catch (e) {
      sayTrouble(sentenceOf(e));
    }
  };
  return (
    <div className="float offer" role="region" aria-label="Shaken by hand">
      <span>
        <b>{part.name}</b> shaken on frames {first} to {first + path.length - 1}
      </span>
      <button className="press" onClick={keep}>
        Keep it
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
