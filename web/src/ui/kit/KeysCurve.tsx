import { useState } from 'react';
import { makeValueCurve, type ValueKey, type ValueKeys } from '@oscillum/core/model';
import { inOrder, withKeyAt, withKeyMoved } from '../../state/valueKeys';
import { selectShot, useAppSelector } from '../../state/store';
import { NumberBox } from './Fields';
import { PointCurve, type Point } from './PointCurve';
import { Sheet } from './Sheet';

/** How a value goes on from a key to the next. */
const KINDS = [
  ['smooth', 'smoothly'],
  ['linear', 'straight'],
  ['stepped', 'in a step'],
] as const;

interface KeysCurveProps {
  label: string;
  unit: string;
  keys: ValueKeys;
  /** What the value is without keys. */
  still: number;
  /** Least and most that it may be. */
  limits: Point;
  /** Whether the last key may be taken away. */
  empties?: boolean;
  onSet: (keys: ValueKeys, final: boolean) => void;
}

/** A value over the frames of the shot, by keys that are dragged, and a number for the one that was touched last. */
export function KeysCurve(props: KeysCurveProps) {
  const [large, setLarge] = useState(false);
  return (
    <>
      <p className="muted small">{props.label}</p>
      <Curve {...props} />
      <div className="presses">
        <button className="mini" onClick={() => setLarge(true)}>
          larger
        </button>
      </div>
      <Sheet title={props.label} opened={large} onClose={() => setLarge(false)}>
        <div style={{ width: 'min(960px, 86vw)' }}>
          <Curve {...props} size={[960, 300]} />
        </div>
      </Sheet>
    </>
  );
}

/** Room above and below the highest and the lowest key. */
function heightOf(keys: ValueKeys, still: number, limits: Point): Point {
  const values = [...keys.map((k) => k.value), still];
  const [low, high] = [Math.min(...values), Math.max(...values)];
  const pad = Math.max((high - low) * 0.2, Math.abs(high) * 0.25, (limits[1] - limits[0]) * 1e-3, 1e-6);
  return [Math.max(limits[0], low - pad), Math.min(limits[1], high + pad)];
}

type Keyed = Omit<KeysCurveProps, 'empties'> & { empties: boolean };
const inside = (v: number, limits: Point) => Math.min(limits[1], Math.max(limits[0], v));
const withoutKey = (keys: readonly ValueKey[], i: number, empties: boolean): ValueKey[] =>
  empties || keys.length > 1 ? keys.filter((_, k) => k !== i) : [...keys];

/** The curve itself, over the frames `along`: keys in order are dragged, set by a press and removed by a double one. */
export function KeysGraph(
  props: Keyed & { along: Point; onTouch?: (i: number) => void; size?: Point; pad?: number },
) {
  const { label, unit, keys, still, limits, empties, onSet, along, onTouch, size, pad } = props;
  const frame = useAppSelector((s) => s.view.frame);
  const up = heightOf(keys, keys.length ? keys[0]!.value : still, limits);
  return (
    <PointCurve
      label={`${label}, by frame`}
      points={keys.map((k) => [k.frame, k.value])}
      along={along}
      up={up}
      at={keys.length ? makeValueCurve(keys) : () => still}
      guide={still}
      step={[1, (up[1] - up[0]) / 20]}
      now={frame}
      {...(size && { size })}
      {...(pad !== undefined && { pad })}
      say={([f, value]) => `${value} ${unit} on frame ${f}`}
      onHold={(i) => onTouch?.(i)}
      onMove={(k, [f, value], final) => onSet(withKeyMoved(keys, k, f, inside(value, limits)), final)}
      onPress={([f, value]) => {
        const next = withKeyAt(keys, f, inside(value, limits), 0.015 * (along[1] - along[0]));
        onSet(next, true);
        onTouch?.(next.findIndex((k) => !keys.includes(k)));
      }}
      onRemove={(i) => onSet(withoutKey(keys, i, empties), true)}
    />
  );
}

function Curve(props: KeysCurveProps & { size?: Point }) {
  const { label, unit, keys, limits, empties = true, onSet } = props;
  const range = useAppSelector((s) => selectShot(s)!.range);
  const [touched, setTouched] = useState(0);
  const sorted = inOrder(keys);
  const along: Point = [
    Math.min(range.first, sorted[0]?.frame ?? range.first),
    Math.max(range.last, sorted.at(-1)?.frame ?? range.last, range.first + 1),
  ];
  const put = (i: number, change: Partial<ValueKey>) =>
    onSet(sorted.with(i, { ...sorted[i]!, ...change }), true);
  const i = Math.min(touched, sorted.length - 1);
  const key = sorted[i];
  return (
    <div className="profile value-keys">
      <KeysGraph {...props} keys={sorted} empties={empties} along={along} onTouch={setTouched} />
      {key ? (
        <KeyRow
          label={`Key ${i + 1} of ${label}`}
          unit={unit}
          value={key}
          onFrame={(f) => !sorted.some((k, n) => n !== i && k.frame === f) && put(i, { frame: f })}
          onValue={(v) => put(i, { value: inside(v, limits) })}
          onKind={(kind) => put(i, { kind })}
          onRemove={
            !empties && sorted.length === 1 ? null : () => onSet(withoutKey(sorted, i, empties), true)
          }
        />
      ) : (
        <p className="muted small">No keys: press on the line to set one.</p>
      )}
    </div>
  );
}

/** One key in numbers. */
function KeyRow({
  label,
  unit,
  value,
  onFrame,
  onValue,
  onKind,
  onRemove,
}: {
  label: string;
  unit: string;
  value: ValueKey;
  onFrame: (frame: number) => void;
  onValue: (value: number) => void;
  onKind: (kind: ValueKey['kind']) => void;
  /** Null where it has to stay. */
  onRemove: (() => void) | null;
}) {
  return (
    <div className="presses" role="group" aria-label={label}>
      <span className="muted small">frame</span>
      <NumberBox label="Frame of the key" value={value.frame} unit="" whole onSet={onFrame} />
      <NumberBox label="Value of the key" value={value.value} unit={unit} onSet={onValue} />
      <span className="muted small">{unit}</span>
      <select
        aria-label="How it goes on"
        title="How the value goes on to the next key"
        value={value.kind}
        onChange={(e) => onKind(e.target.value as ValueKey['kind'])}
      >
        {KINDS.map(([kind, name]) => (
          <option key={kind} value={kind}>
            {name}
          </option>
        ))}
      </select>
      <button className="mini" disabled={!onRemove} onClick={() => onRemove?.()}>
        remove
      </button>
    </div>
  );
}
