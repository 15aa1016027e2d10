import type { ReactNode } from 'react';
import { NumberBox } from './Fields';

/** A labelled control in the panel. */
export function Row({ label, says, children }: { label: string; says?: string; children: ReactNode }) {
  return (
    <div className="field">
      <span title={says}>{label}</span>
      {children}
    </div>
  );
}

/** Three numbers: x, y, z. */
export function VectorRow({
  label,
  value,
  unit,
  onSet,
}: {
  label: string;
  value: readonly [number, number, number];
  unit: string;
  onSet: (v: [number, number, number]) => void;
}) {
  return (
    <Row label={unit ? `${label}, ${unit}` : label}>
      <span className="triple">
        {(['x', 'y', 'z'] as const).map((axis, k) => (
          <NumberBox
            key={axis}
            label={`${label} ${axis}`}
            value={value[k]!}
            unit={unit}
            onSet={(v) => onSet(value.map((old, i) => (i === k ? v : old)) as [number, number, number])}
          />
        ))}
      </span>
    </Row>
  );
}

export function NumberRow({
  label,
  value,
  unit = '',
  says,
  whole = false,
  onSet,
}: {
  label: string;
  value: number;
  unit?: string;
  says?: string;
  whole?: boolean;
  onSet: (v: number) => void;
}) {
  return (
    <Row label={unit ? `${label}, ${unit}` : label} {...(says && { says })}>
      <NumberBox label={label} value={value} unit={unit} whole={whole} onSet={onSet} />
    </Row>
  );
}

export function ChoiceRow<T extends string>({
  label,
  value,
  choices,
  says,
  onSet,
}: {
  label: string;
  value: T;
  choices: readonly (readonly [T, string])[];
  says?: string;
  onSet: (v: T) => void;
}) {
  return (
    <Row label={label} {...(says && { says })}>
      <select aria-label={label} value={value} onChange={(e) => onSet(e.target.value as T)}>
        {choices.map(([v, name]) => (
          <option key={v} value={v}>
            {name}
          </option>
        ))}
      </select>
    </Row>
  );
}

export function CheckRow({
  label,
  value,
  says,
  disabled = false,
  onSet,
}: {
  label: string;
  value: boolean;
  says?: string;
  disabled?: boolean;
  onSet: (v: boolean) => void;
}) {
  return (
    <label className="check" title={says}>
      <input type="checkbox" checked={value} disabled={disabled} onChange={(e) => onSet(e.target.checked)} />
      {label}
    </label>
  );
}
