import { flushSync } from 'react-dom';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { framesOf, plainFrame } from '@oscillum/core/refine';
import type { Refinement } from '@oscillum/core/model';
import { useAppDispatch, useAppSelector } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { Drawn, Playhead, TimeBar, useSpan, useTimeZoom } from '../../desk/Time';
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
import { keyStep, useRefineDesk, type Chosen } from './refineDesk';
import { useCurveKeys } from './useCurveKeys';
import { useKeyActions } from './useKeyActions';
import { keysBetween, useCurves, valueRange } from './useCurves';

/** How near a press must be to what it takes, px. */
const NEAR = 7;

type Press =
  | { kind: 'keys'; x: number; y: number; component: number; chosen: Chosen; moved: boolean }
  | { kind: 'handle'; handle: SlopeHandle; moved: boolean }
  | { kind: 'marquee'; x: number; y: number; add: boolean }
  | { kind: 'span'; from: number };

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
  const dispatch = useAppDispatch();
  const night = useAppSelector((s) => s.view.night);
  const { nodes, path, now, ground, chosen, setChosen, draft, setDraft, lay, snap, untouched } = desk;
  const [shown, setShown] = useState<readonly boolean[]>([true, true, true]);
  const [broken, setBroken] = useState(false);
  const press = useRef<Press | null>(null);
  const [box, setBox] = useState<React.CSSProperties | null>(null);
  const field = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 1, height: 1 });
  const { from, to } = useSpan();

  // While keys are dragged the chosen ones are where they were taken.
  const held = draft?.does.tool === 'move' ? draft.does.frames : 0;
  const chosenNow = useMemo(() => (held === 0 ? chosen : shifted(chosen, held)), [chosen, held]);
  const curves = useCurves(desk, chosenNow);
  const least = path === 'rotation' ? 10 : 0.01;

  // The values shown stay while a hand works, and fit anew when other curves are shown.
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
  }, []);
  const scale: Scale = useMemo(() => ({ ...size, from, to, ...values }), [size, from, to, values]);
  const handles = useMemo(
    () => handlesOf(curves, now, shown, scale, ground),
    [curves, now, shown, scale, ground],
  );
  const unit = path === 'rotation' ? '°' : '';
  const draw = useCallback(
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

  const at = (e: React.PointerEvent | React.MouseEvent) => {
    const r = field.current!.getBoundingClientRect();
    return { x: e.clientX - r.left, y: e.clientY - r.top };
  };
  /** The key nearest to a point. */
  const keyNear = (x: number, y: number) => {
    let best = NEAR;
    let found: { key: string; frame: number; component: number } | null = null;
    for (const { key, now: c } of curves)
      for (let k = 0; k < c.keys.length; k++) {
        const dx = Math.abs(xOf(scale, c.keys[k]!) - x);
        if (dx > best) continue;
        for (let component = 0; component < 3; component++) {
          if (!shown[component]) continue;
          const d = Math.max(dx, Math.abs(yOf(scale, c.values[3 * k + component]!) - y));
          if (d < best) {
            best = d;
            found = { key, frame: c.keys[k]!, component };
          }
        }
      }
    return found;
  };
  const snapped = (by: number) => (snap ? Math.round(by) : plainFrame(by));
  const moveStep = (by: { frames: number; by: number; component: number }, keys: Chosen = chosen) =>
    keyStep(desk, 'Move', (list) => ({ tool: 'move', keys: list, ...by }), keys);

  const down = (e: React.PointerEvent) => {
    if (e.button !== 0 || untouched) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    dispatch(viewSlice.actions.playingSet(false));
    const { x, y } = at(e);
    if (y < STRIP) {
      press.current = { kind: 'span', from: Math.round(frameAt(scale, x)) };
      return;
    }
    const key = keyNear(x, y);
    const handle = handles.find((h) => Math.hypot(h.x - x, h.y - y) <= NEAR);
    if (handle && !key) {
      press.current = { kind: 'handle', handle, moved: false };
      return;
    }
    if (!key) {
      press.current = { kind: 'marquee', x, y, add: e.shiftKey };
      return;
    }
    const was = chosen[key.key] ?? [];
    const isChosen = was.includes(key.frame);
    const next: Chosen = e.shiftKey
      ? { ...chosen, [key.key]: isChosen ? was.filter((f) => f !== key.frame) : [...was, key.frame] }
      : isChosen
        ? chosen
        : { [key.key]: [key.frame] };
    setChosen(next);
    desk.setSpan(null);
    press.current = { kind: 'keys', x, y, component: key.component, chosen: next, moved: false };
  };
  // Drawn before the browser's next picture, not one later.
  const move = (e: React.PointerEvent) => flushSync(() => drag(e));
  const drag = (e: React.PointerEvent) => {
    const p = press.current;
    if (!p) return;
    const { x, y } = at(e);
    if (p.kind === 'keys') {
      const [dx, dy] = [x - p.x, y - p.y];
      if (!p.moved && Math.hypot(dx, dy) < 3) return;
      p.moved = true;
      // Shift keeps to one way: in time, or in value.
      const across = !e.shiftKey || Math.abs(dx) >= Math.abs(dy);
      const along = !e.shiftKey || !across;
      const frames = across ? snapped(frameAt(scale, x) - frameAt(scale, p.x)) : 0;
      const by = along ? valueAt(scale, y) - valueAt(scale, p.y) : 0;
      setDraft(moveStep({ frames, by, component: p.component }, p.chosen));
    } else if (p.kind === 'handle') {
      p.moved = true;
      setDraft(handleStep(p.handle, x, y));
    } else if (p.kind === 'marquee')
      setBox({
        ...{ left: Math.min(x, p.x), top: Math.min(y, p.y) },
        ...{ width: Math.abs(x - p.x), height: Math.abs(y - p.y) },
      });
    else takeSpan(p.from, Math.round(frameAt(scale, x)));
  };
  const up = (e: React.PointerEvent) => {
    const p = press.current;
    press.current = null;
    setBox(null);
    if (!p) return;
    const { x, y } = at(e);
    if (p.kind === 'keys' || p.kind === 'handle') {
      // A shape that is being tried is not what the hand has done.
      if (draft && p.moved) commit(draft);
    } else if (p.kind === 'marquee') {
      if (Math.hypot(x - p.x, y - p.y) < 3) {
        setChosen({});
        desk.setSpan(null);
        const f = Math.min(desk.range.last, Math.max(desk.range.first, Math.round(frameAt(scale, x))));
        dispatch(viewSlice.actions.frameSet(f));
        return;
      }
      const inside: Record<string, number[]> = p.add
        ? Object.fromEntries(Object.entries(chosen).map(([k, list]) => [k, [...list]]))
        : {};
      const [l, r, t, b] = [Math.min(x, p.x), Math.max(x, p.x), Math.min(y, p.y), Math.max(y, p.y)];
      for (const { key, now: c } of curves)
        c.keys.forEach((f, k) => {
          const kx = xOf(scale, f);
          if (kx < l || kx > r) return;
          const hit = shown.some((visible, component) => {
            const ky = yOf(scale, c.values[3 * k + component]!);
            return visible && ky >= t && ky <= b;
          });
          if (hit && !inside[key]?.includes(f)) (inside[key] ??= []).push(f);
        });
      setChosen(inside);
      desk.setSpan(null);
    } else if (Math.round(frameAt(scale, x)) === p.from) {
      desk.setSpan(null);
      setChosen({});
    }
  };
  const takeSpan = (a: number, b: number) => {
    const { range } = desk;
    const [first, last] = [Math.max(range.first, Math.min(a, b)), Math.min(range.last, Math.max(a, b))];
    if (last <= first) return;
    desk.setSpan({ first, last });
    setChosen(keysBetween(nodes, path, now, (c) => Array.from(framesOf(c, ground), plainFrame), first, last));
  };
  /** Makes what the hand has done an edit; what was chosen goes along. */
  const commit = (step: Refinement) => {
    lay(step);
    if (step.does.tool === 'move' && step.does.frames !== 0) setChosen(shifted(chosen, step.does.frames));
  };
  const handleStep = (h: SlopeHandle, x: number, y: number): Refinement | null => {
    const [dx, dy] = [x - h.atX, y - h.atY];
    // A handle stays on its own side of the key.
    const frames = (Math.max(2, h.side === 'out' ? dx : -dx) / scale.width) * (to - from);
    const rise = (-dy / scale.height) * (scale.high - scale.low);
    const slope = (h.side === 'out' ? rise : -rise) / frames;
    const side = broken ? h.side : 'both';
    return keyStep(
      desk,
      'Turn the slope of',
      (keys) => ({ tool: 'handle', keys, side, component: h.component, slope }),
      { [h.key]: [h.frame] },
    );
  };

  const { insertAt, remove, copy, paste, nudge } = useKeyActions(desk, commit);
  useCurveKeys(desk, field, {
    ...{ insertAt, remove, copy, paste, nudge, takeSpan },
    component: Math.max(0, shown.findIndex(Boolean)),
    small: path === 'rotation' ? 1 : (values.high - values.low) / 100,
  });
  const wheel = (e: React.WheelEvent) => {
    if (e.ctrlKey || e.metaKey || e.altKey || e.shiftKey || e.deltaY === 0) return;
    const r = field.current!.getBoundingClientRect();
    const v = valueAt(scale, e.clientY - r.top);
    const by = 1.0012 ** e.deltaY;
    setValues({ low: v - (v - values.low) * by, high: v + (values.high - v) * by });
  };
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
          onPointerCancel={() => {
            press.current = null;
            setBox(null);
            setDraft(null);
          }}
          onWheel={wheel}
          onDoubleClick={(e) => {
            const { x, y } = at(e);
            if (y >= STRIP && !untouched && !keyNear(x, y)) insertAt(Math.round(frameAt(scale, x)));
          }}
        >
          <Drawn draw={draw} />
          <Playhead />
          {box && <div className="marquee" style={box} />}
          {curves.length === 0 && (
            <p className="empty">
              {nodes.length === 0
                ? 'Choose a chain or joints on the left, or on the stage.'
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

/** Chosen keys so many frames on. */
const shifted = (chosen: Chosen, by: number): Chosen =>
  Object.fromEntries(Object.entries(chosen).map(([key, list]) => [key, list.map((f) => plainFrame(f + by))]));
