import type { ChainPart } from '@oscillum/core/chain';
import { letTurn, neighbours, reshapeChain } from '../../../state/parts/chain/joints';
import type { Thunk } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { CheckRow } from '../../kit/Rows';

/** From which joint to which a chain goes, and a joint more or less at either end. */
export function JointsRow({ part, run }: { part: ChainPart; run: (t: Thunk) => void }) {
  const { character } = useDesk();
  const { above, below } = neighbours(character, part);
  const ref = (node: number) => ({ node, name: character.nodes[node]!.name });
  const [first, last] = [part.joints[0]!, part.joints.at(-1)!];
  const shorter = part.joints.length > 1;
  const end = (
    of: 'root' | 'tip',
    name: string,
    more: readonly number[],
    moreSays: string,
    lessSays: string,
  ) => (
    <div className="presses" role="group" aria-label={`Joints at the ${of}`}>
      <span className="muted small">{of}</span> <b className="small">{name}</b>
      {more.slice(0, 4).map((node) => (
        <button
          key={node}
          className="mini"
          title={moreSays}
          onClick={() => run(reshapeChain(part.id, of, ref(node)))}
        >
          + {ref(node).name || `joint ${node}`}
        </button>
      ))}
      <button
        className="mini"
        disabled={!shorter}
        title={lessSays}
        onClick={() => run(reshapeChain(part.id, of, null))}
      >
        take off
      </button>
    </div>
  );
  const { still } = part;
  const stays = {
    first: still.first?.node === above && still.first,
    last: below.includes(still.last?.node ?? -1) && still.last,
  };
  return (
    <>
      <h3>Joints ({part.joints.length})</h3>
      {end(
        'root',
        first.name,
        above === null ? [] : [above],
        'The joint above joins the chain and turns with it',
        'The first joint stays with its source; the chain begins at the next',
      )}
      {end(
        'tip',
        last.name,
        below,
        'The joint below joins the chain',
        'The last joint stays with its source, and becomes the end of the link before it',
      )}
      <CheckRow
        label={`First joint turns (${(stays.first || first).name})`}
        value={!stays.first}
        disabled={!stays.first && !shorter}
        says="Off: it stays with its source, and the chain swings from its end"
        onSet={(on) => run(letTurn(part.id, 'root', on))}
      />
      <CheckRow
        label={`End link on ${(stays.last || last).name}`}
        value={!stays.last}
        disabled={!stays.last && !shorter}
        says="On: the last joint turns as well, with a link of its own to the tip. Off: the chain ends at it"
        onSet={(on) => run(letTurn(part.id, 'tip', on))}
      />
    </>
  );
}
