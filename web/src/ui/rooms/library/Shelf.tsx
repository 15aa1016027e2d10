import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import type { ShotsAsked, ShotSummary } from '@oscillum/core/contract';
import { libraryApi, type Failure } from '../../../api/library';
import { say, sayTrouble } from '../../kit/say';
import { useThumbnail } from './thumbnails';

/** Which shots the shelf holds. */
export type Asked = Pick<ShotsAsked, 'search' | 'sort'>;

/** Shots that are fetched together. */
const PAGE = 60;
/** Width of a card at least, height of a row, and the gap between them, px. */
const CARD = 250;
const ROW = 248;
const GAP = 18;

/** The request for the page with a shot, by its place in the list. */
export const pageOf = (asked: Asked, place: number): Partial<ShotsAsked> => ({
  ...asked,
  from: PAGE * Math.floor(place / PAGE),
  count: PAGE,
});

/** The shots as cards, of which only those in sight are made; pages are fetched as they come into sight. */
export function Shelf({ asked, total }: { asked: Asked; total: number }) {
  const shelf = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  const [top, setTop] = useState(0);
  useEffect(() => {
    const own = shelf.current!;
    const observer = new ResizeObserver(() => {
      setWidth(own.clientWidth);
      setTop(own.offsetTop);
    });
    observer.observe(own);
    return () => observer.disconnect();
  }, []);
  const columns = Math.max(1, Math.floor((width + GAP) / (CARD + GAP)));
  const rows = useVirtualizer({
    count: width > 0 ? Math.ceil(total / columns) : 0,
    getScrollElement: () => shelf.current?.closest('main') ?? null,
    estimateSize: () => ROW + GAP,
    scrollMargin: top,
    overscan: 2,
  });
  return (
    <div ref={shelf} className="shelf" style={{ height: rows.getTotalSize() }}>
      {rows.getVirtualItems().map(({ index, start }) => (
        <div
          key={index}
          className="shelf-row"
          style={{
            height: ROW,
            transform: `translateY(${start - top}px)`,
            gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))`,
          }}
        >
          <Row asked={asked} from={index * columns} count={Math.min(columns, total - index * columns)} />
        </div>
      ))}
    </div>
  );
}

/** Cards from a place in the list on; their page may have to be fetched first, and they may lie on two. */
function Row({ asked, from, count }: { asked: Asked; from: number; count: number }) {
  const { data: first } = libraryApi.useShotsQuery(pageOf(asked, from));
  const { data: second } = libraryApi.useShotsQuery(pageOf(asked, from + count - 1));
  return Array.from({ length: count }, (_, k) => {
    const place = from + k;
    const page = Math.floor(place / PAGE) === Math.floor(from / PAGE) ? first : second;
    const shot = page?.shots[place % PAGE];
    return shot ? <ShotCard key={shot.id} shot={shot} /> : <article key={place} className="card" aria-busy />;
  });
}

function ShotCard({ shot }: { shot: ShotSummary }) {
  const [rename] = libraryApi.useRenameShotMutation();
  const [duplicate] = libraryApi.useDuplicateShotMutation();
  const [remove] = libraryApi.useDeleteShotMutation();
  const [restore] = libraryApi.useRestoreShotMutation();
  const [typed, setTyped] = useState<string | null>(null);
  const picture = useThumbnail(shot);
  const tell = (e: unknown) => sayTrouble((e as Failure).message ?? String(e));
  const finish = () => {
    if (typed?.trim() && typed.trim() !== shot.name)
      rename({ id: shot.id, revision: shot.revision, from: shot.name, to: typed.trim() })
        .unwrap()
        .catch(tell);
    setTyped(null);
  };
  const take = () =>
    remove(shot.id)
      .unwrap()
      .then(() =>
        say(`“${shot.name}” was deleted.`, {
          label: 'Undo',
          run: () => void restore(shot.id).unwrap().catch(tell),
        }),
      )
      .catch(tell);
  return (
    <article className="card" aria-label={shot.name}>
      <Link className="picture" to={`/shot/${shot.id}/tune`} aria-label={`Open ${shot.name}`} tabIndex={-1}>
        {picture ? <img src={picture} alt="" /> : <span>…</span>}
      </Link>
      <div className="under">
        {typed === null ? (
          <b title={shot.name}>{shot.name}</b>
        ) : (
          <input
            autoFocus
            aria-label="New name"
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
            onBlur={finish}
            onKeyDown={(e) =>
              e.key === 'Enter' ? e.currentTarget.blur() : e.key === 'Escape' && setTyped(null)
            }
          />
        )}
        <span className="muted">
          {shot.clip || 'no clip'} · {shot.frames} frames · {shot.parts} {shot.parts === 1 ? 'part' : 'parts'}
        </span>
        <span className="acts">
          <Link
            className="plain"
            style={{ color: 'var(--verdigris)', textDecoration: 'none', fontSize: 12 }}
            to={`/shot/${shot.id}/tune`}
          >
            Open
          </Link>
          <button className="plain" onClick={() => setTyped(shot.name)}>
            Rename
          </button>
          <button className="plain" onClick={() => void duplicate(shot.id).unwrap().catch(tell)}>
            Duplicate
          </button>
          <button className="plain" onClick={() => void take()}>
            Delete
          </button>
        </span>
      </div>
    </article>
  );
}
