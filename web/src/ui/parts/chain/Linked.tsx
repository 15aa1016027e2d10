import { isChain, type ChainPart } from '@oscillum/core/chain';
import { linkChains, setSprings } from '../../../state/parts/chain/springs';
import { selectShot, useAppSelector, type Thunk } from '../../../state/store';
import { NumberBox } from '../../kit/Fields';

/** Springs to neighbours in a row or a ring of chains: made of several that are selected, in their order. */
export function Linked({ parts, run }: { parts: readonly ChainPart[]; run: (t: Thunk) => void }) {
  // In the order in which they were selected.
  const order = useAppSelector((s) => s.view.parts);
  const all = useAppSelector((s) => selectShot(s)!.parts);
  const first = parts[0]!;
  const ids = order.filter((id) => parts.some((p) => p.id === id));
  const linked = Object.values(all)
    .filter(isChain)
    .flatMap((other) => {
      const spring =
        first.springs.find((s) => s.to === other.id) ?? other.springs.find((s) => s.to === first.id);
      return spring ? [{ other, spring }] : [];
    });
  if (parts.length === 1 && linked.length === 0) return null;
  return (
    <>
      <h3>Linked with</h3>
      {parts.length > 1 ? (
        <div className="presses">
          <button
            className="mini"
            title="Springs from each to the next, in the order you selected them: they keep their spacing"
            onClick={() => run(linkChains(ids, false))}
          >
            link into a row
          </button>
          <button
            className="mini"
            disabled={parts.length < 3}
            title="A row whose last is linked to its first, as round a skirt"
            onClick={() => run(linkChains(ids, true))}
          >
            link into a ring
          </button>
        </div>
      ) : (
        linked.map(({ other, spring }) => (
          <div
            key={other.id}
            className="presses value-keys"
            role="group"
            aria-label={`Linked with ${other.name}`}
          >
            <b className="small">{other.name}</b>
            <NumberBox
              label="Stiffness of the link"
              unit="Hz"
              value={spring.stiffness}
              onSet={(v) =>
                run(setSprings(first.id, other.id, { stiffness: Math.min(240, Math.max(0.1, v)) }))
              }
            />
            <span className="muted small">Hz, damped</span>
            <NumberBox
              label="Damping of the link"
              value={spring.damping}
              onSet={(v) => run(setSprings(first.id, other.id, { damping: Math.min(4, Math.max(0, v)) }))}
            />
            <button className="mini" onClick={() => run(setSprings(first.id, other.id, null))}>
              unlink
            </button>
          </div>
        ))
      )}
    </>
  );
}
