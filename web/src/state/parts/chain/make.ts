import { randomId } from '../../../api/ids';
import { PartId, type JointRef } from '@oscillum/core/model';
import { chainSettingsFor, makeChainPart } from '@oscillum/core/chain';
import { partsInOrder } from '@oscillum/core/shot';
import { change } from '../../edits';
import type { Thunk } from '../../store';
import { viewSlice } from '../../view';

/** A row of joints to become a chain, and its length at rest, m. */
export interface ChainRow {
  readonly joints: JointRef[];
  readonly length: number;
}

/** Makes chains of rows of joints and selects them. Throws OscillumError when a joint is taken already. */
export function makeChains(rows: readonly ChainRow[]): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    if (!shot) return;
    const ids: string[] = [];
    const existing = partsInOrder(shot);
    const last = existing.reduce((n, p) => Math.max(n, p.order), -1);
    dispatch(
      change(rows.length === 1 ? 'Make chain' : `Make ${rows.length} chains`, (d) => {
        rows.forEach(({ joints, length }, i) => {
          const id = PartId.parse(`p${randomId(8)}`);
          ids.push(id);
          d.parts[id] = makeChainPart({
            id,
            name: chainName(
              joints,
              existing.map((p) => p.name),
            ),
            order: last + 1 + i,
            joints,
            settings: chainSettingsFor(length),
          });
        });
      }),
    );
    dispatch(viewSlice.actions.partsSelected({ parts: ids }));
    dispatch(viewSlice.actions.jointsSelected({ joints: [] }));
  };
}

/** "plume middle 1" … names a chain "Plume middle". */
function chainName(joints: readonly JointRef[], taken: readonly string[]): string {
  const base =
    joints[0]!.name
      .replace(/[\s._-]*\d+$/, '')
      .replace(/[_.]/g, ' ')
      .trim() || joints[0]!.name;
  const name = (base[0] ?? 'C').toUpperCase() + base.slice(1, 100);
  if (!taken.includes(name)) return name;
  for (let n = 2; ; n++) if (!taken.includes(`${name} ${n}`)) return `${name} ${n}`;
}
