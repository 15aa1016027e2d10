import { useRef } from 'react';
import type { ClothPart } from '@oscillum/core/cloth';
import { preview, type Recipe } from '../../../state/edits';
import { changeCloths } from '../../../state/parts/cloth/edits';
import { useAppDispatch } from '../../../state/store';
import { useSpan } from '../../desk/Time';
import { LoopEnd } from './LoopEnd';

type End = 'first' | 'last';
const SAYS: Record<End, string> = { first: 'begins to let go', last: 'has let go' };

/** Moves one end of a release: the other gives way. */
function moved(part: ClothPart, end: End, frame: number): void {
  const r = part.release;
  if (!r) return;
  r[end] = frame;
  if (end === 'first') r.last = Math.max(r.last, frame);
  else r.first = Math.min(r.first, frame);
}

/**
 * What a cloth marks in its lane: the frames between which it lets go, each dragged or moved with the arrow keys, and
 * the end of a loop that goes over into its beginning.
 */
export function ReleaseMarks({ part }: { part: ClothPart }) {
  return (
    <>
      <LoopEnd />
      {part.release &&
        (['first', 'last'] as const).map((end) => <ReleaseEnd key={end} part={part} end={end} />)}
    </>
  );
}

function ReleaseEnd({ part, end }: { part: ClothPart; end: End }) {
  const dispatch = useAppDispatch();
  const { at, frameAt } = useSpan();
  const to = useRef<number | null>(null);
  const frame = part.release![end];
  const share = at(frame);
  if (share < 0 || share > 1) return null;
  const put = (f: number) =>
    dispatch(changeCloths([part.id], 'Set when it lets go', (p) => moved(p, end, f)));
  const recipe =
    (f: number): Recipe =>
    (d) => {
      const own = d.parts[part.id];
      if (own?.kind === 'cloth') moved(own as ClothPart, end, f);
    };
  return (
    <i
      className="release-end"
      role="slider"
      tabIndex={0}
      aria-label={`Frame on which ${part.name} ${SAYS[end]}`}
      aria-valuenow={frame}
      title={`${SAYS[end]} on frame ${frame}: drag it`}
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
        dispatch(preview(recipe(to.current)));
      }}
      onPointerUp={(e) => {
        e.stopPropagation();
        if (to.current !== null) put(to.current);
        to.current = null;
      }}
      onKeyDown={(e) => {
        const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
        if (by === undefined) return;
        e.preventDefault();
        e.stopPropagation();
        put(frame + by);
      }}
    />
  );
}
