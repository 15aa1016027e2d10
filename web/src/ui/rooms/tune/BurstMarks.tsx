import { inOrder, minds } from '@oscillum/core/model';
import type { Part } from '@oscillum/core/shot';
import { selectShot, useAppSelector } from '../../../state/store';
import { FrameMark } from '../../desk/FrameMark';

/** The bursts that act on a part, in its lane: each is dragged to another frame. */
export function BurstMarks({ part }: { part: Part }) {
  const forces = useAppSelector((s) => selectShot(s)!.forces);
  return inOrder(forces).map((force) => {
    if (force.kind !== 'burst' || force.muted || !minds(force.parts, part.id)) return null;
    const { id, name, frame, frames } = force;
    return (
      <FrameMark
        key={id}
        frame={frame}
        className="burst-mark"
        label={`Frame of ${name}`}
        title={`${name}, a burst of ${frames} frames from frame ${frame}: drag it`}
        edit="Set when it bursts"
        onMove={(to) => (d) => {
          const own = d.forces[id];
          if (own?.kind === 'burst') own.frame = to;
        }}
      />
    );
  });
}
