import { Panels } from '../common/Panels';
import { useRefinedPicture } from '../refine/useRefinedPicture';
import { StageView } from '../common/StageView';
import { TimeBar } from '../common/Time';
import { BakePanel } from './BakePanel';

/** Bake to keyframes and take the files away. */
export function HandOff() {
  const refined = useRefinedPicture();
  return (
    <Panels
      room="hand-off"
      centre={<StageView offers={false} {...(refined && { picture: refined })} />}
      bottom={
        <div className="lanes">
          <TimeBar />
        </div>
      }
      bottomSize={34}
      right={<BakePanel refined={refined} />}
    />
  );
}
