import { makeValueCurve, type ValueKeys } from '@oscillum/core/model';
import { inOrder, withKeyAt, withKeyMoved, withoutKey } from '../../../state/parts/pendulum/signal';
import { PointCurve, type Point } from '../../kit/PointCurve';

/** A drawn signal: its keys from the first to the last, with a little room to drag the last one on. */
export function SignalEditor({
  keys,
  onSet,
}: {
  keys: ValueKeys;
  onSet: (keys: ValueKeys, final: boolean) => void;
}) {
  const sorted = inOrder(keys);
  const [first, last] = [sorted[0]!.frame, sorted.at(-1)!.frame];
  const length = Math.max(12, last - first);
  const values = sorted.map((k) => k.value);
  const [low, high] = [Math.min(0, ...values), Math.max(1, ...values)];
  const along: Point = [first, first + 1.1 * length];
  const up: Point = [low < 0 ? low - 0.15 * (high - low) : 0, high + 0.15 * (high - low)];
  return (
    <div className="profile">
      <PointCurve
        label="Signal, by frame"
        points={sorted.map((k) => [k.frame, k.value])}
        along={along}
        up={up}
        at={makeValueCurve(sorted)}
        guide={0}
        step={[1, (high - low) / 20]}
        say={([frame, value]) => `${value} on frame ${frame}`}
        onMove={(i, [frame, value], final) => onSet(withKeyMoved(sorted, i, frame, value), final)}
        onPress={([frame, value]) => onSet(withKeyAt(sorted, frame, value, 0.03 * length), true)}
        onRemove={(i) => onSet(withoutKey(sorted, i), true)}
      />
    </div>
  );
}
