import { memo, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { partsInOrder, type Part } from '@oscillum/core/shot';
import { C, THIN } from '../../../stage/pen';
import { framesAt, type Picture } from '../../../sim/simulation';
import { called, sentenceOf, setMuted } from '../../../state/edits';
import { keyedFrames, listLanes, marksOf, type LaneListing, type Mark } from '../../../state/lanes';
import { shiftMarks } from '../../../state/marks';
import { selectShot, useAppDispatch, useAppSelector } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { usePicture } from '../../kit/desk';
import { sayTrouble } from '../../kit/say';
import { uiOf } from '../../parts';
import { Drawn, Playhead, TimeBar, useScrub, useShotTime, useSpan, useTimeZoom } from '../../desk/Time';

/** One lane a part on a shared ruler: how far it strays from its source, frame by frame. */
export function Lanes() {
  const shot = useAppSelector(selectShot)!;
  const picture = usePicture();
  const parts = partsInOrder(shot);
  const { listing, folded } = useAppSelector((s) => s.view);
  const dispatch = useAppDispatch();
  const worst = useMemo(() => worstOf(picture), [picture]);
  const groups = listLanes(parts, listing, worst);
  const marquee = useMarquee();
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
      {parts.length > FEW && <LaneTools shown={groups.reduce((n, g) => n + g.parts.length, 0)} />}
      <div className="rows" {...marquee.on}>
        {picture.trouble && (
          <p className="empty trouble" role="alert">
            {picture.trouble.sentence}
          </p>
        )}
        {parts.length === 0 && (
          <p className="empty">
            Each part gets a lane here: how far it strays from its source on every frame.
          </p>
        )}
        {groups.map((g) =>
          g.parts.length === 1 ? (
            <Lane key={g.parts[0]!.id} part={g.parts[0]!} picture={picture} />
          ) : (
            <div key={g.name} role="group" aria-label={g.name}>
              <div className="group-head">
                <button
                  className="plain"
                  aria-expanded={!folded.includes(g.name)}
                  onClick={() => dispatch(viewSlice.actions.groupFolded(g.name))}
                >
                  {folded.includes(g.name) ? '▸' : '▾'} <b>{g.name}</b>{' '}
                  <span className="muted">
                    {called(g.parts)}, the farthest{' '}
                    {uiOf(g.parts[0]!).laneText(Math.max(...g.parts.map((p) => worst[p.id]?.strays ?? 0)), 0)}
                  </span>
                </button>
                <button
                  className="plain muted small"
                  onClick={() =>
                    dispatch(viewSlice.actions.partsSelected({ parts: g.parts.map((p) => p.id) }))
                  }
                >
                  select all
                </button>
              </div>
              {!folded.includes(g.name) && g.parts.map((p) => <Lane key={p.id} part={p} picture={picture} />)}
            </div>
          ),
        )}
        {marquee.box && <div className="marquee" style={marquee.box} />}
      </div>
    </section>
  );
}

/** From this many lanes on they can be filtered, sorted and grouped. */
const FEW = 6;

/** Troubles and largest straying (degrees) of each part. */
function worstOf({ frames, advice }: Picture): Record<string, { troubles: number; strays: number }> {
  const out: Record<string, { troubles: number; strays: number }> = {};
  frames?.parts.forEach(({ partId }, c) => {
    let strays = 0;
    for (let f = 0; f < frames.done; f++)
      strays = Math.max(strays, frames.stray[f * frames.parts.length + c]!);
    out[partId] = { troubles: advice?.diagnoses.filter((d) => d.partId === partId).length ?? 0, strays };
  });
  return out;
}

function LaneTools({ shown }: { shown: number }) {
  const dispatch = useAppDispatch();
  const { filter, sort, grouped } = useAppSelector((s) => s.view.listing);
  const list = (change: Partial<LaneListing>) => dispatch(viewSlice.actions.listed(change));
  return (
    <div className="lane-tools">
      <input
        aria-label="Filter lanes"
        placeholder="Filter lanes"
        value={filter}
        onChange={(e) => list({ filter: e.target.value })}
        onKeyDown={(e) => e.stopPropagation()}
      />
      <select
        aria-label="Sort lanes"
        value={sort}
        onChange={(e) => list({ sort: e.target.value as LaneListing['sort'] })}
      >
        <option value="order">as made</option>
        <option value="trouble">worst trouble first</option>
        <option value="strays">farthest straying first</option>
      </select>
      <button className="mini" aria-pressed={grouped} onClick={() => list({ grouped: !grouped })}>
        in groups
      </button>
      <span className="muted small">{shown} shown</span>
    </div>
  );
}

/** Shift and a drag across lanes chooses the marks under it. */
function useMarquee() {
  const dispatch = useAppDispatch();
  const shot = useAppSelector(selectShot)!;
  const { from, to } = useSpan();
  const start = useRef<{ x: number; y: number } | null>(null);
  const [box, setBox] = useState<React.CSSProperties | null>(null);
  const on = {
    onPointerDownCapture: (e: React.PointerEvent) => {
      if (!e.shiftKey || e.button !== 0 || !(e.target as HTMLElement).closest('.lane-body')) return;
      e.stopPropagation();
      e.currentTarget.setPointerCapture(e.pointerId);
      start.current = { x: e.clientX, y: e.clientY };
    },
    onPointerMoveCapture: (e: React.PointerEvent) => {
      const s = start.current;
      if (!s) return;
      e.stopPropagation();
      const r = e.currentTarget.getBoundingClientRect();
      setBox({
        left: Math.min(s.x, e.clientX) - r.left,
        top: Math.min(s.y, e.clientY) - r.top + e.currentTarget.scrollTop,
        width: Math.abs(e.clientX - s.x),
        height: Math.abs(e.clientY - s.y),
      });
    },
    onPointerUpCapture: (e: React.PointerEvent) => {
      const s = start.current;
      if (!s) return;
      e.stopPropagation();
      start.current = null;
      setBox(null);
      const [left, right] = [Math.min(s.x, e.clientX), Math.max(s.x, e.clientX)];
      const [top, bottom] = [Math.min(s.y, e.clientY), Math.max(s.y, e.clientY)];
      const marks = [...e.currentTarget.querySelectorAll<HTMLElement>('.lane-body')].flatMap((body) => {
        const r = body.getBoundingClientRect();
        const part = shot.parts[body.dataset.part ?? ''];
        if (!part || r.bottom < top || r.top > bottom) return [];
        const frame = (x: number) => from + ((x - r.left) / r.width) * (to - from);
        return marksOf(part).filter((m) => m.frame >= frame(left) && m.frame <= frame(right));
      });
      dispatch(viewSlice.actions.marksChosen(marks));
    },
  };
  return { on, box };
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
  const c = frames?.parts.findIndex((x) => x.partId === partId) ?? -1;
  if (!frames || c < 0) return null;
  const stray = new Float32Array(frames.count).fill(NaN);
  const contacts = new Uint16Array(frames.count);
  let most = 0;
  let tip = 0;
  for (let f = 0; f < frames.count; f++) {
    const rows = framesAt(picture, f);
    if (!rows) continue;
    stray[f] = rows.stray[f * rows.parts.length + c]!;
    contacts[f] = rows.contacts[f * rows.parts.length + c]!;
    most = Math.max(most, stray[f]!);
    tip = Math.max(tip, rows.tipStray[f * rows.parts.length + c]!);
  }
  return { stray, contacts, fresh: frames.done, most, tip };
}

interface LaneProps {
  part: Part;
  picture: Picture;
}

/** Of the settings a lane shows the mix alone. */
const sameLane = (a: LaneProps, b: LaneProps): boolean =>
  a.picture === b.picture &&
  a.part.settings.mix === b.part.settings.mix &&
  (Object.keys(a.part) as (keyof Part)[]).every((k) => k === 'settings' || a.part[k] === b.part[k]);

const Lane = memo(function Lane({ part, picture }: LaneProps) {
  const dispatch = useAppDispatch();
  const chosen = useAppSelector((s) => s.view.parts.includes(part.id));
  const { range, preRoll } = useShotTime();
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
  const chosenMarks = useAppSelector((s) => s.view.marks);
  const picked = useMemo(
    () => chosenMarks.filter((m) => m.part === part.id).map((m) => m.frame),
    [chosenMarks, part.id],
  );
  const { first } = range;
  const { anchors, keys } = part;
  const { full } = uiOf(part);

  const draw = useCallback(
    (g: CanvasRenderingContext2D, w: number, h: number) => {
      const at = (f: number) => (f - from) / (to - from);
      g.clearRect(0, 0, w, h);
      if (preRoll > 0) {
        g.fillStyle = C.preroll;
        g.fillRect(0, 0, at(first) * w, h);
      }
      if (!data) return;
      const top = Math.max(full, data.most * 1.08);
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
      g.lineWidth = THIN;
      g.stroke(path);
      g.fillStyle = C.madder;
      // Contacts on frames that follow one another are one bar.
      for (let f = 0, since = -1; f <= data.contacts.length; f++) {
        const presses = f < data.contacts.length && data.contacts[f]! > 0;
        if (presses && since < 0) since = f;
        if (presses || since < 0) continue;
        g.fillRect(x(since) - 1, h - 4, x(f - 1) - x(since) + 2, 4);
        since = -1;
      }
      for (const a of anchors)
        anchorMark(g, at(a.frame) * w, at(a.frame - a.easeIn) * w, at(a.frame + a.easeOut) * w, h);
      for (const f of keyedFrames(keys)) keyMark(g, at(f) * w, h);
      g.strokeStyle = C.ink;
      g.lineWidth = 1.5;
      for (const f of picked) g.strokeRect(at(f) * w - 6, 2, 12, h - 4);
      g.fillStyle = C.madder;
      for (const [a, b] of troubles) g.fillRect(at(a) * w, 0, Math.max(3, (at(b) - at(a)) * w), 2.5);
      if (data.fresh < data.stray.length) hatch(g, x(Math.max(0, data.fresh - 1)), w, h);
    },
    // Night and day draw in other inks.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [data, first, preRoll, from, to, anchors, keys, picked, troubles, night, full],
  );
  // What was just made or chosen elsewhere is brought into sight.
  const lane = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (chosen) lane.current?.scrollIntoView({ block: 'nearest' });
  }, [chosen]);
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
    <div
      ref={lane}
      className="lane"
      data-chosen={chosen}
      data-muted={part.muted}
      data-testid={`lane-${part.name}`}
    >
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
              ? part.bakedInto !== null
                ? 'muted: baked already'
                : 'muted'
              : alone === false
                ? 'waits: another is alone'
                : data
                  ? uiOf(part).laneText(data.most, data.tip)
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
      <div className="lane-body" data-part={part.id} data-muted={alone === false} {...marks}>
        <Drawn draw={draw} />
        <Playhead />
      </div>
    </div>
  );
}, sameLane);

/** How near to a mark the pointer takes hold of it, px. */
const NEAR = 5;

/** Dragging a mark along the lane, with all that are chosen when it is one of them; anywhere else the frame is dragged. */
function useMarkDrag(part: Part, scrub: ReturnType<typeof useScrub>) {
  const dispatch = useAppDispatch();
  const { at, frameAt } = useSpan();
  const chosen = useAppSelector((s) => s.view.marks);
  const held = useRef<{ from: number; to: number; marks: readonly Mark[] } | null>(null);
  const frames = marksOf(part).map((m) => m.frame);
  const near = (e: React.PointerEvent): number | undefined => {
    const r = e.currentTarget.getBoundingClientRect();
    return frames.find((f) => Math.abs(at(f) * r.width - (e.clientX - r.left)) <= NEAR);
  };
  return {
    onPointerDown: (e: React.PointerEvent) => {
      const frame = e.altKey ? undefined : near(e);
      if (frame === undefined) {
        if (chosen.length > 0) dispatch(viewSlice.actions.marksChosen([]));
        return scrub.onPointerDown(e);
      }
      e.currentTarget.setPointerCapture(e.pointerId);
      const own = { part: part.id, frame };
      const among = chosen.some((m) => m.part === part.id && m.frame === frame);
      held.current = { from: frame, to: frame, marks: among ? chosen : [own] };
      if (!among) dispatch(viewSlice.actions.marksChosen([own]));
      dispatch(viewSlice.actions.frameSet(frame));
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
      dispatch(shiftMarks(held.current.marks, to - held.current.from, false));
    },
    onPointerUp: () => {
      const h = held.current;
      held.current = null;
      if (!h || h.to === h.from) return;
      const by = h.to - h.from;
      dispatch(shiftMarks(h.marks, by, true));
      dispatch(viewSlice.actions.marksChosen(h.marks.map((m) => ({ ...m, frame: m.frame + by }))));
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
