import { Panels } from '../../desk/Panels';
import { JointTree } from '../../desk/JointTree';
import { StageView } from '../../desk/StageView';
import { Advice } from './Advice';
import { Hint } from './Hint';
import { Lanes } from './Lanes';
import { ALL_UI } from '../../parts';
import { ShakeCard } from './ShakeCard';
import { Settings } from './Settings';

/** Choose what moves, tune it, and see the whole shot answer. */
export function Tune() {
  return (
    <Panels
      room="tune"
      left={<JointTree />}
      centre={
        <StageView offers>
          <div className="corner">
            <Hint />
            <Advice />
            <ShakeCard />
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
