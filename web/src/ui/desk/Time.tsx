import { createSelector } from '@reduxjs/toolkit';
import { useEffect, useRef } from 'react';
import { actionRange, preRollFrames, type Shot } from '@oscillum/core/shot';
import { flatContext } from '../../stage/drawing';
import { selectShot, useAppDispatch, useAppSelector, type State } from '../../state/store';
import { viewSlice } from '../../state/view';

/** Frames from the first pre-roll frame to the last of the range. */
export function wholeSpan(shot: { range: Shot['range']; preRoll: number }): { from: number; to: number } {
  const from = shot.range.first - shot.preRoll;
  return { from, to: Math.max(shot.range.last, from + 1) };
}

/** Range, pre-roll, frame rate and last frame of the clip in the shot: a slider does not change them. */
const selectTime = createSelector(
  [
    (s: State) => selectShot(s)!.range,
    (s: State) => preRollFrames(selectShot(s)!),
    (s: State) => selectShot(s)!.fps,
    (s: State) => actionRange(selectShot(s)!).last,
  ],
  (range, preRoll, fps, acts) => ({ range, preRoll, fps, acts }),
);
export const useShotTime = () => useAppSelector(selectTime);

/** The frames that are shown, mapped to 0..1 across a lane: all of them, or a window of them. */
export function useSpan(): {
  from: number;
  to: number;
  at: (frame: number) => number;
  frameAt: (share: number) => number;
} {
  const window = useAppSelector((s) => s.view.window);
  const whole = wholeSpan(useShotTime());
  const { from, to } = window ?? whole;
  return {
    from,
    to,
    at: (f) => (f - from) / (to - from),
    frameAt: (s) => Math.round(from + s * (to - from)),
  };
}

/** Pointer handlers that drag the frame across an element. */
export function useScrub() {
  const dispatch = useAppDispatch();
  const { range } = useShotTime();
  const { frameAt } = useSpan();
  const go = (e: React.PointerEvent) => {
    const r = e.currentTarget.getBoundingClientRect();
    const f = frameAt((e.clientX - r.left) / r.width);
    dispatch(viewSlice.actions.frameSet(Math.min(range.last, Math.max(range.first, f))));
  };
  return {
    onPointerDown: (e: React.PointerEvent) => {
      e.currentTarget.setPointerCapture(e.pointerId);
      dispatch(viewSlice.actions.playingSet(false));
      go(e);
    },
    onPointerMove: (e: React.PointerEvent) => e.buttons & 1 && go(e),
  };
}

/**
 * Wheel over the lanes: zooms in time about the pointer, pans with Shift or sideways; a double press shows all again.
 */
export function useTimeZoom() {
  const dispatch = useAppDispatch();
  const { from, to } = useSpan();
  const whole = wholeSpan(useShotTime());
  const show = (a: number, b: number) => {
    const width = Math.min(b - a, whole.to - whole.from);
    const left = Math.min(Math.max(a, whole.from), whole.to - width);
    const all = width >= whole.to - whole.from - 1e-9;
    dispatch(viewSlice.actions.windowSet(all ? null : { from: left, to: left + width }));
  };
  return {
    onWheel: (e: React.WheelEvent) => {
      const body = (e.target as HTMLElement).closest('.lane-body, .ruler');
      if (!body || !(e.ctrlKey || e.metaKey || e.altKey || e.shiftKey || e.deltaX !== 0)) return;
      const r = body.getBoundingClientRect();
      const width = to - from;
      if (e.ctrlKey || e.metaKey || e.altKey) {
        const at = from + ((e.clientX - r.left) / r.width) * width;
        const next = Math.max(4, width * 1.0015 ** e.deltaY);
        const left = at - ((at - from) * next) / width;
        show(left, left + next);
      } else {
        const by = ((e.deltaX || e.deltaY) / r.width) * width;
        show(from + by, to + by);
      }
    },
    onDoubleClick: (e: React.MouseEvent) => {
      if ((e.target as HTMLElement).closest('.ruler')) dispatch(viewSlice.actions.windowSet(null));
    },
  };
}

export function Playhead() {
  const frame = useAppSelector((s) => s.view.frame);
  const { at } = useSpan();
  const share = at(frame);
  if (share < 0 || share > 1) return null;
  return <div className="playhead" style={{ left: `${share * 100}%` }} />;
}

/** Draws into a canvas that fills its parent, again whenever `draw` changes or the size does, while it is in sight. */
export function Drawn({
  draw,
}: {
  draw: (g: CanvasRenderingContext2D, width: number, height: number) => void;
}) {
  const ref = useRef<HTMLCanvasElement>(null);
  const paint = useRef(() => {});
  // Asking the page for it would lay the page out again each time.
  const size = useRef({ width: 0, height: 0 });
  const inSight = useRef(true);
  useEffect(() => {
    paint.current = () => {
      if (!inSight.current) return;
      const canvas = ref.current!;
      const { width: w, height: h } = size.current;
      const ratio = window.devicePixelRatio;
      if (!w || !h) return;
      // Setting a size clears and reallocates, so only when it is another.
      if (canvas.width !== Math.round(w * ratio)) canvas.width = Math.round(w * ratio);
      if (canvas.height !== Math.round(h * ratio)) canvas.height = Math.round(h * ratio);
      const g = flatContext(canvas);
      g.setTransform(ratio, 0, 0, ratio, 0, 0);
      draw(g, w, h);
    };
    paint.current();
  }, [draw]);
  useEffect(() => {
    const observer = new ResizeObserver(([entry]) => {
      const { width, height } = entry!.contentRect;
      size.current = { width: Math.round(width), height: Math.round(height) };
      paint.current();
    });
    observer.observe(ref.current!);
    const watch = new IntersectionObserver((entries) => {
      inSight.current = entries.at(-1)!.isIntersecting;
      paint.current();
    });
    watch.observe(ref.current!);
    return () => {
      observer.disconnect();
      watch.disconnect();
    };
  }, []);
  return <canvas ref={ref} />;
}
