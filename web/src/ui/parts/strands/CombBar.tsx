import { useEffect, useRef } from 'react';
import { useStore } from 'react-redux';
import { COMBS } from '@oscillum/core/simulate';
import type { StrandsPart } from '@oscillum/core/strands';
import type { CombHow } from '../../../state/brushes';
import { selectShot, useAppDispatch, useAppSelector, type State } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { useDesk } from '../../kit/desk';
import { NumberBox } from '../../kit/Fields';
import { CombTool, NEW } from './combTool';

const DOES: readonly CombHow['does'][] = [...COMBS, 'draw', 'freeze', 'grow along'];
const SAYS: Record<CombHow['does'], string> = {
  comb: 'Drags hair along; it keeps its length',
  lift: 'Raises it off the skin',
  smooth: 'Takes kinks out of it',
  clump: 'Draws what is under the brush together',
  part: 'Draw a parting: hair goes to both sides of the stroke',
  straighten: 'Takes curls and bends out of it',
  twist: 'Takes it round the way it leaves the skin',
  lengthen: 'Makes it longer',
  cut: 'Cuts it where the brush reaches it first',
  draw: 'Draw a guide from the skin on',
  freeze: 'Brush what is to be left alone',
  'grow along': 'Draw on the skin which way it grows: all of it grows anew, leaning that way',
};

const WHAT = [
  [false, 'its groom', 'Strokes change how it is groomed, on all frames'],
  [true, 'this frame', 'Strokes set how it stands on this frame, as a pose that it comes to and goes from'],
] as const;

/** The brush for hair, over the stage, while some is brushed. */
export function CombBar() {
  const part = useAppSelector((s) => (s.view.combing ? selectShot(s)?.parts[s.view.combing] : undefined));
  return part?.kind === 'strands' ? <Bar part={part} /> : null;
}

function Bar({ part }: { part: StrandsPart }) {
  const dispatch = useAppDispatch();
  const { character, stage } = useDesk();
  const store = useStore<State>();
  const how = useAppSelector((s) => s.view.comb);
  const frozen = useAppSelector((s) => s.view.frozen);
  const frame = useAppSelector((s) => s.view.frame);
  const tool = useRef<CombTool | null>(null);
  useEffect(() => {
    const drawn = stage.current;
    tool.current = drawn && new CombTool(drawn.host, drawn, character, store);
    return () => tool.current?.dispose();
  }, [stage, character, store]);
  // Other rooms show what is simulated again.
  useEffect(
    () => () => {
      if (!location.pathname.endsWith('/tune')) dispatch(viewSlice.actions.combingSet(null));
    },
    [dispatch],
  );
  // Once the stage has drawn the hair as it is now.
  useEffect(() => {
    const asked = requestAnimationFrame(() => requestAnimationFrame(() => tool.current?.show()));
    return () => cancelAnimationFrame(asked);
  }, [part.groom, part.poses, how.pose, frozen, frame]);
  const set = (to: Partial<CombHow>) => dispatch(viewSlice.actions.combSet(to));
  return (
    <div className="float brush-bar" role="region" aria-label="Brush hair">
      <span className="brush-row">
        <b>Brush</b> {part.groom.points.length} {part.groom.points.length === 1 ? 'guide' : 'guides'}
        <span className="presses">
          {DOES.filter((does) => does !== 'grow along' || how.does === does).map((does) => (
            <button
              key={does}
              className="plain"
              title={SAYS[does]}
              aria-pressed={how.does === does}
              disabled={how.pose && NEW.has(does)}
              onClick={() => set({ does })}
            >
              {does}
            </button>
          ))}
        </span>
        <button
          className="plain"
          title="Ends brushing (Esc)"
          onClick={() => dispatch(viewSlice.actions.combingSet(null))}
        >
          done
        </button>
      </span>
      <Numbers how={how} set={set} />
    </div>
  );
}

/** How large and strong the brush is, and what it leaves alone. */
function Numbers({ how, set }: { how: CombHow; set: (to: Partial<CombHow>) => void }) {
  const dispatch = useAppDispatch();
  const frozen = useAppSelector((s) => s.view.frozen);
  return (
    <span className="brush-row">
      radius
      <NumberBox
        label="Radius, px"
        value={Math.round(how.radius)}
        onSet={(v) => set({ radius: Math.min(400, Math.max(4, v)) })}
      />
      px · strength
      <NumberBox
        label="Strength, %"
        value={Math.round(100 * how.strength)}
        onSet={(v) => set({ strength: Math.min(1, Math.max(0.02, v / 100)) })}
      />
      % · less at the root by
      <NumberBox
        label="Less at the root, %"
        value={Math.round(100 * how.tips)}
        onSet={(v) => set({ tips: Math.min(1, Math.max(0, v / 100)) })}
      />
      %
      <label title="Guides that stand across the middle get the same stroke">
        <input type="checkbox" checked={how.mirror} onChange={(e) => set({ mirror: e.target.checked })} />
        mirror
      </label>
      <span className="presses" role="group" aria-label="What strokes change">
        {WHAT.map(([pose, label, says]) => (
          <button
            key={label}
            className="plain"
            title={says}
            aria-pressed={how.pose === pose}
            onClick={() => set({ pose, ...(pose && NEW.has(how.does) && { does: 'comb' as const }) })}
          >
            {label}
          </button>
        ))}
      </span>
      {frozen.length > 0 && (
        <button
          className="plain"
          title="Lets all of it be brushed again"
          onClick={() => dispatch(viewSlice.actions.frozenSet([]))}
        >
          {frozen.length} frozen: free all
        </button>
      )}
    </span>
  );
}
