import { useState } from 'react';
import { movesPoints, nodesOf, type Part } from '@oscillum/core/shot';
import { useDesk } from '../../kit/desk';

/** Which parts are baked, and of a part that is opened which joints; what is left out is in the two sets. */
export function PartPicks({
  parts,
  left,
  leftJoints,
  onLeft,
  onLeftJoints,
}: {
  parts: readonly Part[];
  /** Ids of parts. */
  left: ReadonlySet<string>;
  /** Nodes. */
  leftJoints: ReadonlySet<number>;
  onLeft: (left: ReadonlySet<string>) => void;
  onLeftJoints: (left: ReadonlySet<number>) => void;
}) {
  const { character } = useDesk();
  const [open, setOpen] = useState('');
  const toggled = <T,>(set: ReadonlySet<T>, item: T): ReadonlySet<T> => {
    const next = new Set(set);
    if (!next.delete(item)) next.add(item);
    return next;
  };
  return (
    <div className="checks">
      {parts.map((p) => {
        const nodes = nodesOf(p);
        const taken = nodes.filter((n) => !leftJoints.has(n)).length;
        return (
          <div key={p.id}>
            <span className="pair">
              <label>
                <input
                  type="checkbox"
                  checked={!left.has(p.id)}
                  onChange={() => onLeft(toggled(left, p.id))}
                />
                {p.name}
              </label>
              {nodes.length === 0 ? (
                <span className="muted">curves in USD points and CSV points, cards, or joints</span>
              ) : movesPoints(p) ? (
                <span className="muted">its mesh</span>
              ) : (
                <button
                  className="plain muted"
                  aria-expanded={open === p.id}
                  aria-label={`Joints of ${p.name}`}
                  title="Choose single joints"
                  onClick={() => setOpen(open === p.id ? '' : p.id)}
                >
                  {taken === nodes.length ? `${taken} joints` : `${taken} of ${nodes.length} joints`}{' '}
                  {open === p.id ? '▴' : '▾'}
                </button>
              )}
            </span>
            {open === p.id && (
              <div className="checks" style={{ paddingLeft: 22 }}>
                {nodes.map((node) => (
                  <label key={node}>
                    <input
                      type="checkbox"
                      checked={!leftJoints.has(node)}
                      onChange={() => onLeftJoints(toggled(leftJoints, node))}
                    />
                    {character.nodes[node]?.name || `joint ${node}`}
                  </label>
                ))}
              </div>
            )}
          </div>
        );
      })}
    </div>
  );
}
