import { nodesOf } from '@oscillum/core/shot';
import { useEffect, useMemo, useRef, useState } from 'react';
import { channelKey } from '@oscillum/core/refine';
import { useAppDispatch, useAppSelector } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { useDesk } from '../../kit/desk';
import { Panels } from '../../desk/Panels';
import { StageView } from '../../desk/StageView';
import { ChannelTree } from './ChannelTree';
import { CurveArea } from './CurveArea';
import { pictureOf, type Pictured } from '../../desk/picture';
import { RefineContext, type Chosen, type Copied, type RefineDesk } from './refineDesk';
import { ToolPanel } from './ToolPanel';
import { useRefining, type Refining } from './useRefining';

/** The curves of the bake, to be cleaned by hand. */
export function Refine() {
  const refining = useRefining();
  if (refining.at === 'open') return <Room {...refining} />;
  return (
    <div className="waiting">
      {refining.at === 'baking' ? (
        <p role="status">Baking the curves…</p>
      ) : (
        <p role="alert">{refining.sentence}</p>
      )}
    </div>
  );
}

function Room(refining: Refining) {
  const { character } = useDesk();
  const dispatch = useAppDispatch();
  const shot = useAppSelector((s) => s.shot.shot)!;
  const { joints, parts } = useAppSelector((s) => s.view);
  const [path, setPath] = useState<RefineDesk['path']>('rotation');
  const [picked, setChosen] = useState<Chosen>({});
  const [span, setSpan] = useState<RefineDesk['span']>(null);
  const [untouched, setUntouched] = useState(false);
  const [snap, setSnap] = useState(true);
  const [copied, setCopied] = useState<Copied | null>(null);
  const { now, base, ground } = refining;

  const nodes = useMemo(
    () => [
      ...new Set([...parts.flatMap((id) => (shot.parts[id] ? nodesOf(shot.parts[id]) : [])), ...joints]),
    ],
    [parts, joints, shot.parts],
  );
  const chosen = useMemo(() => keptOf(picked, nodes, path), [picked, nodes, path]);
  // Something is shown at once: the first chain, or the first joint that moves.
  const empty = nodes.length === 0;
  const entered = useRef(false);
  useEffect(() => {
    if (entered.current) return;
    entered.current = true;
    if (!empty) return;
    const first = Object.values(shot.parts)[0];
    const moving = [...base.values()][0]?.node;
    if (first) dispatch(viewSlice.actions.partsSelected({ parts: [first.id] }));
    else if (moving !== undefined) dispatch(viewSlice.actions.jointsSelected({ joints: [moving] }));
  }, [empty, shot.parts, base, dispatch]);

  const shown = untouched ? base : now;
  const before = useRef<Pictured | null>(null);
  const pictured = useMemo(
    // What was read of curves that stay is kept.
    () => (before.current = pictureOf(before.current, shown, character, shot.range, ground)),
    [shown, character, shot.range, ground],
  );
  const desk: RefineDesk = {
    ...refining,
    ...{ nodes, path, chosen, setChosen, span, setSpan, untouched, snap, copied, setCopied },
    nameOf: (node) => character.nodes[node]?.name ?? `joint ${node}`,
    range: shot.range,
  };
  return (
    <RefineContext.Provider value={desk}>
      <Panels
        room="refine"
        left={<ChannelTree base={base} nodes={nodes} />}
        centre={<StageView offers={false} picture={pictured.picture} />}
        bottom={
          <CurveArea
            onPath={setPath}
            onSnap={() => setSnap(!snap)}
            onUntouched={() => setUntouched(!untouched)}
          />
        }
        bottomSize={330}
        right={<ToolPanel />}
      />
    </RefineContext.Provider>
  );
}

/** Chosen keys of what is shown. */
function keptOf(chosen: Chosen, nodes: readonly number[], path: 'rotation' | 'translation'): Chosen {
  const keys = new Set(nodes.map((n) => channelKey(n, path)));
  return Object.fromEntries(Object.entries(chosen).filter(([key]) => keys.has(key)));
}
