import type { Refinement } from '@oscillum/core/model';
import { useAppSelector } from '../../../state/store';
import { AXES, STROKES } from './draw';
import { useRefineDesk } from './refineDesk';
import { useKeyActions } from './useKeyActions';

/** What is shown of the curves, and what can be done to their keys. */
export function CurveHead({
  shown,
  setShown,
  broken,
  onBroken,
  count,
  fit,
  commit,
  onPath,
  onSnap,
  onUntouched,
}: {
  shown: readonly boolean[];
  setShown: (shown: readonly boolean[]) => void;
  broken: boolean;
  onBroken: () => void;
  /** Chosen keys. */
  count: number;
  fit: () => void;
  commit: (step: Refinement) => void;
  onPath: (path: 'rotation' | 'translation') => void;
  onSnap: () => void;
  onUntouched: () => void;
}) {
  const desk = useRefineDesk();
  const { path, snap, untouched } = desk;
  const actions = useKeyActions(desk, commit);
  return (
    <div className="curve-head">
      <div className="pair">
        <select
          aria-label="Kind of curve"
          value={path}
          onChange={(e) => onPath(e.target.value as typeof path)}
        >
          <option value="rotation">Rotation, degrees</option>
          <option value="translation">Position</option>
        </select>
        <button className="mini" title="Show all values of these curves" onClick={fit}>
          Fit
        </button>
      </div>
      <Components shown={shown} setShown={setShown} />
      <KeyPresses count={count} actions={actions} />
      <SlopePresses count={count} broken={broken} onBroken={onBroken} slopes={actions.slopes} />
      <div className="presses">
        <button className="mini" aria-pressed={snap} title="Keys move by whole frames" onClick={onSnap}>
          Snap
        </button>
        <button
          className="mini"
          aria-pressed={untouched}
          title="Look at the bake as it came, here and on the stage"
          onClick={onUntouched}
        >
          Untouched bake
        </button>
      </div>
      <p className="muted small" role="status" style={{ margin: 0 }}>
        {desk.baking
          ? 'Baking the curves anew…'
          : untouched
            ? 'The bake as it came. Nothing can be changed in it.'
            : count > 0
              ? `${count === 1 ? 'A key' : `${count} keys`} chosen`
              : 'Press keys, or drag a box round them. Drag along the top for a span.'}
      </p>
    </div>
  );
}

type Actions = ReturnType<typeof useKeyActions>;

/** Which of x, y and z are drawn. */
function Components({
  shown,
  setShown,
}: {
  shown: readonly boolean[];
  setShown: (shown: readonly boolean[]) => void;
}) {
  return (
    <div className="pair axes" role="group" aria-label="Components">
      {AXES.map((axis, k) => (
        <button
          key={axis}
          className="mini"
          aria-pressed={shown[k]}
          title={`Show ${axis}, counted from the rest pose`}
          onClick={() => setShown(shown.map((v, i) => (i === k ? !v : v)))}
        >
          <svg width="20" height="6" aria-hidden>
            <line
              x1="0"
              x2="20"
              y1="3"
              y2="3"
              stroke={`var(--${STROKES[k]!.ink})`}
              strokeWidth="2"
              strokeDasharray={STROKES[k]!.dash.join(' ')}
            />
          </svg>
          {axis}
        </button>
      ))}
    </div>
  );
}

function KeyPresses({ count, actions }: { count: number; actions: Actions }) {
  const { copied } = useRefineDesk();
  const frame = useAppSelector((s) => Math.round(s.view.frame));
  const { insertAt, remove, copy, paste } = actions;
  return (
    <div className="presses">
      <button className="mini" title="A key on this frame (I)" onClick={() => insertAt(frame)}>
        Insert
      </button>
      <button className="mini" disabled={!count} title="Take keys out (Del)" onClick={remove}>
        Delete
      </button>
      <button className="mini" disabled={!count} title="Ctrl C" onClick={copy}>
        Copy
      </button>
      <button className="mini" disabled={!copied} title="At this frame (Ctrl V)" onClick={() => paste(false)}>
        Paste
      </button>
      <button
        className="mini"
        disabled={!copied}
        title="On the other side of the body, at this frame (Ctrl Shift V)"
        onClick={() => paste(true)}
      >
        Paste mirrored
      </button>
    </div>
  );
}

function SlopePresses({
  count,
  broken,
  onBroken,
  slopes,
}: {
  count: number;
  broken: boolean;
  onBroken: () => void;
  slopes: Actions['slopes'];
}) {
  return (
    <div className="presses" role="group" aria-label="Slopes of the chosen keys">
      <button
        className="mini"
        disabled={!count}
        title="Smooth through the neighbours, flat where it turns back"
        onClick={() => slopes('auto')}
      >
        Auto
      </button>
      <button className="mini" disabled={!count} onClick={() => slopes('flat')}>
        Flat
      </button>
      <button className="mini" disabled={!count} onClick={() => slopes('straight')}>
        Straight
      </button>
      <button
        className="mini"
        aria-pressed={broken}
        title="A slope's handle turns its own side alone"
        onClick={onBroken}
      >
        Broken
      </button>
    </div>
  );
}
