import { useMemo } from 'react';
import { readWeightMap } from '@oscillum/core/model';
import { growArea } from '@oscillum/core/simulate';
import { MOST_GUIDES, type StrandMapKey, type StrandsPart } from '@oscillum/core/strands';
import { changeStrands, comb, growAgain, paintHair } from '../../../state/parts/strands/edits';
import { selectShot, useAppSelector, type Thunk } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { CheckRow, NumberRow } from '../../kit/Rows';
import { PaintedRows } from '../PaintedRows';

/** How its guides are grown: a change grows them anew. */
export function GrowRows({ part, run }: { part: StrandsPart; run: (t: Thunk) => void }) {
  const { character } = useDesk();
  const { growth } = part;
  if (!growth) return null;
  const set = (name: string, more: Partial<NonNullable<StrandsPart['growth']>>) =>
    run(growAgain(character, part.id, name, more));
  if (growth.changed)
    return (
      <Changed guides={part.groom.points.length} count={growth.count} anew={() => set('Grow anew', {})} />
    );
  return (
    <>
      <h3>Guides</h3>
      <NumberRow
        label="Guides"
        says="How many move; the hair between them is drawn"
        whole
        value={growth.count}
        onSet={(v) => set('Set how many guides', { count: Math.min(2000, Math.max(1, Math.round(v))) })}
      />
      <Spacing part={part} onCount={(count) => set('Set how far apart guides stand', { count })} />
      <NumberRow
        label="Length"
        unit="m"
        value={growth.length}
        onSet={(v) => set('Set how long it grows', { length: Math.min(1000, Math.max(1e-3, v)) })}
      />
      <NumberRow
        label="Points a guide"
        says="More bend in finer curves; the motion stays the same"
        whole
        value={growth.points}
        onSet={(v) => set('Set points of a guide', { points: Math.min(64, Math.max(3, Math.round(v))) })}
      />
      <NumberRow
        label="Lean"
        unit="%"
        says={`0 stands straight out of the skin, 100 lies along it, ${growth.way ? 'the way that was drawn' : 'downward'}`}
        value={Math.round(100 * growth.lean)}
        onSet={(v) => set('Set its lean', { lean: Math.min(1, Math.max(0, v / 100)) })}
      />
      <CheckRow
        label="Alike on both sides"
        says="Guides of one side are those of the other, mirrored"
        value={growth.mirrored}
        onSet={(mirrored) =>
          set(mirrored ? 'Grow both sides alike' : 'Grow each side for itself', { mirrored })
        }
      />
      <Again part={part} run={run} set={set} />
    </>
  );
}

interface AgainProps {
  readonly part: StrandsPart;
  run(t: Thunk): void;
  set(name: string, more: Partial<NonNullable<StrandsPart['growth']>>): void;
}

/** Other ways and places to grow it. */
function Again({ part, run, set }: AgainProps) {
  const growth = part.growth!;
  return (
    <div className="presses">
      <button
        className="mini"
        title="Draw a stroke on the skin: hair grows anew, leaning that way"
        onClick={() => run(comb(part.id, 'grow along'))}
      >
        draw which way it leans
      </button>
      {growth.way && (
        <button className="mini" onClick={() => set('Lean downward', { way: null })}>
          downward again
        </button>
      )}
      <button
        className="mini"
        title="The same guides at other places"
        onClick={() => set('Grow at other places', { seed: (growth.seed % 1_000_000) + 1 })}
      >
        other places
      </button>
      {part.maps.grow && (
        <button
          className="mini"
          title="Grows it where it is painted now"
          onClick={() => set('Grow as painted', {})}
        >
          grow as painted
        </button>
      )}
    </div>
  );
}

/** How far apart guides stand: so many fill where it grows. */
function Spacing({ part, onCount }: { part: StrandsPart; onCount: (count: number) => void }) {
  const { character } = useDesk();
  const metres = useAppSelector((s) => selectShot(s)!.character.metresPerUnit);
  const { node } = part.mesh;
  const map = part.maps.grow;
  const area = useMemo(
    () => growArea(character, node, metres, map ? readWeightMap(map) : null),
    [character, node, metres, map],
  );
  const count = part.growth?.count ?? 1;
  if (!(area > 0)) return null;
  return (
    <NumberRow
      label="Spacing"
      unit="m"
      says="How far apart guides stand on the mean"
      value={Number(Math.sqrt(area / count).toPrecision(3))}
      onSet={(v) => onCount(Math.min(MOST_GUIDES, Math.max(1, Math.round(area / Math.max(1e-9, v * v)))))}
    />
  );
}

/** What stands where guides were brushed since they were grown: growing loses that. */
function Changed({ guides, count, anew }: { guides: number; count: number; anew: () => void }) {
  return (
    <>
      <h3>Guides</h3>
      <p className="muted small">{guides} guides, brushed or drawn since they were grown.</p>
      <div className="presses">
        <button
          className="mini"
          title={`Grows ${count} new ones in their place: what was brushed is lost (it can be undone)`}
          onClick={anew}
        >
          grow anew
        </button>
      </div>
    </>
  );
}

/** Maps of hair, and what stands where they are not painted. */
const MAPS: readonly (readonly [StrandMapKey, string, string])[] = [
  ['grow', 'Where it grows', 'everywhere'],
  ['hold', 'Hold', 'the same all over'],
  ['bend', 'Bend', 'the same all over'],
];

/** What is painted on the mesh that hair grows on. */
export function HairMaps({ part, run }: { part: StrandsPart; run: (t: Thunk) => void }) {
  const { character } = useDesk();
  return (
    <PaintedRows
      id={part.id}
      maps={MAPS.filter(([key]) => key !== 'grow' || part.growth).map(([key, label, says]) => ({
        ...{ key, label, says: part.maps[key] ? null : says },
      }))}
      onPaint={(key) => run(paintHair(character, part.id, key))}
      onRemove={(key) =>
        run(
          changeStrands(
            [part.id],
            key === 'grow' ? 'Let it grow everywhere' : `Take the map of ${key} away`,
            (p) => void delete p.maps[key],
          ),
        )
      }
    />
  );
}
