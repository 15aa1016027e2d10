import { useEffect } from 'react';
import { useStore } from 'react-redux';
import { useAppSelector, type State } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { useDesk } from '../../kit/desk';
import { Panels } from '../../desk/Panels';
import { LeftPanel } from '../../desk/LeftPanel';
import { StageView } from '../../desk/StageView';
import { Advice } from './Advice';
import { RunStrip } from './RunStrip';
import { Lanes } from './Lanes';
import { BrushBar } from '../../brush/BrushBar';
import { ALL_UI } from '../../parts';
import { ShakeCard } from './ShakeCard';
import { Settings } from './Settings';

/** Choose what moves, tune it, and see the whole shot answer. */
export function Tune() {
  useOpensOnOne();
  return (
    <Panels
      room="tune"
      left={<LeftPanel />}
      centre={
        <StageView offers>
          <BrushBar />
          {ALL_UI.map(({ OnStage }, i) => OnStage && <OnStage key={i} />)}
          <div className="corner">
            <Advice />
            <ShakeCard />
            <RunStrip />
            {ALL_UI.map(({ Make }, i) => (
              <Make key={i} />
            ))}
          </div>
        </StageView>
      }
      bottom={<Lanes />}
      bottomSize={236}
      right={<Settings />}
    />
  );
}

/** A shot is opened with the part selected that strays most, so that there is something to drag. */
function useOpensOnOne(): void {
  const { simulation } = useDesk();
  const store = useStore<State>();
  const id = useAppSelector((s) => s.shot.id);
  useEffect(() => {
    const look = () => {
      const { frames, running } = simulation.picture;
      if (running || !frames || frames.done < frames.count) return;
      stop();
      const { view } = store.getState();
      if (view.parts.length > 0 || view.joints.length > 0 || frames.parts.length === 0) return;
      const most = (c: number) => {
        let offSource = 0;
        for (let k = c; k < frames.offSource.length; k += frames.parts.length)
          offSource = Math.max(offSource, frames.offSource[k]!);
        return offSource;
      };
      const worst = frames.parts.map((p, c) => [most(c), p.partId] as const).sort((a, b) => b[0] - a[0])[0]!;
      store.dispatch(viewSlice.actions.partsSelected({ parts: [worst[1]] }));
    };
    const stop = simulation.subscribe(look);
    look();
    return stop;
  }, [simulation, store, id]);
}
