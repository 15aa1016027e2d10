import { useMemo } from 'react';
import { rowLength } from '@oscillum/core/character';
import { CHAIN_SETTINGS, chainSettingsFor, type ChainPart } from '@oscillum/core/chain';
import { settingAt } from '../../../state/edits';
import { selectShot, useAppSelector } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { ResponseCard } from '../../kit/ResponseCard';
import { SettingGroups } from '../../kit/SettingGroups';
import type { PanelProps } from '../kind';
import { PartExtras } from './PartExtras';
import { Presets } from './Presets';
import { Sketch } from './Sketch';

/** A first answer to a dragged handle: times go as one over the stiffness, swings die by the damping. */
const roughly = (part: ChainPart, at: number, faster: number, damped: number) => ({
  hold: Math.min(30, settingAt(part, 'hold', at) * faster),
  bend: Math.min(30, settingAt(part, 'bend', at) * faster),
  damping: Math.min(4, Math.max(0.005, settingAt(part, 'damping', at) * damped)),
});

const sketchOf = (name: string) => <Sketch name={name as keyof typeof CHAIN_SETTINGS} />;

/** Presets, feel and settings of the selected chains, and what they touch and are held by. */
export function ChainPanel({ parts, others, run }: PanelProps<ChainPart>) {
  const { character } = useDesk();
  const metresPerUnit = useAppSelector((s) => selectShot(s)!.character.metresPerUnit);
  // As text: the parts are others with every value that is set, their joints hardly ever.
  const rows = JSON.stringify(parts.map((p) => p.joints.map((j) => j.node)));
  const longest = useMemo(
    () =>
      (JSON.parse(rows) as number[][]).reduce((most, row) => Math.max(most, rowLength(character, row)), 0) *
      metresPerUnit,
    [character, rows, metresPerUnit],
  );
  const initial = useMemo(() => chainSettingsFor(longest), [longest]);
  return (
    <>
      <Presets parts={parts} run={run} />
      <ResponseCard
        parts={parts}
        roughly={roughly}
        what="the tip after a quick turn"
        still="On this shot its source hardly turns."
        run={run}
      />
      <SettingGroups
        table={CHAIN_SETTINGS}
        initial={initial}
        parts={parts}
        length={longest}
        sketch={sketchOf}
        run={run}
      />
      <PartExtras parts={parts} others={others.filter((p): p is ChainPart => p.kind === 'chain')} run={run} />
    </>
  );
}
