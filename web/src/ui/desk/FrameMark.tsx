import { useRef } from 'react';
import { change, preview, type Recipe } from '../../state/edits';
import { useAppDispatch } from '../../state/store';
import { useSpan } from './Time';

interface FrameMarkProps {
  frame: number;
  className: string;
  /** What the frame is, for who does not see it; and what is said when the pointer rests on it. */
  label: string;
  title: string;
  /** What the edit is called in the history. */
  edit: string;
  /** What it does when it is moved to a frame. */
  onMove: (frame: number) => Recipe;
  /** For its looks. */
  end?: string;
}

/** A frame in a lane that is dragged, or moved by the arrow keys; while it is dragged the shot answers. */
export function FrameMark({ frame, className, label, title, edit, onMove, end }: FrameMarkProps) {
  const dispatch = useAppDispatch();
  const { at, frameAt } = useSpan();
  const to = useRef<number | null>(null);
  const share = at(frame);
  if (share < 0 || share > 1) return null;
  return (
    <i
      className={className}
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuenow={frame}
      title={title}
      data-end={end}
      style={{ left: `${100 * share}%` }}
      onPointerDown={(e) => {
        e.stopPropagation();
        e.currentTarget.setPointerCapture(e.pointerId);
        to.current = frame;
      }}
      onPointerMove={(e) => {
        if (to.current === null) return;
        e.stopPropagation();
        const r = e.currentTarget.parentElement!.getBoundingClientRect();
        to.current = frameAt((e.clientX - r.left) / r.width);
        dispatch(preview(onMove(to.current)));
      }}
      onPointerUp={(e) => {
        e.stopPropagation();
        if (to.current !== null) dispatch(change(edit, onMove(to.current)));
        to.current = null;
      }}
      onKeyDown={(e) => {
        const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
        if (by === undefined) return;
        e.preventDefault();
        e.stopPropagation();
        dispatch(change(edit, onMove(frame + by)));
      }}
    />
  );
}
