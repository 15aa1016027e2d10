import { useRef, useState } from 'react';
import { amountText, readAmount } from './amount';

/**
 * Text being typed into a box. Enter or leaving takes it; Enter also leaves the box, so that the desk has the keyboard
 * again; Escape gives up. `take` says whether the text was good: what was not stays in the box. Nothing typed reaches
 * the desk's shortcuts. `typed` is null while nothing is being typed.
 */
export function useTyping(take: (text: string) => boolean) {
  const [typed, setTyped] = useState<string | null>(null);
  // Leaving comes right after Enter, before what Enter took has been rendered.
  const latest = useRef<string | null>(null);
  const put = (text: string | null) => setTyped((latest.current = text));
  const finish = (): boolean => {
    if (latest.current === null) return true;
    const good = take(latest.current);
    if (good) put(null);
    return good;
  };
  return {
    typed,
    box: {
      onChange: (e: React.ChangeEvent<HTMLInputElement>) => put(e.target.value),
      onBlur: () => void finish(),
      onKeyDown: (e: React.KeyboardEvent<HTMLInputElement>) => {
        if (e.key === 'Enter' && finish()) e.currentTarget.blur();
        if (e.key === 'Escape') put(null);
        e.stopPropagation();
      },
    },
  };
}

/** A number in a box: typed with units and arithmetic, taken on Enter or leaving, refused with a red edge. */
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
  const read = (text: string): number | null => {
    const n = readAmount(text, unit, value);
    return n === null || (whole && !Number.isInteger(n)) ? null : n;
  };
  const shown = value === null ? '' : amountText(value, digits);
  const { typed, box } = useTyping((text) => {
    const n = read(text);
    if (n !== null && text !== shown) onSet(n);
    return n !== null || text === shown;
  });
  return (
    <input
      className={className}
      aria-label={label}
      aria-invalid={typed !== null && typed !== shown && read(typed) === null}
      inputMode="decimal"
      placeholder={value === null ? placeholder : undefined}
      disabled={disabled}
      value={typed ?? shown}
      onFocus={(e) => e.currentTarget.select()}
      {...box}
    />
  );
}
