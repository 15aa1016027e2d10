import { DEFAULT_THINNING } from '@oscillum/core/bake';
import type { Shot } from '@oscillum/core/shot';
import { NumberBox } from '../kit/Fields';
import { ChoiceRow } from '../kit/Rows';

/** Frames between keys that are offered. */
const STEPS: readonly (readonly [string, string])[] = [
  ['1', 'frame'],
  ['2', '2nd frame'],
  ['3', '3rd frame'],
  ['4', '4th frame'],
  ['0.5', 'half frame'],
  ['0.25', 'quarter frame'],
];

/** How the keys of a bake are written. */
export function ThinChoices({ keys, onSet }: { keys: Shot['keys']; onSet: (keys: Shot['keys']) => void }) {
  const { step, thin } = keys;
  return (
    <>
      <ChoiceRow
        label="A key on every"
        value={String(step)}
        choices={STEPS}
        onSet={(v) => onSet({ ...keys, step: Number(v) })}
      />
      <ChoiceRow
        label="Reduce keys"
        value={thin?.kind ?? 'no'}
        choices={[
          ['no', 'no, keep all'],
          ['cubic', 'to few, on curves'],
          ['linear', 'to few, straight'],
        ]}
        onSet={(v) =>
          onSet({
            ...keys,
            thin: v === 'no' ? null : { ...(thin ?? DEFAULT_THINNING), kind: v as 'cubic' | 'linear' },
          })
        }
      />
      {thin && (
        <div className="field">
          <span title="No joint turns further from the full bake than this, and no tip is further away">
            Largest error
          </span>
          <span className="pair">
            <NumberBox
              label="Largest error, degrees"
              unit="°"
              value={thin.degrees}
              onSet={(degrees) => onSet({ ...keys, thin: { ...thin, degrees } })}
            />
            °
            <NumberBox
              label="Largest error at the tip, millimetres"
              unit="mm"
              value={thin.millimetres}
              onSet={(millimetres) => onSet({ ...keys, thin: { ...thin, millimetres } })}
            />
            mm
          </span>
        </div>
      )}
    </>
  );
}
