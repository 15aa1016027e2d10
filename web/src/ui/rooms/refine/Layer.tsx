import type { Refinement } from '@oscillum/core/model';
import { channelsOf, partsInOrder } from '@oscillum/core/shot';
import { useAppDispatch, useAppSelector, type Thunk } from '../../../state/store';
import { muteLayer, muteRefinement, removeRefinements } from '../../../state/refine';
import { sentenceOf } from '../../../state/edits';
import { viewSlice } from '../../../state/view';
import { BakeInto } from '../../desk/BakeInto';
import { sayTrouble } from '../../kit/say';
import { useRefineDesk } from './refineDesk';

/** What is laid on the bake, step by step, and whether it still fits. */
export function Layer() {
  const dispatch = useAppDispatch();
  const { refine } = useAppSelector((s) => s.shot.shot)!;
  const run = (thunk: Thunk) => {
    try {
      dispatch(thunk);
    } catch (e) {
      sayTrouble(sentenceOf(e));
    }
  };
  const { steps, muted } = refine;
  return (
    <>
      <h3>Edits</h3>
      <Misfits run={run} />
      {steps.length === 0 ? (
        <p className="muted small" style={{ margin: 0 }}>
          Nothing yet. What you do here stays apart from the bake, and is laid on it again when it changes.
        </p>
      ) : (
        <>
          <label className="check">
            <input type="checkbox" checked={!muted} onChange={() => run(muteLayer(!muted))} />
            all of it
          </label>
          <ol className="steps">
            {steps.map((s) => (
              <StepLine key={s.id} step={s} muted={muted} run={run} />
            ))}
          </ol>
          <IntoTheClip />
        </>
      )}
    </>
  );
}

/** Makes what was refined of the clip's own keys part of the clip, so that what is simulated follows it. */
function IntoTheClip() {
  const shot = useAppSelector((s) => s.shot.shot)!;
  const moving = channelsOf(partsInOrder(shot).filter((p) => !p.muted));
  const settled = shot.refine.steps.some(
    (s) => !s.muted && s.channels.some((c) => !moving({ node: c.joint.node, path: c.path })),
  );
  if (shot.refine.muted || !settled) return null;
  return (
    <BakeInto
      ids={[]}
      title="They become keys of the clip, and what is simulated follows them. Those of what is simulated stay here."
      label="Bake these into the clip"
    />
  );
}

/** What no longer fits the bake it was laid on. */
function Misfits({ run }: { run: (thunk: Thunk) => void }) {
  const { misfits, nameOf, accept } = useRefineDesk();
  if (misfits.length === 0) return null;
  return (
    <div className="notice bad" role="alert">
      The bake has changed under {misfits.length === 1 ? 'a refinement' : `${misfits.length} refinements`}:
      <ul className="misfits">
        {misfits.map((m) => (
          <li key={m.step}>
            frames {m.first}–{m.last}: {nameOf(m.node)} is{' '}
            {m.path === 'rotation' ? `${m.by.toFixed(0)}°` : m.by.toPrecision(2)} from what it was
          </li>
        ))}
      </ul>
      <span className="pair">
        <button className="soft" onClick={() => run(() => accept())}>
          They fit
        </button>
        <button
          className="soft"
          onClick={() =>
            run(
              removeRefinements(
                misfits.map((m) => m.step),
                'Remove what no longer fits',
              ),
            )
          }
        >
          Remove them
        </button>
      </span>
    </div>
  );
}

/** One step: whether it counts, what it is laid on, and gone. */
function StepLine({
  step: s,
  muted,
  run,
}: {
  step: Refinement;
  muted: boolean;
  run: (thunk: Thunk) => void;
}) {
  const dispatch = useAppDispatch();
  return (
    <li data-muted={s.muted || muted}>
      <input
        type="checkbox"
        aria-label={`${s.name} counts`}
        checked={!s.muted}
        disabled={muted}
        onChange={() => run(muteRefinement(s.id))}
      />
      <button
        className="plain"
        title="Show the joints it is laid on"
        onClick={() => {
          dispatch(viewSlice.actions.partsSelected({ parts: [] }));
          dispatch(viewSlice.actions.jointsSelected({ joints: s.channels.map((c) => c.joint.node) }));
        }}
      >
        {s.name}
      </button>
      <button
        className="plain"
        aria-label={`Remove ${s.name}`}
        onClick={() => run(removeRefinements([s.id], `Remove “${s.name}”`.slice(0, 120)))}
      >
        ×
      </button>
    </li>
  );
}
