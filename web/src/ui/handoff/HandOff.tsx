import { Panels } from '../common/Panels';
import { StageView } from '../common/StageView';
import { TimeBar } from '../common/Time';
import { BakePanel } from './BakePanel';

/** Bake to keyframes and take the files away. */
export function HandOff() {
  return (
    <Panels
      room="hand-off"
      centre={<StageView offers={false} />}
      bottom={
        <div className="lanes">
          <TimeBar />
        </div>
      }
      bottomSize={34}
      right={<BakePanel />}
    />
  );
}
