import { preRollFrames } from '@oscillum/core/shot';
import { Tooltip } from '@mantine/core';
import { IconPlayerPauseFilled, IconPlayerPlayFilled, IconRepeat } from '@tabler/icons-react';
import { memo, useCallback, useRef } from 'react';
import { C, clearLane, type Strip } from '../../stage/pen';
import { change, preview } from '../../state/edits';
import { useAppDispatch, useAppEntries, useAppSelector } from '../../state/store';
import { viewSlice } from '../../state/view';
import { Drawn, Playhead, useScrub, useShotTime, useSpan } from './Time';

/** Draws the pre-roll, the frames to settle in and the numbers of frames. */
function drawRuler(g: CanvasRenderingContext2D, w: number, h: number, strip: Strip): void {
  const { from, to } = strip;
  const at = clearLane(g, w, h, strip);
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
}

/** Draws the ruler anew when it shows other frames. */
function useRuler() {
  const { range, acts, preRoll } = useShotTime();
  const night = useAppSelector((s) => s.view.night);
  const { from, to } = useSpan();
  const { first } = range;
  return useCallback(
    (g: CanvasRenderingContext2D, w: number, h: number) =>
      drawRuler(g, w, h, { from, to, first, acts, preRoll }),
    // Night and day draw in other inks.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [from, to, preRoll, first, acts, night],
  );
}

/** Play, step, loop, and what is played of what is asked. */
function Transport() {
  const dispatch = useAppDispatch();
  const { range, fps } = useShotTime();
  const { frame, playing, loop, bracket, rate, speed, everyFrame } = useAppSelector((s) => s.view);
  const step = (by: number) => {
    dispatch(viewSlice.actions.playingSet(false));
    dispatch(viewSlice.actions.frameSet(Math.min(range.last, Math.max(range.first, Math.round(frame) + by))));
  };
  return (
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
  );
}

/** Play, step, frame number, and the ruler to scrub on. */
export const TimeBar = memo(function TimeBar() {
  const { range } = useShotTime();
  const frame = useAppSelector((s) => Math.round(s.view.frame));
  const bracket = useAppSelector((s) => s.view.bracket);
  const { at } = useSpan();
  const scrub = useScrub();
  const draw = useRuler();
  return (
    <div className="time">
      <Transport />
      <div
        className="ruler"
        {...scrub}
        role="slider"
        tabIndex={0}
        aria-label="Frame"
        aria-valuemin={range.first}
        aria-valuemax={range.last}
        aria-valuenow={frame}
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
  const { range, preRoll, fps } = useAppEntries((s) => {
    const { range, fps } = s.shot.shot!;
    return { range, preRoll: preRollFrames(s.shot.shot!), fps };
  });
  const { from, to, at } = useSpan();
  const held = useRef<{ x: number; per: number } | null>(null);
  const ends = [
    [
      'pre-roll',
      shot.range.first - shot.preRoll,
      (by: number) => ({ preRollSeconds: Math.min(120, Math.max(0, (preRoll - by) / fps)) }),
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
