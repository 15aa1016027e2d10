import { SKIN_SETTINGS, SkinSettings, type SkinPart } from '@oscillum/core/skin';
import { bodiesBelow, changeSkins, paintSkin, removeShare } from '../../../state/parts/skin/edits';
import { selectShot, useAppDispatch, useAppSelector } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { useDesk } from '../../kit/desk';
import { ResponseCard } from '../../kit/ResponseCard';
import { CheckRow, NumberRow } from '../../kit/Rows';
import { SettingGroups } from '../../kit/SettingGroups';
import { AnchorRows } from '../AnchorRows';
import { Breathe } from '../Breathe';
import type { PanelProps } from '../kind';
import { Larger } from '../Larger';
import { PaintedRows } from '../PaintedRows';
import { Tints } from '../Tints';

const INITIAL = SkinSettings.parse({});

/** What the selected skins lie over, and how they go along. */
export function SkinPanel({ parts, run }: PanelProps<SkinPart>) {
  const { character } = useDesk();
  const ids = parts.map((p) => p.id);
  const one = parts[0]!;
  return (
    <>
      {parts.length === 1 && <Below part={one} run={run} />}
      {parts.every((p) => p.below.length > 0) && (
        <ResponseCard
          parts={parts}
          roughly={() => ({})}
          what="what it lies over, after a quick step aside"
          still="Read the lane for what it does on this shot."
          run={run}
        />
      )}
      <NumberRow
        label="Reach"
        unit="m"
        says="How near a soft body skin is, in the rest pose, that goes along; the farther half of it goes along less"
        value={one.reach}
        onSet={(reach) =>
          run(changeSkins(ids, 'Set its reach', (p) => void (p.reach = Math.min(1e4, Math.max(1e-6, reach)))))
        }
      />
      <SettingGroups
        table={SKIN_SETTINGS}
        initial={INITIAL}
        parts={parts}
        length={one.reach}
        extras={{}}
        run={run}
      />
      <Tints tints={TINTS} />
      <Larger />
      {parts.length === 1 && (
        <>
          <PaintedRows
            id={one.id}
            maps={[{ key: 'share', label: 'Share', says: one.maps.share ? null : 'all of it' }]}
            onPaint={() => run(paintSkin(character, one.id))}
            onRemove={() => run(removeShare(one.id))}
          />
          <Breathe part={one} run={run} />
        </>
      )}
      <AnchorRows parts={parts} run={run} />
    </>
  );
}

const TINTS = [
  [null, 'none', 'The mesh in its own colours'],
  ['stray', 'from its animation', 'How far each place goes along: darkest at half of the reach'],
] as const;

/** The soft bodies it lies over; what they are made of is set on them. */
function Below({ part, run }: { part: SkinPart; run: PanelProps['run'] }) {
  const dispatch = useAppDispatch();
  const shot = useAppSelector(selectShot)!;
  const all = bodiesBelow(shot, part.mesh.node);
  const has = (id: string) => part.below.some((b) => b.part === id);
  return (
    <>
      <h3>Lies over</h3>
      {all.length === 0 && (
        <p className="muted small">No soft body is in this shot. Make one of a mesh below the skin.</p>
      )}
      <div className="minds" role="group" aria-label="Lies over">
        {all.map((b) => (
          <CheckRow
            key={b.part}
            label={shot.parts[b.part]!.name}
            value={has(b.part)}
            onSet={(on) =>
              run(
                changeSkins([part.id], 'Set what it lies over', (p) => {
                  p.below = on ? [...p.below, b] : p.below.filter((x) => x.part !== b.part);
                }),
              )
            }
          />
        ))}
      </div>
      {part.below.length > 0 && (
        <p className="muted small">
          It answers as they do.{' '}
          <button
            className="mini"
            onClick={() =>
              dispatch(viewSlice.actions.partsSelected({ parts: part.below.map((b) => b.part) }))
            }
          >
            tune {part.below.length === 1 ? 'it' : 'them'}
          </button>
        </p>
      )}
    </>
  );
}
