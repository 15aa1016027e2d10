import { useCallback, useMemo, useRef } from 'react';
import { partsInOrder, type ChainPart } from '@oscillum/core/model';
import { C } from '../../stage/pen';
import { framesAt, type Picture } from '../../sim/simulation';
import { moveMarks, sentenceOf, setMuted } from '../../state/edits';
import { selectShot, useAppDispatch, useAppSelector } from '../../state/store';
import { viewSlice } from '../../state/view';
import { usePicture } from '../common/desk';
import { sayTrouble } from '../common/say';
import { Drawn, Playhead, TimeBar, useScrub, useSpan, useTimeZoom } from '../common/Time';

/** One lane a chain on a shared ruler: how far it strays from its source, frame by frame. */
export function Lanes() {
  const shot = useAppSelector(selectShot)!;
  const picture = usePicture();
  const parts = partsInOrder(shot);
  return (
    <section
      className="lanes"
      {...useTimeZoom()}
      aria-label="Lanes"
      data-simulated={picture.version}
      data-whole={!picture.running}
      data-ms={picture.ms.toFixed(1)}
    >
      <TimeBar />
      <div className="rows">
        {picture.trouble && (
          <p className="empty trouble" role="alert">
            {picture.trouble.sentence}
          </p>
        )}
        {parts.length === 0 && (
          <p className="empty">
            Each chain gets a lane here: how far it strays from its source on every frame.
          </p>
        )}
        {parts.map((p) => (
          <Lane key={p.id} part={p} picture={picture} />
        ))}
      </div>
    </section>
  );
}

interface LaneData {
  /** Degrees by frame of the range; NaN where nothing is known. */
  stray: Float32Array;
  /** Links that press on something, by frame. */
  contacts: Uint16Array;
  /** How many frames from the first are of the present settings. */
  fresh: number;
  most: number;
  tip: number;
}

function laneData(picture: Picture, partId: string): LaneData | null {
  const { frames } = picture;
  const c = frames?.chains.findIndex((x) => x.partId === partId) ?? -1;
  if (!frames || c < 0) return null;
  const stray = new Float32Array(frames.count).fill(NaN);
  const contacts = new Uint16Array(frames.count);
  let most = 0;
  let tip = 0;
  for (let f = 0; f < frames.count; f++) {
    const rows = framesAt(picture, f);
    if (!rows) continue;
    stray[f] = rows.stray[f * rows.chains.length + c]!;
    contacts[f] = rows.contacts[f * rows.chains.length + c]!;
    most = Math.max(most, stray[f]!);
    tip = Math.max(tip, rows.tipStray[f * rows.chains.length + c]!);
  }
  return { stray, contacts, fresh: frames.done, most, tip };
}

/** Degrees at the top of a lane: at least 30, so that a still chain looks still. */
const FULL = 30;

function Lane({ part, picture }: { part: ChainPart; picture: Picture }) {
  const dispatch = useAppDispatch();
  const chosen = useAppSelector((s) => s.view.parts.includes(part.id));
  const shot = useAppSelector(selectShot)!;
  const { from, to } = useSpan();
  const scrub = useScrub();
  const data = useMemo(
    () => (part.muted ? null : laneData(picture, part.id)),
    [picture, part.id, part.muted],
  );
  const troubles = useMemo(
    () => (picture.advice?.diagnoses ?? []).filter((d) => d.partId === part.id).map((d) => d.frames),
    [picture.advice, part.id],
  );
  const alone = useAppSelector((s) => (s.view.solo.length === 0 ? null : s.view.solo.includes(part.id)));
  const night = useAppSelector((s) => s.view.night);
  const marks = useMarkDrag(part, scrub);
  const first = shot.range.first;
  const { preRoll } = shot;
  const { anchors, keys } = part;

  const draw = useCallback(
    (g: CanvasRenderingContext2D, w: number, h: number) => {
      const at = (f: number) => (f - from) / (to - from);
      g.clearRect(0, 0, w, h);
      if (preRoll > 0) {
        g.fillStyle = C.preroll;
        g.fillRect(0, 0, at(first) * w, h);
      }
      if (!data) return;
      const top = Math.max(FULL, data.most * 1.08);
      const x = (f: number) => at(first + f) * w;
      const y = (v: number) => h - 3 - (Math.min(v, top) / top) * (h - 8);
      const path = new Path2D();
      let open = false;
      data.stray.forEach((v, f) => {
        if (Number.isNaN(v)) return;
        if (open) path.lineTo(x(f), y(v));
        else path.moveTo(x(f), y(v));
        open = true;
      });
      const area = new Path2D(path);
      area.lineTo(x(data.stray.length - 1), h);
      area.lineTo(x(0), h);
      g.fillStyle = g.strokeStyle = C.verdigris;
      g.globalAlpha = 0.16;
      g.fill(area);
      g.globalAlpha = 1;
      g.lineWidth = 1.3;
      g.stroke(path);
      g.fillStyle = C.madder;
      data.contacts.forEach((n, f) => n > 0 && g.fillRect(x(f) - 1, h - 4, 2, 4));
      for (const a of anchors)
        anchorMark(g, at(a.frame) * w, at(a.frame - a.easeIn) * w, at(a.frame + a.easeOut) * w, h);
      for (const f of keyedFrames(keys)) keyMark(g, at(f) * w, h);
      g.fillStyle = C.madder;
      for (const [a, b] of troubles) g.fillRect(at(a) * w, 0, Math.max(3, (at(b) - at(a)) * w), 2.5);
      if (data.fresh < data.stray.length) hatch(g, x(Math.max(0, data.fresh - 1)), w, h);
    },
    // Night and day draw in other inks.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [data, first, preRoll, from, to, anchors, keys, troubles, night],
  );
  const select = useCallback(
    (add: boolean) => dispatch(viewSlice.actions.partsSelected({ parts: [part.id], add })),
    [dispatch, part.id],
  );
  const mute = () => {
    try {
      dispatch(setMuted([part.id], !part.muted));
    } catch (e) {
      sayTrouble(sentenceOf(e));
    }
  };
  return (
    <div className="lane" data-chosen={chosen} data-muted={part.muted} data-testid={`lane-${part.name}`}>
      <div className="lane-head" onClick={(e) => select(e.shiftKey || e.ctrlKey || e.metaKey)}>
        <span className="dot" />
        <button
          className="name"
          aria-pressed={chosen}
          aria-label={`Select ${part.name}`}
          onClick={(e) => (e.stopPropagation(), select(e.shiftKey || e.ctrlKey || e.metaKey))}
        >
          <b>{part.name}</b>
          <span data-testid="lane-numbers">
            {part.muted
              ? part.mutedBecause
                ? 'muted: baked already'
                : 'muted'
              : alone === false
                ? 'waits: another is alone'
                : data
                  ? `strays ${data.most.toFixed(1)}°, tip ${tipLength(data.tip)}`
                  : '…'}
          </span>
        </button>
        <button
          className="mini"
          aria-pressed={part.muted}
          aria-label={`${part.muted ? 'Unmute' : 'Mute'} ${part.name}`}
          title={part.muted ? 'Unmute (M)' : 'Mute: follow the source (M)'}
          onClick={(e) => (e.stopPropagation(), mute())}
        >
          m
        </button>
        <button
          className="mini"
          aria-pressed={alone === true}
          aria-label={`${alone ? 'Not only' : 'Only'} ${part.name}`}
          title="Look at this one alone: the others follow their source meanwhile"
          onClick={(e) => (e.stopPropagation(), dispatch(viewSlice.actions.soloed(part.id)))}
        >
          o
        </button>
        {part.settings.mix < 100 && !part.keys.mix?.length && (
          <span className="muted" style={{ fontSize: 11 }} title="Mix">
            {Number(part.settings.mix.toFixed(0))}%
          </span>
        )}
      </div>
      <div className="lane-body" data-muted={alone === false} {...marks}>
        <Drawn draw={draw} />
        <Playhead />
      </div>
    </div>
  );
}

/** Frames on which some setting of a part has a key. */
const keyedFrames = (keys: ChainPart['keys']): number[] => [
  ...new Set(Object.values(keys).flatMap((list) => list.map((k) => k.frame))),
];

/** How near to a mark the pointer takes hold of it, px. */
const NEAR = 5;

/** Dragging an anchor pose or keys along the lane; anywhere else the frame is dragged. */
function useMarkDrag(part: ChainPart, scrub: ReturnType<typeof useScrub>) {
  const dispatch = useAppDispatch();
  const { at, frameAt } = useSpan();
  const held = useRef<{ from: number; to: number } | null>(null);
  const marks = [...part.anchors.map((a) => a.frame), ...keyedFrames(part.keys)];
  const near = (e: React.PointerEvent): number | undefined => {
    const r = e.currentTarget.getBoundingClientRect();
    return marks.find((f) => Math.abs(at(f) * r.width - (e.clientX - r.left)) <= NEAR);
  };
  return {
    onPointerDown: (e: React.PointerEvent) => {
      const mark = e.altKey ? undefined : near(e);
      if (mark === undefined) return scrub.onPointerDown(e);
      e.currentTarget.setPointerCapture(e.pointerId);
      held.current = { from: mark, to: mark };
      dispatch(viewSlice.actions.frameSet(mark));
    },
    onPointerMove: (e: React.PointerEvent) => {
      if (!held.current) {
        (e.currentTarget as HTMLElement).style.cursor = near(e) === undefined ? '' : 'grab';
        return void scrub.onPointerMove(e);
      }
      const r = e.currentTarget.getBoundingClientRect();
      const to = frameAt((e.clientX - r.left) / r.width);
      if (to === held.current.to) return;
      held.current.to = to;
      dispatch(moveMarks(part.id, held.current.from, to, false));
    },
    onPointerUp: () => {
      if (held.current && held.current.to !== held.current.from)
        dispatch(moveMarks(part.id, held.current.from, held.current.to, true));
      held.current = null;
    },
  };
}

/** An anchor pose: a line, and the ease to either side of it. */
function anchorMark(g: CanvasRenderingContext2D, x: number, from: number, to: number, h: number): void {
  g.fillStyle = C.ochre;
  g.globalAlpha = 0.25;
  g.beginPath();
  g.moveTo(from, h);
  g.quadraticCurveTo(x, h, x, 6);
  g.quadraticCurveTo(x, h, to, h);
  g.fill();
  g.globalAlpha = 1;
  g.fillRect(x - 1, 4, 2, h - 4);
}

function keyMark(g: CanvasRenderingContext2D, x: number, h: number): void {
  g.fillStyle = C.plum;
  g.beginPath();
  g.moveTo(x, h - 10);
  g.lineTo(x + 4, h - 6);
  g.lineTo(x, h - 2);
  g.lineTo(x - 4, h - 6);
  g.fill();
}

function hatch(g: CanvasRenderingContext2D, from: number, to: number, h: number): void {
  g.save();
  g.beginPath();
  g.rect(from, 0, to - from, h);
  g.clip();
  g.globalAlpha = 0.6;
  g.fillStyle = C.sheet;
  g.fillRect(from, 0, to - from, h);
  g.globalAlpha = 0.45;
  g.strokeStyle = C.line;
  g.lineWidth = 1;
  g.beginPath();
  for (let x = from - h; x < to; x += 7) {
    g.moveTo(x, h);
    g.lineTo(x + h, 0);
  }
  g.stroke();
  g.restore();
}

function tipLength(m: number): string {
  return m >= 1
    ? `${m.toFixed(2)} m`
    : m >= 0.001
      ? `${(m * 100).toFixed(1)} cm`
      : `${(m * 1000).toFixed(1)} mm`;
}
