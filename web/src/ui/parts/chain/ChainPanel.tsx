import { useMemo } from 'react';
import { rowLength, rowLengths, type Character } from '@oscillum/core/character';
import {
  CHAIN_SETTINGS,
  chainSettingsFor,
  inertBecause,
  linkPlaces,
  type ChainPart,
  type ChainSettingKey,
} from '@oscillum/core/chain';
import { settingAt } from '../../../state/settingAt';
import { selectShot, useAppDispatch, useAppSelector } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { useDesk } from '../../kit/desk';
import { ResponseCard } from '../../kit/ResponseCard';
import { SettingGroups } from '../../kit/SettingGroups';
import type { PanelProps } from '../kind';
import { Droop } from './Droop';
import { Overlap } from './Overlap';
import { PartExtras } from './PartExtras';
import { Presets } from './Presets';
import { Sketch } from './Sketch';

/** A first answer to a dragged handle: times go as one over the stiffness, swings die by the damping. */
const roughly = (part: ChainPart, at: number, faster: number, damped: number) => ({
  hold: Math.min(30, settingAt(part, 'hold', at) * faster),
  bend: Math.min(30, settingAt(part, 'bend', at) * faster),
  damping: Math.min(4, Math.max(0.005, settingAt(part, 'damping', at) * damped)),
});

/** What an animator reaches for before the physics. */
const FIRST = ['amount', 'stretch'] as const;

const sketchOf = (name: string) => <Sketch name={name as keyof typeof CHAIN_SETTINGS} />;

/** Lengths of the links of a row, m: the last link is as long as the one before it. */
function linkLengths(character: Character, row: readonly number[], metresPerUnit: number): Float64Array {
  const found = rowLengths(character, row).map((l) => l * metresPerUnit);
  return Float64Array.from([...found, found.at(-1) ?? 1]);
}

/** Presets, feel and settings of the selected chains, and what they touch and are held by. */
export function ChainPanel({ parts, others, run }: PanelProps<ChainPart>) {
  const { character } = useDesk();
  const metresPerUnit = useAppSelector((s) => selectShot(s)!.character.metresPerUnit);
  const gravity = useAppSelector((s) => selectShot(s)!.gravity);
  const airDensity = useAppSelector((s) => selectShot(s)!.airDensity);
  const colliders = useAppSelector((s) => selectShot(s)!.colliders);
  // As text: the parts are others with every value that is set, their joints hardly ever.
  const rows = JSON.stringify(parts.map((p) => p.joints.map((j) => j.node)));
  const { longest, lengths, joints } = useMemo(() => {
    const nodes = JSON.parse(rows) as number[][];
    const first = linkLengths(character, nodes[0]!, metresPerUnit);
    return {
      longest: nodes.reduce((most, row) => Math.max(most, rowLength(character, row)), 0) * metresPerUnit,
      lengths: first,
      joints: Array.from(linkPlaces(first).middle, (at, i) => ({
        name: character.nodes[nodes[0]![i]!]!.name,
        at,
      })),
    };
  }, [character, rows, metresPerUnit]);
  const initial = useMemo(() => chainSettingsFor(longest), [longest]);
  const shot = { gravity, airDensity, colliders };
  const inert = (name: string) => {
    const why = parts.map((p) => inertBecause(p, name as ChainSettingKey, shot));
    return why.every((w) => w !== null) ? why[0]! : null;
  };
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
        first={FIRST}
        firstOf={<Droop parts={parts} run={run} />}
        extras={{
          Overlap: <Overlap parts={parts} lengths={lengths} run={run} />,
          Contact: <OnStage part={parts[0]!} />,
        }}
        inert={inert}
        joints={joints}
        run={run}
      />
      <PartExtras parts={parts} others={others.filter((p): p is ChainPart => p.kind === 'chain')} run={run} />
    </>
  );
}

/** Thickness is dragged on the stage while this is pressed. */
function OnStage({ part }: { part: ChainPart }) {
  const dispatch = useAppDispatch();
  const on = useAppSelector((s) => s.view.thing?.kind === 'thickness' && s.view.thing.id === part.id);
  return (
    <div className="presses">
      <button
        className="mini"
        aria-pressed={on}
        title="Rings beside the chain: the middle one for all of it, those at root and tip for how it tapers"
        onClick={() =>
          dispatch(viewSlice.actions.thingChosen(on ? null : { kind: 'thickness', id: part.id }))
        }
      >
        thickness on the stage
      </button>
    </div>
  );
}
