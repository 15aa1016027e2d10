import { useAppDispatch, useAppSelector } from '../../state/store';
import { viewSlice } from '../../state/view';

/** How many times as far off their skin regions and skins are drawn. */
export function Larger() {
  const dispatch = useAppDispatch();
  const larger = useAppSelector((s) => s.view.larger);
  return (
    <div className="painted" role="group" aria-label="Drawn larger">
      <span title="On the stage alone: what is baked stays as it is">Drawn larger</span>
      <span className="presses">
        {[1, 2, 5, 10].map((times) => (
          <button
            key={times}
            className="mini"
            title={times === 1 ? 'As it is' : `${times} times as far off its skin, on the stage alone`}
            aria-pressed={larger === times}
            onClick={() => dispatch(viewSlice.actions.largerSet(times))}
          >
            × {times}
          </button>
        ))}
      </span>
    </div>
  );
}
