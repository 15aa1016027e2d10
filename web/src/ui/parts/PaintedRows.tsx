import { useAppSelector } from '../../state/store';

/** A map of a part: its key and name, and what stands where it is not painted; null where it is. */
interface PaintedMap<K extends string> {
  readonly key: K;
  readonly label: string;
  readonly says: string | null;
}

interface Props<K extends string> {
  readonly id: string;
  readonly maps: readonly PaintedMap<K>[];
  onPaint(key: K): void;
  onRemove(key: K): void;
}

/** What may be painted over the mesh of a part. */
export function PaintedRows<K extends string>({ id, maps, onPaint, onRemove }: Props<K>) {
  const painting = useAppSelector((s) => s.view.painting);
  return (
    <>
      <h3>Painted over the mesh</h3>
      <div role="group" aria-label="Painted over the mesh">
        {maps.map(({ key, label, says }) => (
          <div key={key} className="painted">
            <span>
              {label} <span className="muted small">{says ?? 'painted'}</span>
            </span>
            <span className="presses">
              <button
                className="mini"
                aria-label={`Paint ${label.toLowerCase()}`}
                aria-pressed={painting?.part === id && painting.key === key}
                onClick={() => onPaint(key)}
              >
                paint
              </button>
              {says === null && (
                <button className="mini" onClick={() => onRemove(key)}>
                  remove
                </button>
              )}
            </span>
          </div>
        ))}
      </div>
    </>
  );
}
