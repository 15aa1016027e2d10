import { useState } from 'react';
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
