import { useState } from 'react';
import type { AskedFeel } from '@oscillum/core/measure';
import type { ChainPart } from '@oscillum/core/model';
import { change, putThroughout } from '../../state/edits';
import { selectShot, useAppSelector, type Thunk } from '../../state/store';
import { useDesk, usePicture } from '../common/desk';
import { NumberBox } from '../common/Fields';
import { sayTrouble } from '../common/say';

const READOUTS = [
  ['lag', 'Lag', 'frames', 'Frames the tip trails the source after a quick turn.'],
  ['overshoot', 'Overshoot', '%', 'How far past the pose the first swing goes.'],
  ['settle', 'Settle', 'frames', 'Frames after the stop until it stays within 5 % of the turn.'],
] as const;

/** Lag, overshoot and settle of the selected chains on one quick turn; typing one finds the settings that give it. */
export function FeelCard({ parts, run }: { parts: readonly ChainPart[]; run: (t: Thunk) => void }) {
  const { simulation } = useDesk();
  const shot = useAppSelector(selectShot)!;
  const { advice } = usePicture();
  const [why, setWhy] = useState('');
  const feels = parts.flatMap((p) => advice?.feels[p.id] ?? []);
  // The card keeps its place while nothing is measured yet: what is below it must not move under the hand.
  const known = feels.length > 0;
  const value = (key: 'lag' | 'overshoot' | 'settle') => {
    const all = feels.map((f) => f[key]).filter(Number.isFinite);
    const mean = all.reduce((a, b) => a + b, 0) / all.length;
    return all.length > 0 && all.every((v) => Math.abs(v - mean) < 0.05 * mean + 0.05) ? mean : null;
  };
  const ask = async (key: 'lag' | 'overshoot' | 'settle', wanted: number) => {
    // What is not being changed stays as it is: lag with overshoot, overshoot with lag.
    const other = key === 'overshoot' ? 'lag' : 'overshoot';
    const kept = value(other);
    const asked: AskedFeel = { [key]: wanted, ...(kept !== null && { [other]: kept }) };
    const fits = await simulation.fitFeel(
      shot,
      parts.map((p) => p.id),
      asked,
    );
    setWhy(Object.values(fits).find((f) => f.why)?.why ?? '');
    run(
      change(`Fit ${key}`, (d) => {
        for (const [id, fit] of Object.entries(fits)) {
          const part = d.parts[id] as ChainPart | undefined;
          if (!part) continue;
          for (const name of ['hold', 'bend', 'damping'] as const)
            putThroughout(part, name, shot.range.first, Number(fit[name].toFixed(3)));
        }
      }),
    );
  };
  return (
    <div className="feel" role="group" aria-label="Feel">
      {READOUTS.map(([key, label, unit, says]) => (
        <label key={key} title={says}>
          <NumberBox
            label={label}
            value={value(key)}
            digits={1}
            unit={unit}
            placeholder={known ? 'mixed' : '…'}
            disabled={!known}
            onSet={(v) =>
              void ask(key, Math.max(0, v)).catch((e: unknown) =>
                sayTrouble(e instanceof Error ? e.message : String(e)),
              )
            }
          />
          <span>
            {label}, {unit}
          </span>
        </label>
      ))}
      {why && <p className="notice">Nearest found: {why}.</p>}
    </div>
  );
}
