import { useState } from 'react';
import type { ChainPart } from '@oscillum/core/chain';

/** Which chains are baked, and of a chain that is opened which joints; what is left out is in the two sets. */
export function ChainPicks({
  chains,
  left,
  leftJoints,
  onLeft,
  onLeftJoints,
}: {
  chains: readonly ChainPart[];
  /** Ids of parts. */
  left: ReadonlySet<string>;
  /** Nodes. */
  leftJoints: ReadonlySet<number>;
  onLeft: (left: ReadonlySet<string>) => void;
  onLeftJoints: (left: ReadonlySet<number>) => void;
}) {
  const [open, setOpen] = useState('');
  const toggled = <T,>(set: ReadonlySet<T>, item: T): ReadonlySet<T> => {
    const next = new Set(set);
    if (!next.delete(item)) next.add(item);
    return next;
  };
  return (
    <div className="checks">
      {chains.map((p) => {
        const taken = p.joints.filter((j) => !leftJoints.has(j.node)).length;
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
              <button
                className="plain muted"
                aria-expanded={open === p.id}
                aria-label={`Joints of ${p.name}`}
                title="Choose single joints"
                onClick={() => setOpen(open === p.id ? '' : p.id)}
              >
                {taken === p.joints.length ? `${taken} joints` : `${taken} of ${p.joints.length} joints`}{' '}
                {open === p.id ? '▴' : '▾'}
              </button>
            </span>
            {open === p.id && (
              <div className="checks" style={{ paddingLeft: 22 }}>
                {p.joints.map((j) => (
                  <label key={j.node}>
                    <input
                      type="checkbox"
                      checked={!leftJoints.has(j.node)}
                      onChange={() => onLeftJoints(toggled(leftJoints, j.node))}
                    />
                    {j.name || `joint ${j.node}`}
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
