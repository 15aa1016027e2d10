import {
  PENDULUM_PRESETS,
  PENDULUM_SETTINGS,
  PendulumSettings,
  type PendulumPart,
} from '@oscillum/core/pendulum';
import { settingAt } from '../../../state/settingAt';
import { changePendulums, putPendulumPreset } from '../../../state/parts/pendulum/edits';
import { selectShot, useAppSelector } from '../../../state/store';
import { ResponseCard } from '../../kit/ResponseCard';
import { CheckRow } from '../../kit/Rows';
import { SettingGroups } from '../../kit/SettingGroups';
import type { PanelProps } from '../kind';
import { PresetRow } from '../PresetRow';
import { InputRows } from './InputRows';
import { Outputs } from './Outputs';

const INITIAL = PendulumSettings.parse({});

/** A first answer to a dragged handle: both pendulums faster by as much, and damped by as much. */
const roughly = (part: PendulumPart, at: number, faster: number, damped: number) => {
  const hz = (key: string) => Math.min(30, Math.max(0.05, settingAt(part, key, at) * faster));
  const ratio = (key: string) => Math.min(4, Math.max(0.005, settingAt(part, key, at) * damped));
  return {
    frequency: hz('frequency'),
    frequency2: hz('frequency2'),
    damping: ratio('damping'),
    damping2: ratio('damping2'),
  };
};

/** What the selected pendulums follow, how they answer, and what they drive. */
export function PendulumPanel({ parts, run }: PanelProps<PendulumPart>) {
  const fps = useAppSelector((s) => selectShot(s)!.fps);
  const ids = parts.map((p) => p.id);
  return (
    <>
      <PresetRow presets={PENDULUM_PRESETS} onPut={(preset) => run(putPendulumPreset(ids, preset, fps))} />
      <ResponseCard
        parts={parts}
        roughly={roughly}
        what="the first pendulum after a quick turn"
        still="On this shot what it follows hardly moves."
        run={run}
      />
      <CheckRow
        label="No overshoot"
        says="Damps both so that nothing is ever passed, however they are set and coupled."
        value={parts.every((p) => p.noOvershoot)}
        onSet={(v) =>
          run(changePendulums(ids, v ? 'No overshoot' : 'Let it overshoot', (p) => void (p.noOvershoot = v)))
        }
      />
      {parts.length === 1 && (
        <>
          <InputRows part={parts[0]!} run={run} />
          <Outputs part={parts[0]!} run={run} />
        </>
      )}
      <SettingGroups table={PENDULUM_SETTINGS} initial={INITIAL} parts={parts} length={0} run={run} />
    </>
  );
}
