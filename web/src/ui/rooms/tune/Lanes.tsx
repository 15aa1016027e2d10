import { useMemo } from 'react';
import { partsInOrder } from '@oscillum/core/shot';
import { type Picture } from '../../../sim/picture';
import { called } from '../../../state/edits';
import { listLanes, type LaneListing } from '../../../state/lanes';
import { selectShot, useAppDispatch, useAppSelector } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { usePicture } from '../../kit/desk';
import { uiOf } from '../../parts';
import { useTimeZoom } from '../../desk/Time';
import { TimeBar } from '../../desk/TimeBar';
import { Lane } from './Lane';
import { WorldKeys } from './LaneKeys';
import { useMarquee } from './laneMarks';

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
          <p className="empty">Each part gets a lane here: how far it is off its source on every frame.</p>
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
                    {uiOf(g.parts[0]!).laneText(
                      Math.max(...g.parts.map((p) => worst[p.id]?.offSource ?? 0)),
                      null,
                    )}
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
        <WorldKeys />
        {marquee.box && <div className="marquee" style={marquee.box} />}
      </div>
    </section>
  );
}

/** From this many lanes on they can be filtered, sorted and grouped. */
const FEW = 6;

/** Troubles and largest straying (degrees) of each part. */
function worstOf({ frames, advice }: Picture): Record<string, { troubles: number; offSource: number }> {
  const out: Record<string, { troubles: number; offSource: number }> = {};
  frames?.parts.forEach(({ partId }, c) => {
    let offSource = 0;
    for (let f = 0; f < frames.done; f++)
      offSource = Math.max(offSource, frames.offSource[f * frames.parts.length + c]!);
    out[partId] = { troubles: advice?.diagnoses.filter((d) => d.partId === partId).length ?? 0, offSource };
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
        <option value="off source">farthest off source first</option>
      </select>
      <button className="mini" aria-pressed={grouped} onClick={() => list({ grouped: !grouped })}>
        in groups
      </button>
      <span className="muted small">{shown} shown</span>
    </div>
  );
}
