import { useAppDispatch, useAppSelector } from '../../state/store';
import { viewSlice, type Tint } from '../../state/view';

/** By what meshes are tinted on the stage: each way with its name and what it shows. */
export function Tints({ tints }: { tints: readonly (readonly [Tint | null, string, string])[] }) {
  const dispatch = useAppDispatch();
  const tint = useAppSelector((s) => s.view.tint);
  return (
    <div className="painted" role="group" aria-label="Tint">
      <span>Tint</span>
      <span className="presses">
        {tints.map(([how, name, says]) => (
          <button
            key={name}
            className="mini"
            title={says}
            aria-pressed={tint === how}
            onClick={() => dispatch(viewSlice.actions.tinted(how))}
          >
            {name}
          </button>
        ))}
      </span>
    </div>
  );
}
