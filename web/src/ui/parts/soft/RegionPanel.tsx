import { useMemo } from 'react';
import {
  REGION_PRESETS,
  REGION_SETTINGS,
  RegionSettings,
  regionInert,
  type RegionPart,
  type RegionSettingKey,
} from '@oscillum/core/soft';
import { settingAt } from '../../../state/settingAt';
import { putRegionPreset, regionSize } from '../../../state/parts/soft/edits';
import { selectShot, useAppSelector } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { ResponseCard } from '../../kit/ResponseCard';
import { SettingGroups } from '../../kit/SettingGroups';
import { AnchorRows } from '../AnchorRows';
import { Breathe } from '../Breathe';
import type { PanelProps } from '../kind';
import { Larger } from '../Larger';
import { PresetRow } from '../PresetRow';
import { Tints } from '../Tints';
import { Where } from './Where';

const INITIAL = RegionSettings.parse({});
const FIRST = ['amount', 'hold', 'damping', 'spread'] as const;

/** A first answer to a dragged handle: held faster by as much, and damped by as much. */
const roughly = (part: RegionPart, at: number, faster: number, damped: number) => ({
  hold: Math.min(30, Math.max(0.2, settingAt(part, 'hold', at) * faster)),
  damping: Math.min(4, Math.max(0.01, settingAt(part, 'damping', at) * damped)),
});

/** What the selected regions are made of, and where they are soft. */
export function RegionPanel({ parts, run }: PanelProps<RegionPart>) {
  const { character } = useDesk();
  const shot = useAppSelector(selectShot)!;
  const ids = parts.map((p) => p.id);
  const one = parts[0]!;
  const metres = shot.character.metresPerUnit;
  const size = useMemo(() => regionSize(character, one, metres), [character, one, metres]);
  return (
    <>
      <PresetRow presets={REGION_PRESETS} onPut={(preset) => run(putRegionPreset(character, ids, preset))} />
      {parts.length === 1 && <Where part={one} size={size} run={run} />}
      <ResponseCard
        parts={parts}
        roughly={roughly}
        what="its middle after a quick step aside"
        still="Read the lane for what it does on this shot."
        run={run}
      />
      <SettingGroups
        table={REGION_SETTINGS}
        initial={INITIAL}
        parts={parts}
        length={size}
        first={FIRST}
        inert={(name) => regionInert(one, shot, name as RegionSettingKey)}
        extras={{}}
        run={run}
      />
      <Tints tints={TINTS} />
      <Larger />
      {parts.length === 1 && <Breathe part={parts[0]!} run={run} />}
      <AnchorRows parts={parts} run={run} />
    </>
  );
}

const TINTS = [
  [null, 'none', 'The mesh in its own colours'],
  ['softness', 'softness', 'How soft each place is: lines at 5, 25, 50 and 75 %'],
  ['stray', 'from its skin', 'How far each place is from its skin: darkest at a tenth of the region’s size'],
] as const;
