import { useState } from 'react';
import type { ChainPart } from '@oscillum/core/chain';
import { useStore } from 'react-redux';
import { fitTogether } from '../../../state/edits';
import { settingAt } from '../../../state/settingAt';
import { selectShot, type State, type Thunk } from '../../../state/store';
import { useDesk, usePicture } from '../../kit/desk';
import { NumberBox } from '../../kit/Fields';
import { sayTrouble } from '../../kit/say';

/** Largest droop that the slider asks for, degrees. */
const MOST = 90;
const radians = (degrees: number) => (Math.min(85, Math.max(0.2, degrees)) * Math.PI) / 180;

/** Asks for a droop: roughly while the slider is held, exactly when it is let go or a number is typed. */
function useAsking(parts: readonly ChainPart[], mean: number | null, run: (t: Thunk) => void) {
  const { simulation } = useDesk();
  const store = useStore<State>();
  const [asked, setAsked] = useState<{ degrees: number; from: number } | null>(null);
  const [why, setWhy] = useState('');
  const shotNow = () => selectShot(store.getState())!;
  /** What stiffness is needed goes as one over the droop's tangent. */
  const pull = (degrees: number) => {
    const from = asked?.from ?? mean ?? degrees;
    setAsked({ degrees, from });
    const at = shotNow().range.first;
    const times = Math.tan(radians(from)) / Math.tan(radians(degrees));
    const fits = parts.map((p) => {
      const [hold, bend] = [settingAt(p, 'hold', at), settingAt(p, 'bend', at)];
      const stiff = (hold * hold + bend * bend) * times - bend * bend;
      return [p.id, { hold: Math.min(30, Math.sqrt(Math.max(0, stiff))) }] as const;
    });
    run(fitTogether('', Object.fromEntries(fits), at, false));
  };
  const ask = async (degrees: number) => {
    const shot = shotNow();
    try {
      const ids = parts.map((p) => p.id);
      const fits = await simulation.fitFeel(shot, ids, { droop: degrees });
      setWhy(Object.values(fits).find((f) => f.why)?.why ?? '');
      const found = Object.fromEntries(Object.entries(fits).map(([id, f]) => [id, f.settings]));
      run(fitTogether('Fit droop', found, shot.range.first, true));
    } catch (e) {
      sayTrouble(e instanceof Error ? e.message : String(e));
    } finally {
      setAsked(null);
    }
  };
  return { asked, why, pull, ask, letGo: () => asked && void ask(asked.degrees) };
}

/** How far the tip rests below its source under gravity. Dragging it sets hold. */
export function Droop({ parts, run }: { parts: readonly ChainPart[]; run: (t: Thunk) => void }) {
  const advice = usePicture((p) => p.advice);
  const known = parts.flatMap((p) => advice?.feels[p.id]?.droop ?? []);
  const mean = known.length ? known.reduce((a, b) => a + b, 0) / known.length : null;
  const { asked, why, pull, ask, letGo } = useAsking(parts, mean, run);
  const shown = asked?.degrees ?? mean;
  const at = Math.min(1, (shown ?? 0) / MOST);
  return (
    <>
      <div className="row">
        <label
          htmlFor="setting-droop"
          title="Degrees by which the tip, seen from its root, rests below its source under gravity. It sets Hold."
        >
          Droop
        </label>
        <input
          id="setting-droop"
          className="slide"
          type="range"
          min={0}
          max={MOST}
          step={0.5}
          disabled={mean === null}
          value={shown ?? 0}
          style={{ '--at': `${100 * at}%`, '--tick': -1 } as React.CSSProperties}
          aria-valuetext={`${(shown ?? 0).toFixed(1)} °`}
          onChange={(e) => pull(Number(e.target.value))}
          onPointerUp={letGo}
          onKeyUp={letGo}
          onKeyDown={(e) => /Arrow|Home|End/.test(e.key) && e.stopPropagation()}
        />
        <span className="amount">
          <NumberBox
            className="value"
            label="Droop value"
            value={shown}
            digits={1}
            unit="°"
            placeholder="…"
            disabled={mean === null}
            onSet={(v) => void ask(Math.max(0, v))}
          />
          <span className="unit">°</span>
        </span>
      </div>
      {why && <p className="notice small">Nearest found: {why}.</p>}
    </>
  );
}
