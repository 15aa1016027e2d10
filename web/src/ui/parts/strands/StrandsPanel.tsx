import {
  CROWD_PRICE,
  STRAND_PRESETS,
  STRAND_SETTINGS,
  strandsInert,
  StrandSettings,
  type StrandSettingKey,
  type StrandsPart,
} from '@oscillum/core/strands';
import { inOrder, minds } from '@oscillum/core/model';
import { changeStrands, comb, putStrandPreset } from '../../../state/parts/strands/edits';
import { settingAt } from '../../../state/settingAt';
import { selectShot, useAppSelector } from '../../../state/store';
import { ResponseCard } from '../../kit/ResponseCard';
import { CheckRow } from '../../kit/Rows';
import { SettingGroups } from '../../kit/SettingGroups';
import { AnchorRows } from '../AnchorRows';
import { Breathe } from '../Breathe';
import type { PanelProps } from '../kind';
import { TouchRows } from '../MindsRows';
import { PullsRow } from '../PullsRow';
import { PresetRow } from '../PresetRow';
import { BandRows } from './BandRows';
import { GrowRows, HairMaps } from './GrowRows';
import { LookRows } from './LookRows';
import { PoseRows } from './PoseRows';
import { TakeRows } from './TakeRows';

const INITIAL = StrandSettings.parse({});
const FIRST = ['amount', 'hold', 'damping', 'bend'] as const;

/** A first answer to a dragged handle: held and bent faster by as much, and damped by as much. */
const roughly = (part: StrandsPart, at: number, faster: number, damped: number) => ({
  hold: Math.min(30, settingAt(part, 'hold', at) * faster),
  bend: Math.min(60, settingAt(part, 'bend', at) * faster),
  damping: Math.min(4, Math.max(0.01, settingAt(part, 'damping', at) * damped)),
});

/** How the selected hair grows, moves and looks. */
export function StrandsPanel({ parts, run }: PanelProps<StrandsPart>) {
  const shot = useAppSelector(selectShot)!;
  const touches = inOrder(shot.colliders).some((c) =>
    parts.some((p) => minds(p.collidesWith.colliders, c.id)),
  );
  const combing = useAppSelector((s) => s.view.combing);
  const ids = parts.map((p) => p.id);
  const one = parts[0]!;
  return (
    <>
      <PresetRow presets={STRAND_PRESETS} onPut={(preset) => run(putStrandPreset(ids, preset))} />
      {parts.length === 1 && (
        <>
          <div className="presses">
            <button
              className="press"
              title="Comb, lift, cut, part, draw: on the stage, on the pose of this frame"
              aria-pressed={combing === one.id}
              onClick={() => run(comb(combing === one.id ? null : one.id))}
            >
              Brush and draw
            </button>
          </div>
          <GrowRows part={one} run={run} />
          <TakeRows part={one} />
          <HairMaps part={one} run={run} />
        </>
      )}
      <ResponseCard
        parts={parts}
        roughly={roughly}
        what="its tips after a quick step aside"
        still="Read the lane for what it does on this shot."
        run={run}
      />
      <SettingGroups
        table={STRAND_SETTINGS}
        initial={INITIAL}
        parts={parts}
        length={one.growth?.length ?? 0.1}
        first={FIRST}
        uses={touches ? ['Contact'] : []}
        inert={(name) => strandsInert(one, shot, name as StrandSettingKey)}
        extras={{
          Swing: <Keeps parts={parts} run={run} />,
          Contact: (
            <>
              <CrowdPrice parts={parts} />
              <TouchRows
                kinds={['chain', 'body', 'cloth', 'panel']}
                parts={parts}
                onSet={(recipe) => run(changeStrands(ids, 'Set what it collides with', recipe))}
              />
            </>
          ),
        }}
        run={run}
      />
      {parts.length === 1 && <BandRows part={one} run={run} />}
      <LookRows parts={parts} run={run} />
      {parts.length === 1 && <Breathe part={one} run={run} />}
      <PullsRow parts={parts} run={run} />
      <AnchorRows parts={parts} run={run}>
        {parts.length === 1 && <PoseRows part={one} run={run} />}
      </AnchorRows>
    </>
  );
}

/** What hair against hair costs, where it is on. */
function CrowdPrice({ parts }: { parts: readonly StrandsPart[] }) {
  const { range, substeps } = useAppSelector(selectShot)!;
  const on = parts.filter((p) => [p.settings, p.keys].some((s) => s.crowd || s.along));
  const points = on.reduce((sum, p) => sum + p.groom.points.reduce((n, k) => n + k - 1, 0), 0);
  if (points === 0) return null;
  const seconds = CROWD_PRICE * points * (range.last - range.first + 1) * substeps;
  return (
    <p className="muted small">
      Hair against hair takes about {Number(Math.max(0.1, seconds).toPrecision(2))} s more for the shot.
    </p>
  );
}

type Props = Pick<PanelProps<StrandsPart>, 'parts' | 'run'>;

function Keeps({ parts, run }: Props) {
  return (
    <CheckRow
      label="Keep the groom"
      says="The groom is its rest under gravity. Off, it sags from there as its hold and bend let it"
      value={parts.every((p) => p.keepsGroom)}
      onSet={(on) =>
        run(
          changeStrands(
            parts.map((p) => p.id),
            on ? 'Keep the groom' : 'Let it sag',
            (p) => void (p.keepsGroom = on),
          ),
        )
      }
    />
  );
}
