import { applyEdit, type Shot } from '@oscillum/core/shot';
import { OscillumError } from '@oscillum/core/model';
import { call, CallError } from '../../api/http';
import { shotSlice } from '../shot';
import type { Thunk } from '../store';
import { readKept, type Found } from './kept';
import { replay, union, unsent } from './merge';
import { takenOver } from './sync';

export { startSync } from './sync';

const { opened, asideCleared, edited } = shotSlice.actions;

/**
 * Opens a shot: the server's state with what windows of this browser still have to send; alone when the server is
 * away.
 */
export function openShot(id: string): Thunk<Promise<void>> {
  return async (dispatch) => {
    const kept = await readKept(id);
    const pending = union(kept.map((k) => k.pending));
    const aside = kept.flatMap((k) => k.aside);
    takenOver(id, kept);
    try {
      const theirs = await call('getShot', { params: { id } });
      const known = pending.length > 0 ? await knownSince(id, kept, theirs.revision) : new Set<string>();
      const ours = replay(theirs.shot, unsent(pending, known));
      dispatch(
        opened({
          ...{ id, shot: ours.shot, revision: theirs.revision, pending: ours.pending },
          ...{ aside: [...aside, ...ours.aside], save: ours.pending.length ? 'saving' : 'saved' },
        }),
      );
    } catch (e) {
      const last = kept.at(-1);
      if (!(e instanceof CallError) || !e.passing || !last) throw e;
      dispatch(opened({ id, ...alone(last, pending), aside: [...aside], save: 'offline' }));
    }
  };
}

/** Ids of the edits that the server has beyond what any window knew of. */
async function knownSince(id: string, kept: readonly Found[], revision: number): Promise<Set<string>> {
  const after = Math.min(revision, ...kept.map((k) => k.revision));
  const records = await call('listEdits', { params: { id }, query: { after: String(after) } });
  return new Set(records.map((r) => r.edit.id));
}

/** The shot as the last window left it, with what other windows had to send on top. */
function alone(
  last: Found,
  pending: Found['pending'],
): { shot: Shot; revision: number; pending: Found['pending'] } {
  const own = new Set(last.pending.map((e) => e.id));
  const more = replay(last.shot, unsent(pending, own));
  return { shot: more.shot, revision: last.revision, pending: [...last.pending, ...more.pending] };
}

/** Tries again what was set aside, on the shot as it is now. Returns what still does not fit, by name. */
export function tryAside(): Thunk<string[]> {
  return (dispatch, getState) => {
    const still: string[] = [];
    for (const { edit } of getState().shot.aside) {
      const { shot } = getState().shot;
      if (!shot) continue;
      try {
        const next = applyEdit(shot, edit);
        dispatch(asideCleared([edit.id]));
        dispatch(edited({ shot: next, edit, by: 'hand' }));
      } catch (e) {
        if (!(e instanceof OscillumError)) throw e;
        still.push(edit.name);
      }
    }
    return still;
  };
}

export const letAsideGo = (): Thunk => (dispatch, getState) =>
  void dispatch(asideCleared(getState().shot.aside.map((a) => a.edit.id)));
