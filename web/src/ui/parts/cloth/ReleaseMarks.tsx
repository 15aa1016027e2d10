import type { ClothPart } from '@oscillum/core/cloth';
import { FrameMark } from '../../desk/FrameMark';
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
  const frame = part.release![end];
  return (
    <FrameMark
      frame={frame}
      className="release-end"
      label={`Frame on which ${part.name} ${SAYS[end]}`}
      title={`${SAYS[end]} on frame ${frame}: drag it`}
      edit="Set when it lets go"
      end={end}
      onMove={(to) => (d) => {
        const own = d.parts[part.id];
        if (own?.kind === 'cloth') moved(own as ClothPart, end, to);
      }}
    />
  );
}
