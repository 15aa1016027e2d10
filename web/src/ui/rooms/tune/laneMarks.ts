import { useRef, useState } from 'react';
import type { Part } from '@oscillum/core/shot';
import { marksOf, type Mark } from '../../../state/lanes';
import { change, preview, type Recipe } from '../../../state/edits';
import { shiftMarks } from '../../../state/marks';
import { selectShot, useAppDispatch, useAppSelector } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { useScrub, useSpan } from '../../desk/Time';

/** Shift and a drag across lanes chooses the marks under it. */
export function useMarquee() {
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

/** How near to a mark the pointer takes hold of it, px. */
const NEAR = 5;

/** The grip of an anchor pose's ease, or of how long it is held. */
interface Grip {
  readonly frame: number;
  readonly of: 'easeIn' | 'easeOut' | 'hold';
}

/** Gives an ease of an anchor pose as many frames as reach to `to`. */
const withEase =
  (id: string, grip: Grip, to: number): Recipe =>
  (d) => {
    const a = d.parts[id]?.anchors.find((x) => x.frame === grip.frame);
    if (!a) return;
    if (grip.of === 'easeIn') a.easeIn = Math.max(0, a.frame - to);
    else if (grip.of === 'hold') a.hold = Math.max(0, to - a.frame);
    else a.easeOut = Math.max(0, to - a.frame - a.hold);
  };

/** Dragging the ease of an anchor pose by its grips at the foot of the lane. */
function useEaseDrag(part: Part) {
  const dispatch = useAppDispatch();
  const { at, frameAt } = useSpan();
  const held = useRef<{ grip: Grip; to: number } | null>(null);
  const near = (e: React.PointerEvent): Grip | undefined => {
    const r = e.currentTarget.getBoundingClientRect();
    if (e.clientY < r.bottom - 14) return undefined;
    return part.anchors
      .flatMap((a): (Grip & { readonly x: number })[] => [
        { frame: a.frame, of: 'easeIn', x: a.frame - a.easeIn },
        { frame: a.frame, of: 'easeOut', x: a.frame + a.hold + a.easeOut },
        ...(a.hold > 0 ? [{ frame: a.frame, of: 'hold' as const, x: a.frame + a.hold }] : []),
      ])
      .find(({ x }) => Math.abs(at(x) * r.width - (e.clientX - r.left)) <= NEAR);
  };
  return {
    near,
    down: (e: React.PointerEvent): boolean => {
      const grip = near(e);
      if (!grip) return false;
      e.currentTarget.setPointerCapture(e.pointerId);
      held.current = { grip, to: NaN };
      return true;
    },
    move: (e: React.PointerEvent): boolean => {
      if (!held.current) return false;
      const r = e.currentTarget.getBoundingClientRect();
      held.current.to = frameAt((e.clientX - r.left) / r.width);
      dispatch(preview(withEase(part.id, held.current.grip, held.current.to)));
      return true;
    },
    up: (): boolean => {
      const h = held.current;
      held.current = null;
      if (h && !Number.isNaN(h.to))
        dispatch(change('Set the ease of a pose', withEase(part.id, h.grip, h.to)));
      return h !== null;
    },
  };
}

/**
 * Dragging a mark along the lane, with all that are chosen when it is one of them; anywhere else the frame is dragged.
 */
export function useMarkDrag(part: Part, scrub: ReturnType<typeof useScrub>) {
  const dispatch = useAppDispatch();
  const { at, frameAt } = useSpan();
  const chosen = useAppSelector((s) => s.view.marks);
  const held = useRef<{ from: number; to: number; marks: readonly Mark[] } | null>(null);
  const ease = useEaseDrag(part);
  const frames = marksOf(part).map((m) => m.frame);
  const near = (e: React.PointerEvent): number | undefined => {
    const r = e.currentTarget.getBoundingClientRect();
    return frames.find((f) => Math.abs(at(f) * r.width - (e.clientX - r.left)) <= NEAR);
  };
  return {
    onPointerDown: (e: React.PointerEvent) => {
      if (ease.down(e)) return;
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
      if (ease.move(e)) return;
      if (!held.current) {
        (e.currentTarget as HTMLElement).style.cursor = ease.near(e)
          ? 'ew-resize'
          : near(e) === undefined
            ? ''
            : 'grab';
        return void scrub.onPointerMove(e);
      }
      const r = e.currentTarget.getBoundingClientRect();
      const to = frameAt((e.clientX - r.left) / r.width);
      if (to === held.current.to) return;
      held.current.to = to;
      dispatch(shiftMarks(held.current.marks, to - held.current.from, false));
    },
    onPointerUp: () => {
      if (ease.up()) return;
      const h = held.current;
      held.current = null;
      if (!h || h.to === h.from) return;
      const by = h.to - h.from;
      dispatch(shiftMarks(h.marks, by, true));
      dispatch(viewSlice.actions.marksChosen(h.marks.map((m) => ({ ...m, frame: m.frame + by }))));
    },
  };
}
