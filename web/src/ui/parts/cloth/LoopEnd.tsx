import { usePicture } from '../../kit/desk';
import { selectShot, useAppSelector } from '../../../state/store';
import { useSpan } from '../../desk/Time';

/** The frames at the end of a loop of folds that go over into its first, in the lane of what folds. */
export function LoopEnd() {
  const { at } = useSpan();
  const { last } = useAppSelector(selectShot)!.range;
  const blended = usePicture((p) => p.frames?.start.loop?.blended ?? 0);
  if (blended === 0) return null;
  const [from, to] = [Math.max(0, at(last - blended)), Math.min(1, at(last))];
  if (to <= from) return null;
  return (
    <i
      className="loop-end"
      title={`Folds never come to repeat: the last ${blended} frames go over into the first`}
      style={{ left: `${100 * from}%`, width: `${100 * (to - from)}%` }}
    />
  );
}
