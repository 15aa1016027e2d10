import { useState } from 'react';
import type { ValueKeys } from '@oscillum/core/model';
import { useTyping } from './Fields';
import { Row } from './Rows';

/** The items of a list typed with commas or semicolons. */
export const items = (text: string): string[] =>
  text
    .split(/[,;]/)
    .map((t) => t.trim())
    .filter(Boolean);

/** A short list typed as text; what cannot be read is said beside it and changes nothing. */
export function ListText({
  label,
  says,
  value,
  read,
}: {
  label: string;
  says: string;
  value: string;
  read: (text: string) => void;
}) {
  const [trouble, setTrouble] = useState('');
  const { typed, box } = useTyping((text) => {
    try {
      if (text !== value) read(text);
      setTrouble('');
      return true;
    } catch (e) {
      setTrouble(e instanceof Error ? e.message : String(e));
      return false;
    }
  });
  return (
    <>
      <Row label={label} says={says}>
        <input
          aria-label={label}
          aria-invalid={typed !== null && trouble !== ''}
          placeholder="none"
          title={says}
          value={typed ?? value}
          {...box}
        />
      </Row>
      {typed !== null && trouble && <p className="trouble small">{trouble}</p>}
    </>
  );
}

/** The keys of a value as text: frame:value, with how it goes on where that is not smooth. */
export function KeysText({
  label,
  keys,
  onSet,
}: {
  label: string;
  keys: ValueKeys;
  onSet: (keys: ValueKeys) => void;
}) {
  return (
    <ListText
      label={label}
      says="Values by frame, going on smoothly, or linear or stepped: 0:2, 12:0.5 linear, 30:2"
      value={keys.map((k) => `${k.frame}:${k.value}${k.kind === 'smooth' ? '' : ` ${k.kind}`}`).join(', ')}
      read={(text) =>
        onSet(
          items(text).map((t) => {
            const m = /^(-?\d+):(-?[\d.]+)(?:\s+(stepped|linear|smooth))?$/.exec(t);
            if (!m) throw new Error('Write frame:value, as 0:2, 12:0.5 linear.');
            return { frame: Number(m[1]), value: Number(m[2]), kind: (m[3] as 'linear') ?? 'smooth' };
          }),
        )
      }
    />
  );
}
