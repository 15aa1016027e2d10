import { useState } from 'react';

/** A number in a box: typed with or without its unit, taken on Enter or leaving, refused with a red edge. */
export function NumberBox({
  label,
  value,
  unit = '',
  digits = 3,
  whole = false,
  className,
  placeholder = 'mixed',
  disabled = false,
  onSet,
}: {
  label: string;
  value: number | null;
  unit?: string;
  digits?: number;
  whole?: boolean;
  className?: string;
  /** What stands there without a value. */
  placeholder?: string;
  disabled?: boolean;
  onSet: (v: number) => void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const read = (text: string): number | null => {
    const n = Number(
      text
        .replace(unit, '')
        .replace(',', '.')
        .replace(/[a-z%×°]+$/i, '')
        .trim(),
    );
    return text.trim() === '' || !Number.isFinite(n) || (whole && !Number.isInteger(n)) ? null : n;
  };
  const shown = typed ?? (value === null ? '' : String(Number(value.toFixed(digits))));
  const bad = typed !== null && read(typed) === null;
  const take = () => {
    const n = typed === null ? null : read(typed);
    if (n !== null && n !== value) onSet(n);
    setTyped(null);
  };
  return (
    <input
      className={className}
      aria-label={label}
      aria-invalid={bad}
      inputMode="decimal"
      placeholder={value === null ? placeholder : undefined}
      disabled={disabled}
      value={shown}
      onChange={(e) => setTyped(e.target.value)}
      onFocus={(e) => e.currentTarget.select()}
      onBlur={take}
      onKeyDown={(e) => {
        if (e.key === 'Enter') take();
        if (e.key === 'Escape') setTyped(null);
        e.stopPropagation();
      }}
    />
  );
}
