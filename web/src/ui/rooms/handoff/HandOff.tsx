import { Panels } from '../../desk/Panels';
import { useRefinedPicture } from '../../desk/useRefinedPicture';
import { StageView } from '../../desk/StageView';
import { TimeBar } from '../../desk/TimeBar';
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
