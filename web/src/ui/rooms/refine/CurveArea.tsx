import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useAppSelector } from '../../../state/store';
import { Drawn, Playhead, useSpan, useTimeZoom } from '../../desk/Time';
import { TimeBar } from '../../desk/TimeBar';
import {
  drawCurves,
  frameAt,
  STRIP,
  valueAt,
  xOf,
  yOf,
  type DrawnCurve,
  type Scale,
  type SlopeHandle,
} from './draw';
import { CurveHead } from './CurveHead';
import { handlesOf } from './handles';
import { keyNear, shifted } from './hits';
import { useRefineDesk } from './refineDesk';
import { useCurveKeys } from './useCurveKeys';
import { useCurvePress } from './useCurvePress';
import { useKeyActions } from './useKeyActions';
import { useCurves, valueRange } from './useCurves';

/**
 * What frames and values the field shows: the values stay while a hand works, and fit anew when other curves are shown.
 */
function useScale(
  field: React.RefObject<HTMLDivElement | null>,
  curves: readonly DrawnCurve[],
  shown: readonly boolean[],
) {
  const { nodes, path } = useRefineDesk();
  const { from, to } = useSpan();
  const [size, setSize] = useState({ width: 1, height: 1 });
  const least = path === 'rotation' ? 10 : 0.01;
  const [values, setValues] = useState({ low: -10, high: 10 });
  const which = `${path} ${nodes.join(' ')} ${shown.join(' ')}`;
  const fit = useCallback(() => setValues(valueRange(curves, shown, least)), [curves, shown, least]);
  const [fitted, setFitted] = useState('');
  if (fitted !== which) {
    setFitted(which);
    setValues(valueRange(curves, shown, least));
  }
  useEffect(() => {
    const observer = new ResizeObserver(([entry]) => {
      const { width, height } = entry!.contentRect;
      setSize({ width: Math.max(1, width), height: Math.max(1, height) });
    });
    observer.observe(field.current!);
    return () => observer.disconnect();
  }, [field]);
  const scale: Scale = useMemo(() => ({ ...size, from, to, ...values }), [size, from, to, values]);
  /** The wheel spreads the values about the pointer. */
  const wheel = (e: React.WheelEvent) => {
    if (e.ctrlKey || e.metaKey || e.altKey || e.shiftKey || e.deltaY === 0) return;
    const r = field.current!.getBoundingClientRect();
    const v = valueAt(scale, e.clientY - r.top);
    const by = 1.0012 ** e.deltaY;
    setValues({ low: v - (v - values.low) * by, high: v + (values.high - v) * by });
  };
  return { scale, fit, wheel };
}

/** Draws the curves, anew when what is seen of them changes. */
function useDraw(
  scale: Scale,
  curves: readonly DrawnCurve[],
  shown: readonly boolean[],
  handles: readonly SlopeHandle[],
) {
  const desk = useRefineDesk();
  const night = useAppSelector((s) => s.view.night);
  const { path, untouched } = desk;
  const unit = path === 'rotation' ? '°' : '';
  return useCallback(
    (g: CanvasRenderingContext2D) =>
      drawCurves(g, {
        scale,
        curves,
        shown,
        span: desk.span,
        handles: untouched ? [] : handles,
        unit,
        first: desk.range.first,
      }),
    // Inks change with the desk.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [scale, curves, shown, desk.span, handles, untouched, unit, desk.range.first, night],
  );
}

/** The curves of the shown joints: keys to choose and move, slopes to turn, spans to take. */
export function CurveArea({
  onPath,
  onSnap,
  onUntouched,
}: {
  onPath: (path: 'rotation' | 'translation') => void;
  onSnap: () => void;
  onUntouched: () => void;
}) {
  const desk = useRefineDesk();
  const { nodes, path, now, ground, chosen, draft, untouched } = desk;
  const [shown, setShown] = useState<readonly boolean[]>([true, true, true]);
  const [broken, setBroken] = useState(false);
  const field = useRef<HTMLDivElement>(null);

  // While keys are dragged the chosen ones are where they were taken.
  const held = draft?.does.tool === 'move' ? draft.does.frames : 0;
  const chosenNow = useMemo(() => (held === 0 ? chosen : shifted(chosen, held)), [chosen, held]);
  const curves = useCurves(desk, chosenNow);
  const { scale, fit, wheel } = useScale(field, curves, shown);
  const handles = useMemo(
    () => handlesOf(curves, now, shown, scale, ground),
    [curves, now, shown, scale, ground],
  );
  const draw = useDraw(scale, curves, shown, handles);
  const { at, down, move, up, cancel, takeSpan, commit, box } = useCurvePress({
    ...{ field, curves, shown, scale, handles, broken },
  });
  const { insertAt, remove, copy, paste, nudge } = useKeyActions(desk, commit);
  useCurveKeys(desk, field, {
    ...{ insertAt, remove, copy, paste, nudge, takeSpan },
    component: Math.max(0, shown.findIndex(Boolean)),
    small: path === 'rotation' ? 1 : (scale.high - scale.low) / 100,
  });
  const count = Object.values(chosen).reduce((n, list) => n + list.length, 0);
  return (
    <section className="lanes curves" aria-label="Curves" {...useTimeZoom()}>
      <TimeBar />
      <div className="curve-body">
        <CurveHead
          {...{ shown, setShown, broken, count, fit, commit, onPath, onSnap, onUntouched }}
          onBroken={() => setBroken(!broken)}
        />
        <div
          ref={field}
          className="curve-field"
          role="application"
          tabIndex={0}
          aria-label="Keys and curves of the shown joints"
          aria-roledescription="curve area"
          data-baking={desk.baking}
          data-chosen={count}
          data-places={placesOf(curves, scale)}
          onPointerDown={down}
          onPointerMove={move}
          onPointerUp={up}
          onPointerCancel={cancel}
          onWheel={wheel}
          onDoubleClick={(e) => {
            const { x, y } = at(e);
            if (y >= STRIP && !untouched && !keyNear(curves, shown, scale, x, y))
              insertAt(Math.round(frameAt(scale, x)));
          }}
        >
          <Drawn draw={draw} />
          <Playhead />
          {box && <div className="marquee" style={box} />}
          {curves.length === 0 && (
            <p className="empty">
              {nodes.length === 0
                ? 'Choose a part or joints on the left, or on the stage.'
                : `The chosen joints have no ${path === 'rotation' ? 'turns' : 'places'} in this clip.`}
            </p>
          )}
        </div>
      </div>
    </section>
  );
}

/** Where the keys of the first joint stand: x and the three y of each, for tests and for leading the eye. */
function placesOf(curves: readonly DrawnCurve[], scale: Scale): string | undefined {
  if (curves.length === 0) return undefined;
  const { keys, values } = curves[0]!.now;
  return Array.from(keys, (f, k) =>
    [xOf(scale, f), ...[0, 1, 2].map((c) => yOf(scale, values[3 * k + c]!))]
      .map((v) => v.toFixed(1))
      .join(' '),
  ).join(' ');
}
