import { useRef, useState } from 'react';
import type { Part } from '@oscillum/core/shot';
import { marksOf, type Mark } from '../../../state/lanes';
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

/**
 * Dragging a mark along the lane, with all that are chosen when it is one of them; anywhere else the frame is dragged.
 */
export function useMarkDrag(part: Part, scrub: ReturnType<typeof useScrub>) {
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
