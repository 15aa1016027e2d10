import { Tooltip } from '@mantine/core';
import { createSelector } from '@reduxjs/toolkit';
import { IconPlayerPauseFilled, IconPlayerPlayFilled, IconRepeat } from '@tabler/icons-react';
import { memo, useCallback, useEffect, useRef } from 'react';
import type { Shot } from '@oscillum/core/shot';
import { flatContext } from '../../stage/drawing';
import { C } from '../../stage/pen';
import { change, preview } from '../../state/edits';
import { selectShot, useAppDispatch, useAppEntries, useAppSelector, type State } from '../../state/store';
import { viewSlice } from '../../state/view';

/** Frames from the first pre-roll frame to the last of the range. */
export function wholeSpan(shot: Pick<Shot, 'range' | 'preRoll'>): { from: number; to: number } {
  const from = shot.range.first - shot.preRoll;
  return { from, to: Math.max(shot.range.last, from + 1) };
}

/** Range, pre-roll and frame rate of the shot: a slider does not change them. */
const selectTime = createSelector(
  [
    (s: State) => selectShot(s)!.range,
    (s: State) => selectShot(s)!.preRoll,
    (s: State) => selectShot(s)!.fps,
  ],
  (range, preRoll, fps) => ({ range, preRoll, fps }),
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

/** Wheel over the lanes: zooms in time about the pointer, pans with Shift or sideways; a double press shows all again. */
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

/** Play, step, frame number, and the ruler to scrub on. */
export const TimeBar = memo(function TimeBar() {
  const dispatch = useAppDispatch();
  const { range, preRoll, fps } = useShotTime();
  const { frame, playing, loop, night, bracket, rate, speed, everyFrame } = useAppSelector((s) => s.view);
  const { from, to, at } = useSpan();
  const scrub = useScrub();
  const step = (by: number) => {
    dispatch(viewSlice.actions.playingSet(false));
    dispatch(viewSlice.actions.frameSet(Math.min(range.last, Math.max(range.first, Math.round(frame) + by))));
  };
  const { first } = range;
  const draw = useCallback(
    (g: CanvasRenderingContext2D, w: number, h: number) => {
      const at = (f: number) => (f - from) / (to - from);
      g.clearRect(0, 0, w, h);
      if (preRoll > 0) {
        g.fillStyle = C.preroll;
        g.fillRect(0, 0, at(first) * w, h);
      }
      const every =
        [1, 2, 5, 10, 12, 20, 24, 50, 60, 100, 120, 240, 500, 1000, 2000].find(
          (n) => (n / (to - from)) * w > 42,
        ) ?? 5000;
      g.font = '11px "Atkinson Hyperlegible Next Variable", sans-serif';
      let free = 0;
      for (let f = Math.ceil(from / every) * every; f <= to; f += every) {
        const x = at(f) * w;
        g.strokeStyle = C.line;
        g.beginPath();
        g.moveTo(x, h - 7);
        g.lineTo(x, h);
        g.stroke();
        g.fillStyle = C['ink-2'];
        const text = String(f);
        const { width } = g.measureText(text);
        const left = Math.max(2, Math.min(x + 3, w - width - 2));
        if (left < free) continue;
        g.fillText(text, left, h - 12);
        free = left + width + 6;
      }
    },
    // Night and day draw in other inks.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [from, to, preRoll, first, night],
  );
  return (
    <div className="time">
      <div className="transport">
        <Tooltip label="One frame back (←)">
          <button className="plain" aria-label="One frame back" onClick={() => step(-1)}>
            ‹
          </button>
        </Tooltip>
        <Tooltip label={playing ? 'Stop (Space)' : 'Play (Space)'}>
          <button
            className="plain"
            aria-label={playing ? 'Stop' : 'Play'}
            onClick={() => dispatch(viewSlice.actions.playingSet(!playing))}
          >
            {playing ? <IconPlayerPauseFilled size={15} /> : <IconPlayerPlayFilled size={15} />}
          </button>
        </Tooltip>
        <Tooltip label="One frame on (→)">
          <button className="plain" aria-label="One frame on" onClick={() => step(1)}>
            ›
          </button>
        </Tooltip>
        <Tooltip label={loop ? 'Loops (L)' : 'Stops at the end (L)'}>
          <button
            className="plain"
            aria-label="Loop"
            aria-pressed={loop}
            onClick={() => dispatch(viewSlice.actions.toggled('loop'))}
            style={{ color: loop ? 'var(--verdigris)' : 'var(--line)' }}
          >
            <IconRepeat size={15} />
          </button>
        </Tooltip>
        frame <b data-testid="frame">{Math.floor(frame + 1e-6)}</b> of {range.last}
        {bracket && (
          <button
            className="mini"
            title="Only these frames are played; press to play all again"
            onClick={() => dispatch(viewSlice.actions.bracketSet(null))}
          >
            {bracket.from}–{bracket.to} ×
          </button>
        )}
        <button
          className="plain small"
          data-testid="rate"
          style={{ marginLeft: 'auto' }}
          aria-pressed={everyFrame}
          title="What is asked and what is shown. Press to show every frame, however long it takes, or to keep time and drop frames"
          onClick={() => dispatch(viewSlice.actions.toggled('everyFrame'))}
        >
          {rateText(rate, fps, speed)}
          {everyFrame && ' · every frame'}
        </button>
      </div>
      <div
        className="ruler"
        {...scrub}
        role="slider"
        tabIndex={0}
        aria-label="Frame"
        aria-valuemin={range.first}
        aria-valuemax={range.last}
        aria-valuenow={Math.round(frame)}
      >
        <Drawn draw={draw} />
        <Ends />
        {bracket && (
          <div
            className="bracket"
            style={{ left: `${at(bracket.from) * 100}%`, right: `${(1 - at(bracket.to)) * 100}%` }}
          />
        )}
        <Playhead />
      </div>
    </div>
  );
});

/** Grips on the ruler: where the pre-roll begins, and the first and last frame of the range. */
function Ends() {
  const dispatch = useAppDispatch();
  const shot = useShotTime();
  const { range, preRoll } = useAppEntries((s) => {
    const { range, preRoll } = s.shot.shot!;
    return { range, preRoll };
  });
  const { from, to, at } = useSpan();
  const held = useRef<{ x: number; per: number } | null>(null);
  const ends = [
    [
      'pre-roll',
      shot.range.first - shot.preRoll,
      (by: number) => ({ preRoll: Math.min(2000, Math.max(0, preRoll - by)) }),
    ],
    [
      'first frame',
      shot.range.first,
      (by: number) => ({ range: { ...range, first: Math.min(range.last, range.first + by) } }),
    ],
    [
      'last frame',
      shot.range.last,
      (by: number) => ({ range: { ...range, last: Math.max(range.first, range.last + by) } }),
    ],
  ] as const;
  const moved = (e: React.PointerEvent) =>
    held.current ? Math.round((e.clientX - held.current.x) * held.current.per) : 0;
  return ends.map(([name, frame, values]) => {
    const share = at(frame);
    if (share < -0.001 || share > 1.001) return null;
    return (
      <div
        key={name}
        className="end"
        data-end={name}
        title={`Drag the ${name}`}
        style={{ left: `${share * 100}%` }}
        onPointerDown={(e) => {
          e.stopPropagation();
          e.currentTarget.setPointerCapture(e.pointerId);
          const { width } = e.currentTarget.parentElement!.getBoundingClientRect();
          held.current = { x: e.clientX, per: (to - from) / width };
        }}
        onPointerMove={(e) => {
          e.stopPropagation();
          if (held.current) dispatch(preview((d) => void Object.assign(d, values(moved(e)))));
        }}
        onPointerUp={(e) => {
          const by = moved(e);
          held.current = null;
          dispatch(
            by === 0
              ? preview(() => undefined)
              : change(`Drag the ${name}`, (d) => void Object.assign(d, values(by))),
          );
        }}
      />
    );
  });
}

/** "30 fps", or how many of them are shown where fewer are. */
function rateText(rate: number | null, fps: number, speed: number): string {
  const asked = fps * speed;
  return rate === null || rate > 0.95 * asked
    ? `${fps} fps`
    : `${rate.toFixed(0)} of ${asked.toFixed(0)} fps`;
}
